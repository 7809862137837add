"""Exports editions as files, with the stored sheet and texts."""

from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import opened
from kalendor.desk.handing_over import TakenAway
from kalendor.output.names import file_stem
from kalendor.output.writers import form_of, write
from kalendor.store.editions import Edition, ordinal


def edition_file(desk: Desk, id: int, form: str, shape: str | None) -> TakenAway:
    """An edition's file in a format and shape.

    Raises DefinitionError for an unknown format.
    """
    found = form_of(form)
    edition = opened(desk, id)
    content = write(edition.handover, form, shape)
    return TakenAway(file_name(edition.edition, found.ending), found.media, content)


def file_name(edition: Edition, ending: str, member: str = "") -> str:
    """As `net-fare-by-sea-area-2026-07.xlsx`; a later edition of the same period has its number, a member's part its
    name, and a period other than a month its length."""
    again = f" {ordinal(edition.number)} edition" if edition.number > 1 else ""
    day = edition.last_day if edition.every in ("week", "day") else edition.last_day[:7]
    period = day if edition.every in ("month", "week", "day") else f"{edition.every} to {day}"
    return f"{file_stem(f'{edition.title} {member}', f'{period}{again}')}.{ending}"
