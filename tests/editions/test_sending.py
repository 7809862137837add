"""Editions sent by mail through the stand-in, or put into a folder; failures are tried again and shown."""

from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from kalendor.definitions.recurring import Delivery
from kalendor.desk.editions.inbox import mail_file, mails, stand_in
from kalendor.desk.editions.schedule import run_due
from kalendor.desk.editions.sending import MAIL, MailServer, deliver, send, send_pack
from kalendor.errors import DefinitionError
from kalendor.store.definitions import MissingError
from tests.editions.conftest import REPORT, Office


@pytest.fixture
def posted(office: Office) -> Iterator[Office]:
    """An office whose mail is taken by the stand-in."""
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
    id = office.issue("2026-06").edition.id
    send(office.desk, id, Delivery(folder=str(tmp_path / "out"), formats=["csv", "html"]))
    assert deliver(office.desk) == 1
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == [
        "sales-by-side-2026-06.csv",
        "sales-by-side-2026-06.html",
    ]


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


@pytest.mark.parametrize(
    ("form", "name"), [("pdf", "july-pack.pdf"), ("xlsx", "july-pack.xlsx"), ("csv", "july-pack.zip")]
)
def test_several_editions_go_out_as_one_pack(posted: Office, form: str, name: str) -> None:
    posted.define({**REPORT, "title": "Another"})
    other = posted.desk.definitions.named("report", "Another")
    assert other is not None
    ids = [posted.issue("2026-06").edition.id, posted.issue("2026-07").edition.id]
    send_pack(posted.desk, "July pack", ids, form, ["a@x.example", "b@x.example"], "All of it.")
    assert deliver(posted.desk) == 2
    found = mails(posted.desk)[0]
    assert (found.subject, found.text) == (
        "July pack", "All of it.\n\nSales by side, Jun 2026\nSales by side, Jul 2026\n",
    )  # fmt: skip
    assert [file for file, _ in found.files] == [name]
    with pytest.raises(MissingError):
        send_pack(posted.desk, "x", [99], form, ["a@x.example"], "")
    with pytest.raises(DefinitionError):
        send_pack(posted.desk, "x", ids, "doc", ["a@x.example"], "")
