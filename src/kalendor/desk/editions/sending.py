"""Sends editions: by SMTP to each receiver, only their member's part if so configured, or into a folder."""

import json
import os
import smtplib
import ssl
from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime, timedelta
from email.message import EmailMessage
from email.utils import formatdate
from threading import Event
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from kalendor.definitions.addresses import Address, HostName
from kalendor.definitions.recurring import Delivery, Receiver
from kalendor.desk.desk import Desk
from kalendor.desk.editions.folders import folder_for, put
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.parcels import (
    Pack,
    Sent,
    pack_as_sent,
    parcel,
    parcels_of_pack,
    put_into_a_folder,
    what_is_sent,
)
from kalendor.desk.notation import begin_in
from kalendor.errors import DefinitionError, KalendorError
from kalendor.log import log_unexpected
from kalendor.output.extract import members
from kalendor.output.writers import form_of
from kalendor.store.sendings import Sending

MAIL = "mail"
PASSWORD, PASSWORD_HOST = "KALENDOR_MAIL_PASSWORD", "KALENDOR_MAIL_HOST"
SECONDS = 30.0
WAITS = (timedelta(minutes=1), timedelta(minutes=10), timedelta(hours=1), timedelta(hours=6))
EVERY_SECONDS = 5.0


class MailServer(BaseModel):
    """The mail server. Its password, if needed, is read from the environment only, together with the host that it is
    for; it is sent to no other host and never unencrypted."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    host: HostName
    port: int = Field(default=25, ge=1, le=65535)
    security: Literal["none", "starttls", "tls"] = "starttls"
    user: Annotated[str, Field(max_length=254, pattern=r"^[^\x00-\x1f\x7f]*$")] = ""
    sender: Address

    def password(self) -> str:
        """The password for this server; empty if the environment has none.

        Raises DefinitionError if it is for another host, or would be sent unencrypted.
        """
        found = os.environ.get(PASSWORD, "")
        if found and os.environ.get(PASSWORD_HOST, "").casefold() != self.host.casefold():
            raise DefinitionError(
                f"the password in {PASSWORD} goes to the host in {PASSWORD_HOST} alone, and that is not {self.host};"
                " set both for this server"
            )
        if found and self.security == "none":
            raise DefinitionError("a password does not go unencrypted; choose starttls or tls for the mail server")
        return found


def mail_server(desk: Desk) -> MailServer | None:
    """The workspace's mail server; None if none is set."""
    told = desk.workspace.told(MAIL)
    return MailServer.model_validate_json(told) if told else None


def send(desk: Desk, edition_id: int, delivery: Delivery, only_to: str | None = None) -> list[Sending]:
    """Queue an edition for delivery; `only_to` is a test: everything is sent to that address.

    Raises DefinitionError if there is nobody to send to, no mail server, or a member that is not on the sheet.
    """
    found = opened(desk, edition_id)
    to = [(only_to or one.address, one.member or "") for one in delivery.to]
    if only_to is not None and not to:
        to = [(only_to, "")]
    if delivery.folder and only_to is None:
        folder_for(delivery.folder, desk.deliver_to, desk.workspace.folder)
        to.append((f"/{delivery.folder}", ""))
    if not to:
        raise DefinitionError("there is nobody to send it to; add an address, or a folder")
    if any(not address.startswith("/") for address, _ in to) and mail_server(desk) is None:
        raise DefinitionError("no mail server is set; say where mail is handed in first")
    for _, member in to:
        parcel(found, delivery.level, member)
    if delivery.folder and delivery.each:
        members(found.sheet, delivery.each)
    how = json.dumps(delivery.model_dump(mode="json", exclude={"to"}))
    return desk.sendings.queue(edition_id, to, how, datetime.now())


def send_pack(desk: Desk, pack: Pack, to: Sequence[Receiver], text: str, only_to: str | None = None) -> list[Sending]:
    """Queue several editions as one file; a receiver with a member gets their part of only those editions that have it.
    `only_to` is a test: everything is sent to that address.

    Raises DefinitionError if there is no edition or nobody to send to, no mail server, or a member that no edition has.
    """
    form_of(pack.form)
    if not pack.editions or not to:
        raise DefinitionError("a pack holds one edition at least, and goes to one address at least")
    for member in dict.fromkeys(one.member or "" for one in to):
        parcels_of_pack(desk, pack, member)
    if mail_server(desk) is None:
        raise DefinitionError("no mail server is set; say where mail is handed in first")
    how = json.dumps({"subject": pack.title, "text": text, "pack": asdict(pack)})
    return desk.sendings.queue(
        pack.editions[0], [(only_to or one.address, one.member or "") for one in to], how, datetime.now()
    )


def what_goes(desk: Desk, one: Sending) -> str:
    """The content of a sending, in words: the pack's title, or the edition's with its period."""
    pack = json.loads(one.how).get("pack")
    if pack:
        return str(pack["title"])
    edition = desk.editions.one(one.edition_id)
    return f"{edition.title}, {edition.named}"


