"""What leaves the workspace: a member's file depends on no other member, delivery writes only to allowed folders and
overwrites nothing, mail is protected."""

import re
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from kalendor.api.app import create_app
from kalendor.definitions.addresses import address, host
from kalendor.definitions.recurring import Delivery
from kalendor.desk.editions.folders import folder_for, put
from kalendor.desk.editions.parcels import what_is_sent
from kalendor.desk.editions.sending import PASSWORD, PASSWORD_HOST, MailServer, Sent, message_of
from kalendor.desk.handing_over import TakenAway
from kalendor.errors import DefinitionError
from kalendor.output.names import file_stem
from kalendor.output.writers import FORMS
from tests.desk.test_bringing_in import bring
from tests.editions.conftest import HEAD, Office
from tests.editions.test_sending import delivery, texts_in

FIGURES: list[dict[str, Any]] = [
    {"name": "Amount", "take": "sum", "of": "amount"},
    {"name": "Typical", "take": "median", "of": "amount"},
    {"name": "Of all", "share": "Amount", "of_total": "all"},
    {"name": "Of column", "share": "Amount", "of_total": "column"},
    {"name": "Of group", "share": "Amount", "of_total": "parent"},
    {"name": "Place", "rank": "Amount", "within": "all"},
    {"name": "Place here", "rank": "Amount", "within": "parent"},
    {"name": "Down", "running": "Amount", "along": "lines"},
    {"name": "To ky", "compare": "Amount", "with": {"member": "ky"}, "as": "difference"},
    {"name": "Twice", "formula": "\"Of all\" * 2"},
    {"name": "Before", "compare": "Amount", "with": "period_before", "as": "difference"},
    {"name": "Stock", "take": "balance", "of": "amount", "by": "day", "keys": ["kind"]},
]  # fmt: skip
OTHERS = [
    "2026-06-11,ky,6.00\n2026-06-30,ky,3.00\n",
    "2026-06-02,ky,600.00\n2026-06-29,kz,3.00\n2026-06-30,kz,-81.00\n",
]


@pytest.mark.parametrize("form", FORMS)
def test_no_cell_of_a_part_depends_on_a_record_of_another_member(tmp_path: Path, form: str) -> None:
    told = []
    for n, others in enumerate(OTHERS):
        office = Office(tmp_path / str(n))
        june = f"2026-06-01,kx,20.00\n2026-06-21,kx,1.00\n{others}"
        bring(office.desk, HEAD + june, "june.csv", "Sales", join="replace_all")
        office.report(
            down=[{"category": "kind"}, {"period": "day", "grains": ["day"]}], figures=FIGURES, window=None,
            lines=[{"name": "Both", "level": "kind", "formula": "kx + ky"}],
        )  # fmt: skip
        id = office.issue("2026-06").edition.id
        sent = what_is_sent(office.desk, id, delivery(("a@x.example", "kx"), level="kind", formats=[form]), "kx")
        text = texts_in(sent.files[0].content, sent.files[0].name)
        told.append(re.sub(r"[0-9a-f]{12,}|sealed \S+|\d\d:\d\d:\d\d\S*", "", text))
        assert not re.search(r"\bky\b", text.replace("To ky", ""))
    assert told[0] == told[1]
    assert "Amount" in told[0]


def test_what_is_left_out_of_a_part_is_told_in_it_and_before(tmp_path: Path) -> None:
    office = Office(tmp_path / "w")
    office.report(down=[{"category": "kind"}], figures=FIGURES)
    id = office.issue("2026-06").edition.id
    said = TestClient(create_app(office.desk)).get(f"/api/editions/{id}/parts").json()
    assert said["left_out"] == ["Of all", "Of column", "Place", "Down", "To ky", "Twice", "Stock"]
    sent = what_is_sent(office.desk, id, delivery(("a@x.example", "kx"), level="kind", formats=["html"]), "kx")
    assert "are left out" in sent.files[0].content.decode()
    office.report(down=[{"category": "kind"}], figures=[{**FIGURES[0], "hide": True}, *FIGURES[2:4]])
    id = office.issue("2026-06").edition.id
    with pytest.raises(DefinitionError, match="would hold nothing"):
        what_is_sent(office.desk, id, delivery(("a@x.example", "kx"), level="kind"), "kx")


