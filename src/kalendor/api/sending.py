"""Routes for sending editions, the mail server's settings, and the built-in test inbox."""

from typing import Annotated, cast

from fastapi import APIRouter, Response
from pydantic import Field

from kalendor.api import edition_models as models
from kalendor.api.desk import AtDesk
from kalendor.api.downloads import attachment
from kalendor.definitions.recurring import Delivery
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.inbox import STAND_IN, mail_file, mails
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.parcels import Pack
from kalendor.desk.editions.sending import MAIL, MailServer, mail_server, send, send_pack, what_goes
from kalendor.errors import DefinitionError
from kalendor.output.dependence import check_parts
from kalendor.output.extract import left_out_of_parts
from kalendor.store.sendings import Sending

router = APIRouter(prefix="/api", tags=["sending"])


@router.post("/editions/pack/send", status_code=202)
def send_editions_together(desk: AtDesk, asked: models.PackToSend) -> list[models.SendingView]:
    """Send several editions as one pack; a receiver with a member gets only that member's part."""
    pack = Pack(asked.title, asked.editions, asked.format)
    return [_view(desk, one) for one in send_pack(desk, pack, asked.to, asked.text, asked.only_to)]


@router.post("/editions/{id}/send", status_code=202)
def send_edition(desk: AtDesk, id: int, asked: models.SendAsked) -> list[models.SendingView]:
    """Send an edition as its report says, or all of it to one address as a test."""
    edition = desk.editions.one(id)
    report = cast(Report, desk.definitions.one(edition.report_id).body)
    return [_view(desk, one) for one in send(desk, id, report.delivery or Delivery(), asked.only_to)]


@router.get("/editions/{id}/parts")
def parts_of_edition(desk: AtDesk, id: int) -> models.PartsView:
    """Return what each member's part of an edition leaves out."""
    edition = opened(desk, id)
    try:
        check_parts(edition.sheet)
    except DefinitionError as error:
        return models.PartsView(left_out=[], problem=str(error))
    return models.PartsView(left_out=left_out_of_parts(edition.report), problem="")


@router.get("/sendings")
def latest_sendings(desk: AtDesk) -> list[models.SendingView]:
    """List deliveries, latest first."""
    return [_view(desk, one) for one in desk.sendings.latest()]


@router.get("/editions/{id}/sendings")
def list_sendings(desk: AtDesk, id: int) -> list[models.SendingView]:
    """List an edition's deliveries."""
    return [_view(desk, one) for one in desk.sendings.of(desk.editions.one(id).id)]


@router.post("/sendings/{id}/again")
def send_again(desk: AtDesk, id: int) -> models.SendingView:
    """Retry a failed delivery."""
    return _view(desk, desk.sendings.again(id))


def _view(desk: Desk, one: Sending) -> models.SendingView:
    return models.SendingView(
        id=one.id, edition=one.edition_id, what=what_goes(desk, one), address=one.address.removeprefix("/") if one.address.startswith("/") else one.address,
        member=one.member, state=one.state, tries=one.tries, told=one.told, made_at=one.made_at, done_at=one.done_at,
    )  # fmt: skip


@router.get("/mail")
def mail(desk: AtDesk) -> models.MailView:
    """Return the mail server's settings; empty if none are set."""
    found = mail_server(desk)
    stand_in = bool(desk.workspace.told(STAND_IN))
    return models.MailView(**found.model_dump(), stand_in=stand_in) if found else models.MailView(stand_in=stand_in)


@router.put("/mail")
def set_mail(desk: AtDesk, server: MailServer) -> models.MailView:
    """Set the mail server. Its password, if one is needed, is read from the environment variable KALENDOR_MAIL_PASSWORD."""
    desk.workspace.tell(MAIL, server.model_dump_json())
    return mail(desk)


@router.get("/inbox")
def inbox(desk: AtDesk) -> list[models.InboxMail]:
    """List the mails that the built-in test inbox received, latest first."""
    return [
        models.InboxMail(
            id=one.id, at=one.at, sender=one.sender, to=one.to, subject=one.subject, text=one.text,
            files=[models.InboxFile(name=name, size=size) for name, size in one.files],
        )
        for one in mails(desk)
    ]  # fmt: skip


@router.get("/inbox/{id}/files/{number}", response_class=Response)
def inbox_file(desk: AtDesk, id: str, number: Annotated[int, Field(ge=0)]) -> Response:
    """Return an attachment of a mail in the test inbox."""
    name, media, content = mail_file(desk, id, number)
    return Response(content, media_type=media, headers={"Content-Disposition": attachment(name)})
