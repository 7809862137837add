"""The server's network settings: accounts, host names, TLS, and proxies."""

import socket
import ssl
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest
import trustme

from kalendor.errors import DefinitionError
from kalendor.serving import Reach, check
from tests import command
from tests.browser.conftest import free_port

PASSWORD = "a long enough password"


def kalendor(*args: str, told: str = "") -> subprocess.CompletedProcess[str]:
    return command.kalendor(Path.cwd(), *args, sent=told)


@contextmanager
def served(workspace: Path, *args: str) -> Iterator[int]:
    port = free_port()
    with command.started(
        Path.cwd(), "serve", "--workspace", workspace, "--port", str(port), "--workers", "0", *args
    ) as server:
        for _ in range(600):
            assert server.process.is_alive(), server.err.read_text()
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
            time.sleep(0.05)
        assert "Kalendor is at" in server.out.read_text()
        yield port


@pytest.fixture
def workspace(tmp_path: Path) -> Path:
    folder = tmp_path / "workspace"
    assert kalendor("user", "add", "Ada", "--workspace", str(folder), told=PASSWORD + "\n").returncode == 0
    return folder


def asked(base: str, method: str, path: str, verify: object = True, **more: object) -> httpx.Response:
    for attempt in range(50):
        try:
            return httpx.request(method, f"{base}{path}", verify=verify, timeout=30, trust_env=False, **more)  # type: ignore[arg-type]
        except httpx.ConnectError:
            if attempt == 49:
                raise
            time.sleep(0.1)
    raise AssertionError


def test_a_certificate_given_is_served_and_signing_in_works_over_it(workspace: Path, tmp_path: Path) -> None:
    authority = trustme.CA()
    own = authority.issue_cert("localhost", "127.0.0.1")
    own.private_key_and_cert_chain_pem.write_to_path(str(tmp_path / "both.pem"))
    authority.cert_pem.write_to_path(str(tmp_path / "ca.pem"))
    pem = str(tmp_path / "both.pem")

    trusted = ssl.create_default_context(cafile=str(tmp_path / "ca.pem"))
    with served(workspace, "--host-name", "localhost", "--tls-cert", pem, "--tls-key", pem) as port:
        base = f"https://localhost:{port}"
        answer = asked(base, "POST", "/api/session", trusted, json={"name": "Ada", "password": PASSWORD})
        assert answer.status_code == 200
        cookie = answer.headers["set-cookie"]
        assert cookie.startswith(f"__Host-kalendor-{port}=")
        assert asked(base, "GET", "/api/reports", trusted, headers={"Cookie": cookie.split(";")[0]}).status_code == 200
        assert asked(base, "GET", "/api/reports", trusted).status_code == 401


def test_behind_a_proxy_the_names_given_are_answered_to_and_no_others(workspace: Path) -> None:
    with served(workspace, "--behind-proxy", "--host-name", "reports.example") as port:
        base = f"http://127.0.0.1:{port}"
        proxied = {"Host": "reports.example", "X-Forwarded-Proto": "https", "X-Forwarded-For": "203.0.113.7"}
        body = {"name": "Ada", "password": PASSWORD}
        done = asked(base, "POST", "/api/session", headers={**proxied, "Origin": "https://reports.example"}, json=body)
        assert (done.status_code, "Secure" in done.headers["set-cookie"]) == (200, True)
        other = asked(base, "GET", "/api/session", headers={**proxied, "Host": "other.example"})
        plain = asked(base, "POST", "/api/session", headers={**proxied, "X-Forwarded-Proto": "http"}, json=body)
        foreign = asked(base, "POST", "/api/session", headers={**proxied, "Origin": "https://x.example"}, json=body)
        assert (other.status_code, plain.status_code, foreign.status_code) == (403, 403, 403)


def test_without_a_proxy_nobody_can_say_that_a_connection_is_encrypted(workspace: Path) -> None:
    with served(workspace, "--host", "0.0.0.0", "--host-name", "reports.example") as port:
        headers = {"Host": f"reports.example:{port}", "X-Forwarded-Proto": "https"}
        body = {"name": "Ada", "password": PASSWORD}
        answer = asked(f"http://127.0.0.1:{port}", "POST", "/api/session", headers=headers, json=body)
        assert (answer.status_code, "https alone" in answer.json()["detail"]) == (403, True)


@pytest.mark.parametrize("args", [("--host", "0.0.0.0"), ("--host-name", "a.example"), ("--behind-proxy",)])
def test_no_server_that_others_can_reach_starts_without_accounts(tmp_path: Path, args: tuple[str, ...]) -> None:
    done = kalendor("serve", "--workspace", str(tmp_path / "w"), *args)
    assert (done.returncode, "kalendor user add NAME" in done.stderr) == (2, True)


@pytest.mark.parametrize(
    ("reach", "said"),
    [
        (Reach("127.0.0.1", 1, certificate=Path("a.pem")), "go together"),
        (Reach("127.0.0.1", 1, certificate=Path("no.pem"), key=Path("no.pem")), "cannot be used"),
        (Reach("127.0.0.1", 1, names=("https://a.example",)), "write the name alone"),
    ],
)
def test_a_reach_that_cannot_be_is_refused_in_words(reach: Reach, said: str) -> None:
    with pytest.raises(DefinitionError, match=said):
        check(reach, accounts=True)


def test_accounts_are_kept_from_the_shell(workspace: Path) -> None:
    where = ("--workspace", str(workspace))
    assert kalendor("user", "add", "ada", *where, told=PASSWORD).returncode == 2
    short = kalendor("user", "add", "Bo", "--role", "reader", *where, told="short\n")
    assert (short.returncode, "10 to 1,000 characters" in short.stderr) == (2, True)
    assert kalendor("user", "add", "Bo", "--role", "reader", *where, told=PASSWORD).stdout == "Bo: reader\n"
    token = kalendor("user", "token", "Bo", "--for", "wall screen", "--until", "2099-01-31", *where).stdout
    assert token.startswith("kal_")
    listed = kalendor("user", "list", *where).stdout
    assert ("Ada · analyst" in listed, "token 1 of Bo · wall screen · until 2099-01-31" in listed) == (True, True)
    assert token.strip() not in listed
    assert kalendor("user", "withdraw-token", "1", *where).returncode == 0
    assert kalendor("user", "withdraw-token", "9", *where).returncode == 2
    assert kalendor("user", "password", "Bo", *where, told="another long one").returncode == 0
    assert kalendor("user", "sign-out", "Bo", *where).returncode == 0
    assert kalendor("user", "remove", "Bo", *where).returncode == 0
    assert "Bo · reader" not in kalendor("user", "list", *where).stdout
    assert kalendor("user", "token", "Ada", "--for", "x", "--until", "soon", *where).returncode == 2
