"""Editions sent by mail through the stand-in, or delivered to a folder; failures are retried and shown."""

import io
import re
import zipfile
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pyarrow.parquet as pq
import pytest
from pypdf import PdfReader

from kalendor.definitions.recurring import Delivery, Receiver
from kalendor.desk.editions.inbox import mail_file, mails, stand_in
from kalendor.desk.editions.parcels import Pack, parcels_of_pack, what_is_sent
from kalendor.desk.editions.schedule import run_due
from kalendor.desk.editions.sending import MAIL, MailServer, deliver, send, send_pack
from kalendor.errors import DefinitionError
from kalendor.output.writers import FORMS
from kalendor.store.definitions import MissingError
from tests.editions.conftest import REPORT, TREE, Office


@pytest.fixture
def posted(office: Office) -> Iterator[Office]:
    """An office whose mail goes to the stand-in."""
    controller = stand_in(office.desk)
    yield office
    controller.stop()


def delivery(*to: str | tuple[str, str], **keys: Any) -> Delivery:
    receivers = [{"address": t} if isinstance(t, str) else {"address": t[0], "member": t[1]} for t in to]
    return Delivery.model_validate({"to": receivers, "formats": ["csv"], **keys})


def test_an_edition_goes_to_each_receiver_with_its_files(posted: Office) -> None:
    id = posted.issue("2026-06").edition.id
    send(posted.desk, id, delivery("a@x.example", "b@x.example", formats=["csv", "xlsx", "pdf"], text="Here it is."))
    assert deliver(posted.desk) == 2
    found = mails(posted.desk)
    assert sorted(m.to for m in found) == ["a@x.example", "b@x.example"]
    assert found[0].subject == "Sales by side: Jun 2026"
    assert found[0].text.startswith("Here it is.\n\nAmount came to 30.00.")
    assert [name for name, _ in found[0].files] == [f"sales-by-side-2026-06.{e}" for e in ("csv", "xlsx", "pdf")]
    name, media, content = mail_file(posted.desk, found[0].id, 0)
    assert (name, media.split(";")[0]) == ("sales-by-side-2026-06.csv", "text/csv")
    assert b"30.00,4" in content
    assert deliver(posted.desk) == 0
    with pytest.raises(MissingError):
        mail_file(posted.desk, found[0].id, 9)


def test_a_receiver_of_one_members_part_gets_nothing_else(posted: Office) -> None:
    posted.report(
        down=[{"category": "kind"}],
        notes=[
            {"text": "secret of ky", "line": ["ky"]},
            {"text": "of kx", "line": ["kx"]},
            {"text": "gone", "line": ["kq"]},
        ],
    )
    id = posted.issue("2026-06").edition.id
    send(posted.desk, id, delivery(("a@x.example", "kx"), level="kind", formats=["csv", "html"]))
    assert deliver(posted.desk) == 1
    (mail,) = mails(posted.desk)
    whole = mail.text + "".join(mail_file(posted.desk, mail.id, i)[2].decode() for i in range(2))
    assert "kx" in whole
    assert not [words for words in ("secret", ">ky<", "ky,", "gone") if words in whole]
    assert "30.00" not in mail.text
    with pytest.raises(DefinitionError, match="there is no kind 'kq'"):
        send(posted.desk, id, delivery(("a@x.example", "kq"), level="kind"))


def test_a_try_out_goes_to_oneself_alone(posted: Office) -> None:
    id = posted.issue("2026-06").edition.id
    send(posted.desk, id, delivery("a@x.example", "b@x.example"), only_to="me@x.example")
    deliver(posted.desk)
    assert {m.to for m in mails(posted.desk)} == {"me@x.example"}


def test_an_address_that_is_refused_fails_for_good_and_can_be_tried_again(posted: Office) -> None:
    id = posted.issue("2026-06").edition.id
    send(posted.desk, id, delivery("no@refused.example", "a@x.example"))
    assert deliver(posted.desk) == 1
    states = {one.address: (one.state, one.told) for one in posted.desk.sendings.of(id)}
    assert states["no@refused.example"] == ("failed", "no@refused.example was refused: no such mailbox")
    assert states["a@x.example"][0] == "sent"
    failed = next(one for one in posted.desk.sendings.of(id) if one.state == "failed")
    assert posted.desk.sendings.again(failed.id).state == "waiting"


