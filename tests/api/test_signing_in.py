"""Sign-in and sign-out: sessions and their expiry, rate limits, and where passwords are accepted at all."""

from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from threading import Event

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from kalendor.api.app import create_app
from kalendor.api.signing_in import Attempts
from kalendor.errors import DefinitionError
from kalendor.store.accounts import IDLE, LONGEST
from kalendor.store.workspace import ServerLock
from tests.api.people import NOW, PASSWORD, Browser
from tests.conftest import HASHER_AS_SHIPPED
from tests.editions.conftest import Office


def test_signing_out_here_and_everywhere_and_another_password(office: Office, ada: Browser) -> None:
    other = Browser(office)
    other.sign_in("Ada")
    assert ada.ask("DELETE", "/api/session").status_code == 204
    assert (ada.ask("GET", "/api/reports").status_code, other.ask("GET", "/api/reports").status_code) == (401, 200)
    ada.sign_in("Ada")
    assert other.ask("DELETE", "/api/session/everywhere").status_code == 204
    assert (ada.ask("GET", "/api/reports").status_code, other.ask("GET", "/api/reports").status_code) == (401, 401)
    ada.sign_in("Ada")
    other.sign_in("Ada")
    wrong = ada.ask("PUT", "/api/session/password", {"before": "no", "password": "another long one"})
    assert (wrong.status_code, wrong.json()["detail"]) == (422, "the password before is another")
    short = ada.ask("PUT", "/api/session/password", {"before": PASSWORD, "password": "short"})
    assert (short.status_code, "10 to" in short.json()["detail"]) == (422, True)
    done = ada.ask("PUT", "/api/session/password", {"before": PASSWORD, "password": "another long one"})
    ada.token = done.json()["token"]
    assert (ada.ask("GET", "/api/reports").status_code, other.ask("GET", "/api/reports").status_code) == (200, 401)
    assert Browser(office).sign_in("Ada").status_code == 401


def test_sessions_end_with_time_and_with_the_account(office: Office) -> None:
    accounts = office.desk.accounts
    ada = accounts.named("ADA")
    secret = accounts.begin(ada, NOW)
    assert accounts.by_session(secret, NOW + IDLE - timedelta(minutes=1)) == ada
    assert accounts.by_session(secret, NOW + 2 * IDLE - timedelta(minutes=2)) == ada  # it was used in between
    at = NOW
    while at < NOW + LONGEST:
        assert accounts.by_session(secret, at) == ada
        at += IDLE / 2
    assert accounts.by_session(secret, NOW + LONGEST + timedelta(minutes=1)) is None
    fresh = accounts.begin(ada, NOW)
    accounts.close("Ada", NOW)
    assert accounts.by_session(fresh, NOW) is None
    assert accounts.proven("Ada", PASSWORD) is None
    assert accounts.add("ada", "reader", PASSWORD, NOW).id != ada.id


def timeless(office: Office) -> Browser:
    """A client of a server whose clock does not advance between attempts, however slow the machine."""
    browser = Browser(office)
    application = browser.client.app
    assert isinstance(application, FastAPI)
    application.state.attempts = Attempts(lambda: 0.0)
    return browser


def test_a_wrong_password_and_a_wrong_name_are_told_alike_and_tries_are_held_up(office: Office) -> None:
    browser = timeless(office)
    said = [browser.sign_in(name, "wrong password").json() for name in ("Ada", "Nobody")]
    assert said[0] == said[1]
    for _ in range(4):
        browser.sign_in("Ada", "wrong password")
    held = browser.sign_in("Ada")
    assert held.status_code == 429
    assert int(held.headers["retry-after"]) >= 1
    assert not held.headers.get("set-cookie")


@given(st.lists(st.tuples(st.sampled_from("ab"), st.sampled_from("xyz"), st.booleans(), st.floats(0, 44)), max_size=80))
def test_waits_grow_with_failures_and_end(tries: list[tuple[str, str, bool, float]]) -> None:
    """Compared with a plain count of the failures within the hour after which they expire."""
    now = [0.0]
    attempts = Attempts(lambda: now[0])
    pairs: Counter[tuple[str, str]] = Counter()
    of_name: Counter[str] = Counter()
    of_address: Counter[str] = Counter()
    last: dict[object, float] = {}

    def due(count: int, free: int, at: object, most: float = 900.0) -> float:
        return max(0.0, last.get(at, 0.0) + min(most, 2.0 ** (count - free)) - now[0]) if count >= free else 0.0

    for name, address, right, pause in tries:
        now[0] += pause
        if attempts.wait(name, address) == 0:
            own = (name, address)
            if right:
                of_address[address] -= pairs[own]
                pairs[own] = of_name[name] = 0
                attempts.succeeded(name, address)
            else:
                if pairs[own] < 3:  # an address adds but three to a name that others wait for
                    of_name[name] += 1
                    last[name] = now[0]
                pairs[own] += 1
                of_address[address] += 1
                last[own] = last[address] = now[0]
                attempts.failed(name, address)
        everywhere = min(60.0, due(of_name[name], 15, name))
        own_wait = due(pairs[name, address], 5, (name, address))
        expected = max(own_wait, due(of_address[address], 20, address), everywhere)
        assert attempts.wait(name, address) == pytest.approx(expected)


def test_one_address_locks_nobody_out_elsewhere() -> None:
    now = [0.0]
    attempts = Attempts(lambda: now[0])
    for _ in range(5_000):
        now[0] += 1
        attempts.begun("ada", "bad")
    assert attempts.wait("ada", "bad") > 60
    assert attempts.wait("ada", "good") == 0
    for n in range(200):
        attempts.begun("ada", f"bad {n}")
    assert 0 < attempts.wait("ada", "good") <= 60


