"""A stand-in for a mail server, for the demo and for tests: received mail is stored in the workspace's folder."""

import email
import email.policy
from dataclasses import dataclass
from datetime import datetime
from email.message import EmailMessage
from pathlib import Path
from typing import Any
from uuid import uuid4

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

from kalendor.desk.desk import Desk
from kalendor.desk.editions.sending import MAIL, MailServer
from kalendor.store.definitions import MissingError

STAND_IN, FOLDER = "mail stand-in", "inbox"
MOST_BYTES = 64 << 20
SENDER = "reports@skerry-line.example"


@dataclass(frozen=True)
class Mail:
    """A received mail; `files` are names and sizes in bytes."""

    id: str
    at: str
    sender: str
    to: str
    subject: str
    text: str
    files: tuple[tuple[str, int], ...]


class _Box:
    """Writes each mail into a folder, atomically. Addresses at `refused.example` are refused, so that failures can be
    tried."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    async def handle_RCPT(self, server: SMTP, session: Session, envelope: Envelope, address: str, options: Any) -> str:
        if address.lower().endswith("@refused.example"):
            return "550 no such mailbox"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:
        name = f"{datetime.now():%Y%m%d%H%M%S%f}-{uuid4().hex[:8]}"
        part = self.folder / f".{name}.part"
        part.write_bytes(envelope.original_content or b"")
        part.replace(self.folder / f"{name}.eml")
        return "250 OK"


def stand_in(desk: Desk, port: int = 0) -> Controller:
    """Start the stand-in on a loopback port (0: any free one), and make it the workspace's mail server."""
    folder = desk.workspace.folder / FOLDER
    folder.mkdir(exist_ok=True)
    controller = Controller(_Box(folder), hostname="127.0.0.1", port=port or _free(), data_size_limit=MOST_BYTES)
    controller.start()
    server = MailServer(host="127.0.0.1", port=controller.port, security="none", sender=SENDER)
    desk.workspace.tell(MAIL, server.model_dump_json())
    desk.workspace.tell(STAND_IN, "yes")
    return controller


def _free() -> int:
    import socket

    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def mails(desk: Desk) -> list[Mail]:
    """The mails in the inbox, the latest first."""
    folder = desk.workspace.folder / FOLDER
    return [_mail(path) for path in sorted(folder.glob("*.eml"), reverse=True)]


def _read(path: Path) -> EmailMessage:
    found = email.message_from_bytes(path.read_bytes(), policy=email.policy.default)
    assert isinstance(found, EmailMessage)
    return found


def _mail(path: Path) -> Mail:
    message = _read(path)
    body = message.get_body(("plain",))
    files = tuple((part.get_filename() or "file", len(_bytes(part))) for part in message.iter_attachments())
    at = datetime.fromtimestamp(path.stat().st_mtime).isoformat(timespec="seconds")
    text = body.get_content().replace("\r\n", "\n") if body is not None else ""
    return Mail(path.stem, at, str(message["From"]), str(message["To"]), str(message["Subject"]), text, files)


def _bytes(part: Any) -> bytes:
    content = part.get_content()
    return content.encode() if isinstance(content, str) else bytes(content)


def mail_file(desk: Desk, id: str, number: int) -> tuple[str, str, bytes]:
    """An attachment of a mail: name, media type and bytes.

    Raises MissingError if there is none.
    """
    path = next((p for p in (desk.workspace.folder / FOLDER).glob("*.eml") if p.stem == id), None)
    parts = list(_read(path).iter_attachments()) if path is not None else []
    if number >= len(parts):
        raise MissingError("there is no such file in the inbox")
    return parts[number].get_filename() or "file", parts[number].get_content_type(), _bytes(parts[number])