def test_a_server_that_does_not_answer_is_tried_again_later_and_given_up_in_the_end(office: Office) -> None:
    server = MailServer(host="127.0.0.1", port=9, security="none", sender="s@x.example")
    office.desk.workspace.tell(MAIL, server.model_dump_json())
    id = office.issue("2026-06").edition.id
    send(office.desk, id, delivery("a@x.example"))
    at, tries = datetime.now() + timedelta(seconds=1), 0
    while office.desk.sendings.of(id)[0].state == "waiting":
        deliver(office.desk, at)
        tries += 1
        assert deliver(office.desk, at) == 0
        at += timedelta(hours=7)
        assert tries < 9
    found = office.desk.sendings.of(id)[0]
    assert (found.state, tries) == ("failed", 5)
    assert "cannot be reached" in found.told


def test_files_are_put_into_a_folder(office: Office, tmp_path: Path) -> None:
    office.desk.deliver_to = (tmp_path,)
    id = office.issue("2026-06").edition.id
    send(office.desk, id, Delivery(folder=str(tmp_path / "out"), formats=["csv", "html"]))
    assert deliver(office.desk) == 1
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == [
        "sales-by-side-2026-06.csv",
        "sales-by-side-2026-06.html",
    ]


def test_each_members_files_are_put_into_a_folder(office: Office, tmp_path: Path) -> None:
    office.desk.deliver_to = (tmp_path,)
    id = office.issue("2026-06").edition.id
    where = {"folder": str(tmp_path / "out"), "formats": ["csv", "parquet"]}
    send(office.desk, id, Delivery(**where, each="Kind"))
    assert deliver(office.desk) == 1
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == [
        f"sales-by-side-{kind}-2026-06.{e}" for kind in ("kx", "ky") for e in ("csv", "parquet")
    ]
    with pytest.raises(DefinitionError, match="no level 'Town'"):
        send(office.desk, id, Delivery(**where, each="Town"))


def test_what_cannot_be_sent_is_said_before_it_is_tried(office: Office) -> None:
    id = office.issue("2026-06").edition.id
    with pytest.raises(DefinitionError, match="nobody to send it to"):
        send(office.desk, id, Delivery())
    with pytest.raises(DefinitionError, match="no mail server is set"):
        send(office.desk, id, delivery("a@x.example"))


def test_a_schedule_sends_what_it_issues(posted: Office) -> None:
    posted.report(
        cadence={**REPORT["cadence"], "issue": "when_ready"},
        delivery={"to": [{"address": "a@x.example"}], "formats": ["csv"], "when_issued": True},
    )
    run_due(posted.desk)
    deliver(posted.desk)
    assert [m.subject for m in mails(posted.desk)] == ["Sales by side: Jun 2026", "Sales by side: May 2026"]


def texts_in(content: bytes, name: str) -> str:
    """All text of a file, with its parts unpacked."""
    if name.endswith(".parquet"):
        return str(pq.read_table(io.BytesIO(content)).to_pylist())
    if name.endswith(".pdf"):
        return "".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages)
    if not zipfile.is_zipfile(io.BytesIO(content)):
        return content.decode("utf-8-sig")
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        return "".join(texts_in(archive.read(one), one) for one in archive.namelist() if not one.endswith(".png"))


@pytest.mark.parametrize("form", FORMS)
def test_no_format_of_a_members_part_holds_anothers(posted: Office, form: str) -> None:
    posted.report(
        down=[{"category": "kind", "order": {"list": ["ky", "kx"]}, "labels": {"none": "ky"}}],
        notes=[{"text": "a word on ky", "line": ["ky"]}],
        headline={"sentences": ["ky is up."]},
        export={"chart": True},
        records={"columns": ["day", "amount"]},
        controls=[{"figure": "Amount", "expect": "30.00"}],
        out_of_sight={"lines": [["ky"]]},
        silenced=[{"only": "kind = 'ky'"}],
    )
    id = posted.issue("2026-06").edition.id
    sent = what_is_sent(posted.desk, id, delivery(("a@x.example", "kx"), level="kind", formats=[form]), "kx")
    packed = Pack("One", [id], form)
    send_pack(posted.desk, packed, [Receiver(address="a@x.example", member="kx")], "")
    deliver(posted.desk)
    (mail,) = mails(posted.desk)
    both = [(sent.files[0].name, sent.files[0].content), (mail.files[0][0], mail_file(posted.desk, mail.id, 0)[2])]
    for name, content in both:
        found = texts_in(content, name)
        assert "kx" in found
        assert not re.findall(r"\bky\b|\b30\.00\b|>30<", found), name