@given(st.text(max_size=400), st.text(min_size=1, max_size=30))
def test_a_files_name_fits_and_keeps_what_comes_after(title: str, after: str) -> None:
    stem = file_stem(title, after)
    assert len(stem.encode()) <= 200
    assert stem
    assert stem.endswith(file_stem(after, "").removesuffix("sheet") if any(c.isalnum() for c in after) else "")
    assert not set(stem) & set("/\\\0.:")


def test_what_lies_in_a_folder_is_never_overwritten_by_another(tmp_path: Path) -> None:
    for content in (b"one", b"two", b"one", b"three"):
        put(tmp_path, [TakenAway("a.csv", "text/csv", content)])
    assert {p.name: p.read_bytes() for p in tmp_path.iterdir()} == {
        "a.csv": b"one",
        "a-2.csv": b"two",
        "a-3.csv": b"three",
    }


def test_files_go_only_beneath_folders_that_the_server_was_started_with(tmp_path: Path) -> None:
    roots, workspace = (tmp_path / "out", tmp_path / "more"), tmp_path / "out" / "w"
    assert folder_for("a/b", roots, workspace) == tmp_path / "out" / "a" / "b"
    assert folder_for(str(tmp_path / "more" / "x"), roots, workspace) == tmp_path / "more" / "x"
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / "link").symlink_to(tmp_path)
    for wrong in ("..", "../elsewhere", "/etc", "link", "w/files", "\0", "link/x"):
        with pytest.raises(DefinitionError):
            folder_for(wrong, roots, workspace)
    with pytest.raises(DefinitionError, match="--deliver-to"):
        folder_for("a", (), workspace)


def test_a_password_goes_to_its_own_host_and_never_unencrypted(monkeypatch: pytest.MonkeyPatch) -> None:
    def server(**keys: Any) -> MailServer:
        return MailServer.model_validate({"host": "mail.example", "user": "u", "sender": "s@x.example", **keys})

    assert server().password() == ""
    monkeypatch.setenv(PASSWORD, "secret")
    with pytest.raises(DefinitionError, match=PASSWORD_HOST):
        server().password()
    monkeypatch.setenv(PASSWORD_HOST, "Mail.example")
    assert server().password() == "secret"
    with pytest.raises(DefinitionError, match="alone"):
        server(host="other.example").password()
    with pytest.raises(DefinitionError, match="unencrypted"):
        server(security="none").password()


@pytest.mark.parametrize("wrong", ["a", "a@", "@b", "a@b@c d", "a\r\nb@c.d", "a\0@b.c", "a b@c.d", ".a@b.c", "a..b@c.d", "a@-b.c", "a@b..c", "a@1", "x" * 65 + "@b.c", "a@b c", "<a@b.c>", "a,b@c.d", "a\u2028@b.c"])  # fmt: skip
def test_what_is_no_address_is_refused(wrong: str) -> None:
    with pytest.raises(ValueError, match="no address"):
        address(wrong)
    with pytest.raises(ValidationError):
        Delivery.model_validate({"to": [{"address": wrong}]})


@pytest.mark.parametrize(
    "right", ["a@b", "a.b+c@d-e.example", "jürgen@straße.example", "o'neil@x.example", "a@[127.0.0.1]"]
)
def test_addresses_of_any_writing_are_taken(right: str) -> None:
    assert address(right) == right


@pytest.mark.parametrize("wrong", ["", "a b", "a\r\nb", "-a", "a..b", "a/b", "a:25", "1.2.3", "x" * 64, "\0"])
def test_what_is_no_host_is_refused(wrong: str) -> None:
    with pytest.raises(ValueError, match="no name of a host"):
        host(wrong)


def test_texts_that_go_by_mail_bear_their_charset() -> None:
    files = tuple(
        TakenAway(f"a.{e}", m, "é".encode()) for e, m in (("csv", "text/csv; charset=utf-8"), ("html", "text/html"))
    )
    message = message_of(Sent("s", "t é", files), "s@x.example", "r@x.example", "1")
    assert [part.get_content_charset() for part in message.iter_attachments()] == ["utf-8", "utf-8"]


def test_keys_and_parameters_that_nobody_knows_are_refused(tmp_path: Path) -> None:
    office = Office(tmp_path / "w")
    client: TestClient = TestClient(create_app(office.desk))
    id = office.issue("2026-06").edition.id
    said = client.post(f"/api/editions/{id}/send", json={"to": ["a@x.example"]})
    assert (said.status_code, "to" in said.json()["detail"]) == (422, True)
    assert not office.desk.sendings.of(id)
    said = client.get("/api/reports?folder=x")
    assert said.status_code == 422
    assert "folder" in said.json()["detail"]
