"""What a receiver is sent: an edition or a pack of them, whole or only their own member's part."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import day_number
from kalendor.definitions.recurring import Delivery
from kalendor.desk.desk import Desk
from kalendor.desk.editions.handing import file_name
from kalendor.desk.editions.issuing import Opened, opened
from kalendor.desk.editions.since import moves_since_editions
from kalendor.desk.handing_over import TakenAway
from kalendor.desk.packs import cover_of, together
from kalendor.errors import DefinitionError
from kalendor.output.extract import members, part, parted
from kalendor.output.handover import Handover
from kalendor.output.moves import Moved
from kalendor.output.names import file_stem, free_name
from kalendor.output.writers import form_of, write

PATH = " › "


@dataclass(frozen=True)
class Sent:
    """A receiver's mail: the files, the subject and the text."""

    subject: str
    text: str
    files: tuple[TakenAway, ...]


@dataclass(frozen=True)
class Pack:
    """Editions, by id, under one title as one file: a workbook or a PDF with contents, else a zip."""

    title: str
    editions: Sequence[int]
    form: str


@dataclass(frozen=True)
class Parcel:
    """An edition as one receiver gets it; `member` is empty for the whole."""

    edition: Opened
    member: str
    given: Handover

    @property
    def said(self) -> str:
        edition = self.edition.edition
        return f"{edition.title}, {edition.named}{f': {self.member}' if self.member else ''}"


def parcel(found: Opened, level: str | None, member: str) -> Parcel:
    """An edition's part under a member of a level; the whole if none is given.

    Raises DefinitionError if it is not on the sheet.
    """
    if not member:
        return Parcel(found, "", found.handover)
    at = _line(found.sheet, level or "", member)
    if at is None:
        known = ", ".join(found.sheet.lines.heading(line) for line in members(found.sheet, level or ""))
        raise DefinitionError(f"there is no {level} {member!r} on this edition; there are {known}")
    return _cut(found, at, member)


def parcels_of_pack(desk: Desk, pack: Pack, member: str) -> list[Parcel]:
    """The editions of a pack as a receiver gets them: whole, or only the member's part of each that has it. The member
    is searched at the level of the report's delivery, then from the outermost level inwards.

    Raises MissingError for an edition that does not exist, DefinitionError if none has the member.
    """
    found = [opened(desk, id) for id in pack.editions]
    if not member:
        return [parcel(one, None, "") for one in found]
    lines = [(one, _anywhere(one, member)) for one in found]
    cut = [_cut(one, at, member) for one, at in lines if at is not None]
    if not cut:
        raise DefinitionError(f"none of these editions has a line {member!r}; write it as it stands on the sheets")
    return cut


def pack_as_sent(desk: Desk, pack: Pack, text: str, member: str) -> Sent:
    """The mail to a receiver of a pack."""
    parcels = parcels_of_pack(desk, pack, member)
    title = f"{pack.title}: {member}" if member else pack.title
    named = [(file_name(one.edition.edition, "", one.member).rstrip("."), one.given) for one in parcels]
    file = together(
        cover_of(desk, title, () if member else _moves(desk, parcels)),
        file_stem(title),
        named,
        pack.form,
        "sheet" if member else None,
    )
    said = "\n".join(one.said for one in parcels)
    return Sent(title, f"{text}\n\n{said}\n".lstrip(), (file,))


def _moves(desk: Desk, parcels: Sequence[Parcel]) -> list[Moved]:
    """The changes since the editions of the periods before; an edition's as-of date may be after its period."""
    own = [(one.edition.edition.report_id, one.edition.edition.first_day, one.given.sheet) for one in parcels]
    return moves_since_editions(desk, [(id, day_number(date.fromisoformat(day)), sheet) for id, day, sheet in own])


def what_is_sent(desk: Desk, edition_id: int, delivery: Delivery, member: str) -> Sent:
    """The mail to a receiver of one edition."""
    found = opened(desk, edition_id)
    own = parcel(found, delivery.level, member)
    files = []
    for form in delivery.formats:
        known = form_of(form)
        name = file_name(found.edition, known.ending, member)
        files.append(TakenAway(name, known.media, write(own.given, form, known.seen if member else None)))
    subject = delivery.subject or f"{found.edition.title}: {found.edition.named}"
    lines = [delivery.text or f"{own.said}."]
    if own.given.headline:
        lines += ["", *own.given.headline]
    return Sent(subject, "\n".join(lines) + "\n", tuple(files))


def put_into_a_folder(desk: Desk, edition_id: int, delivery: Delivery) -> tuple[TakenAway, ...]:
    """The files that a delivery writes to a folder: of the whole edition, or one for each member of a level.

    Raises DefinitionError for a level that does not make lines.
    """
    if delivery.each is None:
        return what_is_sent(desk, edition_id, delivery, "").files
    found = opened(desk, edition_id)
    files: dict[str, TakenAway] = {}
    for member, given in parted(found.handover, delivery.each):
        for form in delivery.formats:
            known = form_of(form)
            name = free_name(file_name(found.edition, known.ending, member), files)
            files[name] = TakenAway(name, known.media, write(given, form, known.seen))
    return tuple(files.values())


def _line(sheet: Sheet, level: str, member: str) -> int | None:
    """The line of a level that a member's heading names, alone or after those above it; None if there is none.

    Raises DefinitionError if several have that heading.
    """
    paths = {line: PATH.join(sheet.lines.path(line)) for line in members(sheet, level)}
    found = [line for line, path in paths.items() if member in (path, sheet.lines.heading(line))]
    if len(found) > 1:
        known = " or ".join(repr(paths[line]) for line in found[:3])
        raise DefinitionError(f"there are {len(found)} lines {member!r} on {sheet.title!r}; write {known}")
    return found[0] if found else None


def _anywhere(found: Opened, member: str) -> int | None:
    """A member's line at the level of the report's delivery, else at the outermost level that has it."""
    named = found.report.delivery.level if found.report.delivery else None
    levels = [one.name for one in found.sheet.lines.levels]
    first = [named] if named in levels else []
    at = (_line(found.sheet, level, member) for level in dict.fromkeys([*first, *levels]) if level is not None)
    return next((line for line in at if line is not None), None)


def _cut(found: Opened, at: int, member: str) -> Parcel:
    """The part under a line, without texts about the whole."""
    return Parcel(found, member, part(found.handover, at))
