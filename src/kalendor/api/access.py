"""Authentication and authorization: sessions by cookie, API tokens, and the CSRF token that every change made by a page
carries."""

import hashlib
import hmac
import secrets
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from http.cookies import CookieError, SimpleCookie

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from kalendor.api.problems import problem
from kalendor.core.values.notation import Notation, written_in
from kalendor.desk.desk import Desk
from kalendor.desk.notation import notation
from kalendor.errors import StoreError
from kalendor.store.accounts import Role
from kalendor.store.workspace import WHO

TOKEN_KEY = "token key"
TOKEN_HEADER = "x-kalendor-token"
CALLER = "kalendor.caller"
READING = ("GET", "HEAD", "OPTIONS")
OPEN_TO_ALL = ("/api/session", "/api/read/")
OPEN_TO_READERS = ("/api/published", "/api/session/everywhere", "/api/session/password")
LOCAL = {"127.0.0.1", "localhost", "::1", "testserver"}


@dataclass(frozen=True)
class Caller:
    """The caller of a request: its account (empty if none is required or given), its role (None for none), the secret
    of its page's `session`, or whether it is a `machine`; one with a `source` may only import files into that."""

    name: str
    role: Role | None
    session: str = ""
    machine: bool = False
    source: int | None = None


class Sessions:
    """Identifies callers. `port` is part of the cookie's name, so that servers on other ports of a host have others;
    with `guarded`, the server is reachable from elsewhere, and an account is always required, even if the last one is
    removed while it runs."""

    def __init__(self, desk: Desk, port: int | None = None, guarded: bool = False) -> None:
        self.desk, self._cookie = desk, f"kalendor-{port}" if port else "kalendor"
        self.guarded = guarded
        self._key: bytes | None = None

    def cookie(self, secure: bool) -> str:
        """The cookie's name; the prefix marks one that is sent over encrypted connections only."""
        return f"__Host-{self._cookie}" if secure else self._cookie

    def caller(self, headers: Headers, now: datetime, secure: bool) -> Caller:
        """The caller, by the request's cookie or token; `secure`: it came over an encrypted connection."""
        accounts = self.desk.accounts
        session = self._session(headers, secure)
        if not accounts.any():
            return Caller("", None if self.guarded else "analyst", session)
        scheme, _, given = headers.get("authorization", "").partition(" ")
        if scheme.lower() == "bearer":
            machine = accounts.by_token(given.strip(), now.date())
            if machine is None:
                return Caller("", None)
            account, source = machine
            return Caller(account.name, account.role, machine=True, source=source)
        known = accounts.by_session(session, now) if session else None
        self._token_key()  # read here, in a worker thread, and not in the event loop
        return Caller(known.name, known.role, session) if known else Caller("", None)

    def _session(self, headers: Headers, secure: bool) -> str:
        jar: SimpleCookie = SimpleCookie()
        try:
            jar.load(headers.get("cookie", ""))
        except CookieError:
            return ""
        found = jar.get(self.cookie(secure))
        return found.value if found else ""

    def token(self, session: str) -> str:
        """The CSRF token of a session, sent with its changes."""
        return hmac.new(self._token_key(), session.encode("utf-8", "replace"), hashlib.sha256).hexdigest()

    def _token_key(self) -> bytes:
        """Stored in the workspace, so that open pages survive a restart of the server."""
        if self._key is None:
            workspace, told = self.desk.workspace, secrets.token_hex(32)
            with suppress(StoreError), workspace.change():  # a workspace that is only read needs no key
                told = workspace.told(TOKEN_KEY) or told
                workspace.tell(TOKEN_KEY, told)
            self._key = bytes.fromhex(told)
        return self._key


class Access:
    """ASGI middleware that authorizes requests, and records the caller."""

    def __init__(self, app: ASGIApp, sessions: Sessions) -> None:
        self.app, self.sessions = app, sessions

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = str(scope.get("path", ""))
        if scope["type"] != "http" or not path.startswith("/api"):
            await self.app(scope, receive, send)
            return
        headers, method = Headers(scope=scope), str(scope["method"])
        secure = scope.get("scheme") == "https"
        caller, written = await run_in_threadpool(self._asking, headers, secure)
        refused = self._refused(caller, method, path, headers)
        if refused is not None:
            await problem(*refused)(scope, receive, send)
            return
        scope[CALLER] = caller
        told = WHO.set(caller.name)
        try:
            with written_in(written):
                await self.app(scope, receive, send)
        finally:
            WHO.reset(told)

    def _asking(self, headers: Headers, secure: bool) -> tuple[Caller, Notation]:
        """The caller of a request, and the notation of its answer; to be run in a worker thread."""
        return self.sessions.caller(headers, datetime.now(), secure), notation(self.sessions.desk)

    def _refused(self, caller: Caller, method: str, path: str, headers: Headers) -> tuple[int, str] | None:
        """The status and the message with which a request is refused; None if it is allowed."""
        if _within(path, OPEN_TO_ALL) and not _within(path, OPEN_TO_READERS):
            return None
        if caller.role is None:
            return 401, "sign in first"
        if caller.source is not None:
            own = method == "POST" and path == f"/api/sources/{caller.source}/files"
            return None if own else (403, "this token brings files in to one source, and does nothing else")
        if caller.machine and method not in READING:
            return 403, "a token for machines reads, and changes nothing"
        if caller.role == "reader" and not _within(path, OPEN_TO_READERS):
            return 403, "readers read what is issued; ask an analyst for more"
        if method not in READING and not caller.machine and self._by_a_page(caller, headers):
            given = headers.get(TOKEN_HEADER, "")
            if not caller.session or not hmac.compare_digest(
                given.encode("utf-8", "replace"), self.sessions.token(caller.session).encode()
            ):
                return 403, "this page was opened in another session; load it again"
        return None

    def _by_a_page(self, caller: Caller, headers: Headers) -> bool:
        """Whether a change comes from a browser, which a page of another site could cause to send it: it has a
        session's cookie, or headers that no script can set. Where no account is required, other programs of this
        machine need no token."""
        return bool(caller.name or caller.session) or ("sec-fetch-site" in headers and "sec-fetch-mode" in headers)


def _within(path: str, prefixes: tuple[str, ...]) -> bool:
    return any(path == prefix.rstrip("/") or path.startswith(f"{prefix.rstrip('/')}/") for prefix in prefixes)