def deliver(desk: Desk, at: datetime | None = None) -> int:
    """Send everything that is queued; returns how many were sent. Failures are retried later, and given up after some
    days."""
    moment = at or datetime.now()
    done = 0
    for one in desk.sendings.ready(moment):
        if desk.sendings.claim(one.id, moment + timedelta(minutes=10), moment):
            done += _tried(desk, one, moment)
    return done


def _tried(desk: Desk, one: Sending, moment: datetime) -> bool:
    how = json.loads(one.how)
    try:
        if "pack" in how:
            sent = pack_as_sent(desk, Pack(**how["pack"]), how["text"], one.member)
            told = _mailed(desk, one, sent)
        elif one.address.startswith("/"):
            files = put_into_a_folder(desk, one.edition_id, _delivery(how))
            told = put(folder_for(one.address[1:], desk.deliver_to, desk.workspace.folder), files)
        else:
            told = _mailed(desk, one, what_is_sent(desk, one.edition_id, _delivery(how), one.member))
    except (OSError, smtplib.SMTPException, KalendorError) as error:
        waits = WAITS[one.tries] if one.tries < len(WAITS) else None
        state: Literal["waiting", "failed"] = "failed" if waits is None or _for_good(error) else "waiting"
        desk.sendings.tell(
            one.id, state, _said(error), moment + waits if waits and state == "waiting" else None, moment
        )
        return False
    desk.sendings.tell(one.id, "sent", told, None, moment)
    return True


def _delivery(how: dict[str, Any]) -> Delivery:
    return Delivery.model_validate({**how, "to": []})


def _for_good(error: Exception) -> bool:
    """Whether retrying cannot help."""
    codes = (
        {code for code, _ in error.recipients.values()} if isinstance(error, smtplib.SMTPRecipientsRefused) else set()
    )
    return isinstance(error, KalendorError) or (bool(codes) and all(code >= 500 for code in codes))


def _said(error: Exception) -> str:
    if isinstance(error, smtplib.SMTPRecipientsRefused):
        return "; ".join(
            f"{address} was refused: {why.decode(errors='replace')}" for address, (_, why) in error.recipients.items()
        )
    if isinstance(error, smtplib.SMTPResponseException):
        said = (
            error.smtp_error.decode(errors="replace") if isinstance(error.smtp_error, bytes) else str(error.smtp_error)
        )
        return f"the mail server answered {error.smtp_code}: {said}"
    if isinstance(error, OSError) and not isinstance(error, smtplib.SMTPException):
        return f"it cannot be reached or written ({error.strerror or error})"
    return str(error)


def _mailed(desk: Desk, one: Sending, sent: Sent) -> str:
    server = mail_server(desk)
    if server is None:
        raise DefinitionError("no mail server is set")
    message = message_of(
        sent, server.sender, one.address, f"{opened(desk, one.edition_id).edition.sha256[:24]}.{one.id}"
    )
    password = server.password() if server.user else ""
    context = ssl.create_default_context()
    if server.security == "tls":
        smtp: smtplib.SMTP = smtplib.SMTP_SSL(server.host, server.port, timeout=SECONDS, context=context)
    else:
        smtp = smtplib.SMTP(server.host, server.port, timeout=SECONDS)
    with smtp:
        if server.security == "starttls":
            smtp.starttls(context=context)
        smtp.ehlo_or_helo_if_needed()
        beyond = next((a for a in (server.sender, one.address) if not a.isascii()), None)
        if beyond is not None and not smtp.has_extn("smtputf8"):
            raise DefinitionError(
                f"{server.host} takes no address with letters beyond a to z, as {beyond} has (SMTPUTF8)"
            )
        if server.user:
            smtp.login(server.user, password)
        smtp.send_message(message)
    return f"handed in at {server.host}"


def message_of(sent: Sent, sender: str, to: str, id: str) -> EmailMessage:
    """A mail (RFC 5322) with the files; each attempt of a sending has the same Message-ID."""
    message = EmailMessage()
    message["From"], message["To"], message["Subject"] = sender, to, " ".join(sent.subject.split())
    message["Date"] = formatdate(localtime=True)
    message["Message-ID"] = f"<{id}@kalendor.invalid>"
    message.set_content(sent.text)
    for file in sent.files:
        kind, _, rest = file.media.partition(";")[0].partition("/")
        charset = {"charset": "utf-8"} if kind == "text" else {}
        message.add_attachment(file.content, maintype=kind, subtype=rest, filename=file.name, params=charset)
    return message


def keep_sending(desk: Desk, stop: Event) -> None:
    """Send what is queued, every few seconds, until stopped; to be run in a thread of its own."""
    while not stop.wait(EVERY_SECONDS):
        try:
            begin_in(desk)
            deliver(desk)
        except Exception as error:
            log_unexpected(error, "sending")
    desk.workspace.close()
