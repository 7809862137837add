"""Editions handed over as files: the sheet and the words as they were kept."""

from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import opened
from kalendor.desk.handing_over import TakenAway
from kalendor.output.names import file_stem
from kalendor.output.writers import form_of, write
from kalendor.store.editions import ordinal


def edition_file(desk: Desk, id: int, form: str, shape: str | None) -> TakenAway:
    """An edition's file in a format and shape, named as `net-fare-by-sea-area-2026-07.xlsx`, a later one of the same period
    with its number.

    Raises DefinitionError for a format that there is not.
    """
    found = form_of(form)
    edition = opened(desk, id)
    again = f" {ordinal(edition.edition.number)} edition" if edition.edition.number > 1 else ""
    name = f"{file_stem(f'{edition.edition.title} {_period(edition.edition.every, edition.edition.last_day)}{again}')}"
    return TakenAway(f"{name}.{found.ending}", found.media, write(edition.handover, form, shape))


def _period(every: str, last_day: str) -> str:
    return last_day if every == "week" else last_day[:7]
