"""Routes for signing in and out, and for passwords; rate limits attempts."""

import secrets
import time
from collections import OrderedDict
from collections.abc import Callable
from datetime import datetime
from threading import BoundedSemaphore, Lock
from typing import Annotated

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import JSONResponse
from pydantic import Field

from kalendor.api.access import CALLER, LOCAL, Caller, Sessions
from kalendor.api.desk import AtDesk
from kalendor.api.guards import address_of
from kalendor.api.notation_models import NotationView
from kalendor.api.problems import problem
from kalendor.api.strict import BaseModel
from kalendor.desk.notation import notation
from kalendor.store.accounts import LONGEST, Account, Role

router = APIRouter(prefix="/api/session", tags=["session"])
FREE, FREE_FROM, FREE_FOR_ALL = (
    5,
    20,
    15,
)  # failures without a delay: of a name from an address, of an address, of a name
ANYWHERE = "anywhere"
LONGEST_WAIT, FORGOTTEN, MOST_FAILED = 900.0, 3_600.0, 30_000
PER_ADDRESS = 3  # failures from one address that count towards a name's limit for all others
LONGEST_FOR_ALL = 60.0
HASHING = BoundedSemaphore(2)  # each needs 64 MiB
WAITING = BoundedSemaphore(8)  # threads for signing in, so that other requests are still answered


class SessionView(BaseModel):
    """The session: `accounts` says whether an account is required; `token` is sent with every change, in
    X-Kalendor-Token; `notation` is that of the workspace."""

    accounts: bool
    name: str
    role: Role | None
    token: str
    notation: NotationView


class SignIn(BaseModel):
    """A name and a password."""

    name: Annotated[str, Field(max_length=200)]
    password: Annotated[str, Field(max_length=2000)]


class NewPassword(BaseModel):
    """A new password, with the current one."""

    before: Annotated[str, Field(max_length=2000)]
    password: Annotated[str, Field(max_length=2000)]