@pytest.mark.parametrize(
    ("form", "name"), [("pdf", "july-pack.pdf"), ("xlsx", "july-pack.xlsx"), ("csv", "july-pack.zip")]
)
def test_several_editions_go_out_as_one_pack(posted: Office, form: str, name: str) -> None:
    ids = [posted.issue("2026-06").edition.id, posted.issue("2026-07").edition.id]
    to = [Receiver(address="a@x.example"), Receiver(address="b@x.example")]
    send_pack(posted.desk, Pack("July pack", ids, form), to, "All of it.")
    assert deliver(posted.desk) == 2
    found = mails(posted.desk)[0]
    assert (found.subject, found.text) == (
        "July pack", "All of it.\n\nSales by side, Jun 2026\nSales by side, Jul 2026\n",
    )  # fmt: skip
    assert [file for file, _ in found.files] == [name]
    with pytest.raises(MissingError):
        send_pack(posted.desk, Pack("x", [99], form), to, "")
    with pytest.raises(DefinitionError):
        send_pack(posted.desk, Pack("x", ids, "doc"), to, "")


def test_each_receiver_of_a_pack_gets_their_part_of_the_editions_that_have_it(posted: Office) -> None:
    posted.report(down=[])
    whole = posted.issue("2026-06").edition.id
    posted.report(down=[{"category": "kind"}])
    parted = posted.issue("2026-07").edition.id
    pack = Pack("July pack", [whole, parted], "csv")
    send_pack(
        posted.desk, pack, [Receiver(address="a@x.example"), Receiver(address="b@x.example", member="kx")], "Yours."
    )
    assert deliver(posted.desk) == 2
    by = {one.to: one for one in mails(posted.desk)}
    assert by["b@x.example"].subject == "July pack: kx"
    assert by["b@x.example"].text == "Yours.\n\nSales by side, Jul 2026: kx\n"
    assert [name for name, _ in by["b@x.example"].files] == ["july-pack-kx.zip"]
    with zipfile.ZipFile(io.BytesIO(mail_file(posted.desk, by["b@x.example"].id, 0)[2])) as archive:
        assert archive.namelist() == ["sales-by-side-kx-2026-07.csv"]
    with zipfile.ZipFile(io.BytesIO(mail_file(posted.desk, by["a@x.example"].id, 0)[2])) as archive:
        assert archive.namelist() == ["sales-by-side-2026-06.csv", "sales-by-side-2026-07.csv"]
    with pytest.raises(DefinitionError, match="none of these editions has a line 'kq'"):
        send_pack(posted.desk, pack, [Receiver(address="c@x.example", member="kq")], "")


CROSSED = {
    **TREE,
    "roots": [{"label": "kx", "under": [{"value": "ky"}]}, {"label": "South", "under": [{"value": "kx"}]}],
}


@pytest.mark.parametrize(
    ("named", "lines"),
    [(None, {("kx",), ("kx", "ky")}), ("Side", {("kx",), ("kx", "ky")}), ("Kind", {("South", "kx")})],
)
def test_a_member_is_looked_for_at_the_level_of_the_reports_delivery_first(
    office: Office, named: str | None, lines: set[tuple[str, ...]]
) -> None:
    office.define(CROSSED)
    office.report(delivery={"to": [], "level": named})
    id = office.issue("2026-06").edition.id
    (part,) = parcels_of_pack(office.desk, Pack("x", [id], "csv"), "kx")
    sheet = part.given.sheet
    assert {tuple(sheet.lines.path(line)) for line in sheet.lines.shown.lines.tolist()} == lines


def test_a_member_that_stands_under_several_is_named_with_what_is_above_it(office: Office) -> None:
    office.report(down=[{"period": "day", "grains": ["day"]}, {"category": "kind"}])
    pack = Pack("x", [office.issue("2026-06").edition.id], "csv")
    with pytest.raises(DefinitionError, match=r"2 lines 'kx' .* write '2026-06-01 › kx' or '2026-06-21 › kx'"):
        parcels_of_pack(office.desk, pack, "kx")
    (part,) = parcels_of_pack(office.desk, pack, "2026-06-21 › kx")
    assert part.said == "Sales by side, Jun 2026: 2026-06-21 › kx"
