"""HTTP caching of editions for readers (RFC 9110, 9111): strong validators, in the browser and in a real proxy."""

import json
import os
import re
import shutil
import socket
import subprocess
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import uvicorn
from fastapi.testclient import TestClient

from kalendor.api.app import create_app
from tests.api.people import NOW, PASSWORD, Browser
from tests.editions.conftest import Office

DOCUMENTED = Path(__file__).parents[2] / "docs" / "running.md"


@pytest.fixture
def office(tmp_path: Path) -> Office:
    return Office(tmp_path / "workspace")


class Shared:
    """A report with one issued edition, and a link to it."""

    def __init__(self, office: Office, client: TestClient) -> None:
        self.client, self.report = client, office.stored.id
        self.edition = office.issue("2026-06").edition
        self.link = client.post(f"/api/reports/{self.report}/links", json={"trail": "records"}).json()
        self.at = f"/api{self.link['path']}/editions/{self.edition.id}"

    @property
    def named(self) -> str:
        return f"sha256={self.edition.sha256}"


@pytest.fixture
def shared(office: Office) -> Shared:
    return Shared(office, TestClient(create_app(office.desk)))


def test_an_answer_is_kept_where_its_address_names_the_digest(shared: Shared) -> None:
    key = shared.client.get(f"{shared.at}/sheet").json()["key"]
    paths = ("/sheet", "/file?format=csv", f"/sheets/{key}/trail?figure=Amount", f"/sheets/{key}/records?figure=Amount")
    for path in paths:
        asked = f"{shared.at}{path}{'&' if '?' in path else '?'}{shared.named}"
        answer = shared.client.get(asked)
        assert answer.status_code == 200, answer.text
        assert answer.headers["cache-control"] == "public, max-age=3600, immutable"
        tag = answer.headers["etag"]
        again = shared.client.get(asked, headers={"If-None-Match": f'"other", W/{tag}'})
        assert (again.status_code, again.content, again.headers["etag"]) == (304, b"", tag)
        assert "content-type" not in again.headers
        other = shared.client.get(asked, headers={"If-None-Match": '"other"'})
        assert (other.status_code, other.content) == (200, answer.content)


def test_without_the_digest_an_answer_is_asked_for_again(shared: Shared) -> None:
    key = shared.client.get(f"{shared.at}/sheet").json()["key"]
    for path in ("", "/sheet", f"/sheets/{key}/records?figure=Amount&search=sha256=0"):
        answer = shared.client.get(shared.at + path)
        assert answer.headers["cache-control"] == "public, no-cache"
        assert shared.client.get(shared.at + path, headers={"If-None-Match": answer.headers["etag"]}).status_code == 304


def test_what_changes_beside_an_edition_changes_its_validator(shared: Shared, office: Office) -> None:
    """The view lists the other editions, so a new one must be visible at once."""
    before = shared.client.get(shared.at).headers["etag"]
    office.issue("2026-07")
    after = shared.client.get(shared.at, headers={"If-None-Match": before})
    assert after.status_code == 200
    assert after.headers["etag"] != before


def test_another_digest_a_wrong_one_and_a_withdrawn_link_are_not_kept(shared: Shared) -> None:
    for digest, status in (("0" * 64, 404), ("short", 422)):
        refused = shared.client.get(f"{shared.at}/sheet?sha256={digest}")
        assert refused.status_code == status
        assert "etag" not in refused.headers
    known = shared.client.get(f"{shared.at}/sheet?{shared.named}").headers["etag"]
    shared.client.delete(f"/api/links/{shared.link['id']}")
    gone = shared.client.get(f"{shared.at}/sheet?{shared.named}", headers={"If-None-Match": known})
    assert gone.status_code in (403, 404, 410)
    assert "immutable" not in gone.headers.get("cache-control", "")


def test_what_an_account_opens_is_kept_by_its_browser_alone(office: Office) -> None:
    ada = Browser(office)
    edition = office.issue("2026-06").edition
    office.desk.accounts.add("Ada", "analyst", PASSWORD, NOW)
    ada.sign_in("Ada")
    answer = ada.ask("GET", f"/api/published/editions/{edition.id}/sheet?sha256={edition.sha256}")
    assert answer.headers["cache-control"] == "private, max-age=31536000, immutable"


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Counted:
    """The application, and the paths of the requests that reached it."""

    def __init__(self, app: Any) -> None:
        self.app, self.paths = app, list[str]()

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] == "http":
            self.paths.append(scope["path"])
        await self.app(scope, receive, send)


@pytest.fixture
def proxied(office: Office, tmp_path: Path) -> Iterator[tuple[Counted, str]]:
    """The server behind nginx, configured as documented."""
    nginx = shutil.which("nginx", path="/usr/sbin:/usr/bin:/usr/local/sbin")
    if nginx is None:
        pytest.skip("nginx is not installed")
    own, outer = free_port(), free_port()
    app = Counted(create_app(office.desk, port=None))
    server = uvicorn.Server(uvicorn.Config(app, port=own, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    (block,) = re.findall(r"```nginx\n(.+?)```", DOCUMENTED.read_text(), re.DOTALL)
    block = block.replace("/var/cache/nginx/kalendor", str(tmp_path / "cache")).replace("8765", str(own))
    block = block.replace("server {", f"server {{\n    listen 127.0.0.1:{outer};")
    places = "".join(
        f"{kind}_temp_path {tmp_path / kind};\n" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    user = "user root;\n" if os.getuid() == 0 else ""
    config = tmp_path / "nginx.conf"
    config.write_text(
        f"{user}daemon off;\npid {tmp_path / 'pid'};\nevents {{}}\nhttp {{\naccess_log off;\n{places}{block}}}\n"
    )
    process = subprocess.Popen([nginx, "-c", str(config), "-e", str(tmp_path / "errors")], stderr=subprocess.PIPE)
    address = f"http://127.0.0.1:{outer}"
    for _ in range(100):
        try:
            urllib.request.urlopen(f"{address}/api/read/none", timeout=1)
        except urllib.error.HTTPError as error:
            if error.code != 502:
                break
        except OSError:
            assert process.poll() is None, (tmp_path / "errors").read_text()
        time.sleep(0.05)
    yield app, address
    process.terminate()
    process.wait()
    server.should_exit = True
    thread.join()


def test_a_proxy_answers_for_the_server(office: Office, proxied: tuple[Counted, str]) -> None:
    app, address = proxied
    shared = Shared(office, TestClient(app.app))

    def ask(path: str) -> tuple[str, bytes]:
        with urllib.request.urlopen(address + shared.at + path) as answer:
            return answer.headers["X-Cache-Status"], answer.read()

    first = ask(f"/sheet?{shared.named}")
    app.paths.clear()
    again = [ask(f"/sheet?{shared.named}") for _ in range(3)]
    assert first[0] == "MISS"
    assert again == [("HIT", first[1])] * 3
    assert app.paths == [], "the server was asked for what the proxy has"
    assert [ask("/sheet"), ask("/sheet")] == [("MISS", first[1])] * 2
    assert len(app.paths) == 2, "an address that does not name the edition's digest is not kept"
    office.issue("2026-07")
    assert len(json.loads(ask("")[1])["beside"]) == 2