class Attempts:
    """Rate limits for signing in: after some failures a delay of a second, doubled each time. Counted for a name from
    an address, for an address, and, with a higher limit and a short delay, for a name, to which one address contributes
    only a few: so nobody can lock another user out. Failures are forgotten an hour after the last. Signing in clears
    the failures of one's own name only: otherwise one account would be enough to try others' passwords without limit.

    An attempt counts as a failure from its beginning until it succeeds, so that concurrent attempts are limited too.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock, self._lock = clock, Lock()
        self._failed: OrderedDict[tuple[str, str], tuple[int, float]] = OrderedDict()

    def wait(self, name: str, address: str = "") -> float:
        """Seconds until the next attempt is allowed."""
        with self._lock:
            return self._wait(name, address)

    def begun(self, name: str, address: str = "") -> float:
        """Count an attempt as failed until it succeeds; or the seconds to wait, if it is not allowed."""
        with self._lock:
            wait = self._wait(name, address)
            if wait <= 0:
                self._note(name, address)
            return wait

    def failed(self, name: str, address: str = "") -> None:
        """Count a failure."""
        with self._lock:
            self._note(name, address)

    def _wait(self, name: str, address: str) -> float:
        own = self._pause((name, address or ANYWHERE), FREE)
        everywhere = min(LONGEST_FOR_ALL, self._pause((name, ""), FREE_FOR_ALL))
        return max(own, everywhere, self._pause(("", address), FREE_FROM) if address else 0.0)

    def _note(self, name: str, address: str) -> None:
        own = (name, address or ANYWHERE)
        counted = [
            own,
            *([("", address)] if address else []),
            *([(name, "")] if self._count(own) < PER_ADDRESS else []),
        ]
        for key in counted:
            self._failed[key] = (self._count(key) + 1, self._clock())
            self._failed.move_to_end(key)
        while len(self._failed) > MOST_FAILED:
            self._failed.popitem(last=False)

    def succeeded(self, name: str, address: str = "") -> None:
        """Clear the failures of a name, which no longer count for its address either."""
        with self._lock:
            own = self._count((name, address)) if address else 0
            for key in ((name, ""), (name, address or ANYWHERE)):
                self._failed.pop(key, None)
            if own and ("", address) in self._failed:
                count, at = self._failed[("", address)]
                self._failed[("", address)] = (max(0, count - own), at)

    def _count(self, key: tuple[str, str]) -> int:
        count, at = self._failed.get(key, (0, 0.0))
        return count if self._clock() - at < FORGOTTEN else 0

    def _pause(self, key: tuple[str, str], free: int) -> float:
        count, at = self._count(key), self._failed.get(key, (0, 0.0))[1]
        pause = min(LONGEST_WAIT, 2.0 ** min(count - free, 10))  # the longest delay is reached before
        return max(0.0, at + pause - self._clock()) if count >= free else 0.0


async def _caller(request: Request) -> Caller:
    found: Caller = request.scope[CALLER] if CALLER in request.scope else Caller("", None)
    return found


async def _sessions(request: Request) -> Sessions:
    found: Sessions = request.app.state.sessions
    return found


Asking = Annotated[Caller, Depends(_caller)]
AtSessions = Annotated[Sessions, Depends(_sessions)]


@router.get("")
def session(request: Request, response: Response, desk: AtDesk, caller: Asking, sessions: AtSessions) -> SessionView:
    """Return who is signed in, and the token to send with changes."""
    caller = sessions.caller(request.headers, datetime.now(), _secure(request))
    accounts = desk.accounts.any()
    if not accounts and not caller.session and caller.role is not None:
        caller = Caller("", "analyst", secrets.token_urlsafe(32))
        _keep(request, response, sessions, caller.session)
    token = sessions.token(caller.session) if caller.session and caller.role else ""
    written = NotationView.of(notation(desk))
    return SessionView(accounts=accounts, name=caller.name, role=caller.role, token=token, notation=written)


@router.post("", response_model=SessionView)
def sign_in(
    request: Request, response: Response, desk: AtDesk, sessions: AtSessions, given: SignIn
) -> Response | SessionView:
    """Sign in."""
    if not _may_take_passwords(request):
        return problem(403, "a password is taken over https alone; open Kalendor by its https address")
    attempts: Attempts = request.app.state.attempts
    tried = given.name.strip().casefold(), request.client.host if request.client else ""
    wait = attempts.begun(*tried)
    if wait > 0:
        refused = problem(
            429, f"too many tries; wait {wait:.0f} seconds" if wait >= 1 else "too many tries; wait a second"
        )
        refused.headers["Retry-After"] = str(max(1, round(wait)))
        return refused
    if not WAITING.acquire(blocking=False):
        return _busy()
    try:
        with HASHING:
            account = desk.accounts.proven(given.name, given.password)
    finally:
        WAITING.release()
    if account is None:
        return problem(401, "there is no such name with this password")
    attempts.succeeded(*tried)
    return _begun(request, response, desk, sessions, account)


@router.delete("", status_code=204)
def sign_out(request: Request, response: Response, desk: AtDesk, sessions: AtSessions) -> None:
    """Sign out of this session."""
    caller = sessions.caller(request.headers, datetime.now(), _secure(request))
    if caller.session:
        desk.accounts.end(caller.session)
    response.delete_cookie(sessions.cookie(_secure(request)), path="/", secure=_secure(request), httponly=True)


@router.delete("/everywhere", status_code=204)
def sign_out_everywhere(
    request: Request, response: Response, desk: AtDesk, caller: Asking, sessions: AtSessions
) -> None:
    """Sign out of all sessions of your account."""
    if caller.name:
        desk.accounts.end_all(caller.name)
    response.delete_cookie(sessions.cookie(_secure(request)), path="/", secure=_secure(request), httponly=True)


@router.put("/password", response_model=SessionView)
def change_password(
    request: Request, response: Response, desk: AtDesk, caller: Asking, sessions: AtSessions, given: NewPassword
) -> Response | SessionView:
    """Change your password and end all other sessions."""
    if not _may_take_passwords(request):
        return problem(403, "a password is taken over https alone; open Kalendor by its https address")
    attempts: Attempts = request.app.state.attempts
    tried = caller.name.casefold(), request.client.host if request.client else ""
    if not caller.name or attempts.begun(*tried) > 0:
        return problem(429 if caller.name else 422, "wait a little, and sign in first")
    if not WAITING.acquire(blocking=False):
        return _busy()
    try:
        with HASHING:
            account = desk.accounts.proven(caller.name, given.before)
            if account is None:
                return problem(422, "the password before is another")
            desk.accounts.set_password(caller.name, given.password)
    finally:
        WAITING.release()
    attempts.succeeded(*tried)
    return _begun(request, response, desk, sessions, account)


def _begun(request: Request, response: Response, desk: AtDesk, sessions: Sessions, account: Account) -> SessionView:
    secret = desk.accounts.begin(account, datetime.now())
    _keep(request, response, sessions, secret)
    written = NotationView.of(notation(desk))
    return SessionView(
        accounts=True, name=account.name, role=account.role, token=sessions.token(secret), notation=written
    )


def _keep(request: Request, response: Response, sessions: Sessions, secret: str) -> None:
    secure = _secure(request)
    response.set_cookie(
        sessions.cookie(secure), secret, max_age=int(LONGEST.total_seconds()), path="/", secure=secure, httponly=True,
        samesite="strict",
    )  # fmt: skip
    response.headers["Cache-Control"] = "no-store"


def _secure(request: Request) -> bool:
    return request.url.scheme == "https"


def _may_take_passwords(request: Request) -> bool:
    """Whether the connection is encrypted, or from this machine to itself, whatever the request says about its host; a
    proxy's requests come from elsewhere, wherever the proxy runs."""
    if _secure(request) or request.app.state.behind_proxy:
        return _secure(request)
    host = address_of(request.headers.get("host", ""), request.url.scheme)
    client = request.client.host if request.client else ""
    return host is not None and host[0] in LOCAL and client in (*LOCAL, "testclient")


def _busy() -> JSONResponse:
    refused = problem(503, "many are signing in; try again in a moment")
    refused.headers["Retry-After"] = "1"
    return refused