def test_tries_at_once_are_counted_before_they_are_heard(office: Office) -> None:
    browser = timeless(office)
    with ThreadPoolExecutor(20) as many:
        answers = list(many.map(lambda _: browser.sign_in("Ada", "wrong password").status_code, range(40)))
    assert answers.count(401) <= 5
    assert set(answers) <= {401, 429, 503}


def test_where_accounts_vanish_a_server_that_others_reach_refuses(office: Office) -> None:
    guarded = TestClient(create_app(office.desk, guarded=True))
    with office.desk.workspace.change() as db:
        db.execute("DELETE FROM session")
        db.execute("DELETE FROM machine_token")
        db.execute("DELETE FROM account")
    assert guarded.get("/api/reports").status_code == 401
    assert TestClient(create_app(office.desk)).get("/api/reports").status_code == 200


def test_the_last_analyst_stays_while_others_reach_the_server(office: Office) -> None:
    accounts, folder = office.desk.accounts, office.desk.workspace.folder
    for one in accounts.all():
        if one.role == "analyst" and one.name != "Ada":
            accounts.close(one.name, NOW)
    lock = ServerLock(folder, "https://reports.example", others=True)
    with pytest.raises(DefinitionError, match="last analyst"):
        accounts.close("Ada", NOW)
    lock.let_go()
    lock = ServerLock(folder, "http://127.0.0.1:1")
    accounts.close("Ada", NOW)
    lock.let_go()


def test_over_tls_only_the_cookie_with_its_prefix_is_heeded_and_transport_is_strict(office: Office) -> None:
    safe = TestClient(create_app(office.desk, {"reports.example"}, 443), base_url="https://reports.example")
    told = safe.post("/api/session", json={"name": "Ada", "password": PASSWORD})
    secret = safe.cookies["__Host-kalendor-443"]
    assert told.headers["strict-transport-security"].startswith("max-age=")
    bare = TestClient(create_app(office.desk, {"reports.example"}, 443), base_url="https://reports.example")
    assert bare.get("/api/reports", headers={"cookie": f"kalendor-443={secret}"}).status_code == 401
    assert bare.get("/api/reports", headers={"cookie": f"__Host-kalendor-443={secret}"}).status_code == 200


@pytest.mark.parametrize(("client", "host", "proxy", "status"), [("10.1.2.3", "127.0.0.1", False, 403), ("127.0.0.1", "127.0.0.1", True, 403), ("127.0.0.1", "127.0.0.1", False, 200)])  # fmt: skip
def test_a_password_from_outside_is_not_taken_over_plain_http_whatever_the_host_says(
    office: Office, client: str, host: str, proxy: bool, status: int
) -> None:
    app = create_app(office.desk, behind_proxy=proxy)
    plain = TestClient(app, base_url=f"http://{host}", client=(client, 50_000))
    assert plain.post("/api/session", json={"name": "Ada", "password": PASSWORD}).status_code == status


def test_a_long_write_holds_up_no_look_up_of_a_session(office: Office) -> None:
    accounts = office.desk.accounts
    ada = accounts.named("Ada")
    secret = accounts.begin(ada, NOW)
    begun, go_on = Event(), Event()

    def write() -> None:
        with office.desk.workspace.change():
            begun.set()
            go_on.wait(20)

    with ThreadPoolExecutor(1) as beside:
        done = beside.submit(write)
        begun.wait(5)
        assert accounts.by_session(secret, NOW + timedelta(hours=2)) is not None
        assert not done.done()
        go_on.set()


def test_one_account_does_not_open_others_to_guessing() -> None:
    now = [0.0]
    attempts = Attempts(lambda: now[0])
    heard = 0
    for n in range(2_000):  # in an hour and more, a guess at another's password and a sign-in of one's own by turns
        now[0] += 2
        if attempts.wait(f"name {n % 400}", "there") == 0:
            attempts.failed(f"name {n % 400}", "there")
            heard += 1
        if attempts.wait("own", "there") == 0:
            attempts.succeeded("own", "there")
    assert heard < 40
    for _ in range(2_000):  # for weeks, as soon as a try is heard
        now[0] += attempts.wait("dogged", "far")
        attempts.failed("dogged", "far")
    assert attempts.wait("dogged", "far") == 900
    now[0] += 3_600
    assert attempts.wait("name 1", "there") == 0


def test_passwords_are_taken_over_https_alone_or_from_this_machine(office: Office) -> None:
    plain = TestClient(create_app(office.desk, {"reports.example"}), base_url="http://reports.example")
    refused = plain.post("/api/session", json={"name": "Ada", "password": PASSWORD})
    assert (refused.status_code, "https alone" in refused.json()["detail"]) == (403, True)
    safe = TestClient(create_app(office.desk, {"reports.example"}, 443), base_url="https://reports.example")
    done = safe.post("/api/session", json={"name": "Ada", "password": PASSWORD})
    assert done.status_code == 200
    assert done.headers["set-cookie"].startswith("__Host-kalendor-443=")
    assert "secure" in done.headers["set-cookie"].lower()
    assert safe.get("/api/reports").status_code == 200


def test_a_password_is_kept_as_argon2id_with_the_parameters_of_rfc_9106() -> None:
    assert HASHER_AS_SHIPPED.hash("a password").startswith("$argon2id$v=19$m=65536,t=3,p=4$")
