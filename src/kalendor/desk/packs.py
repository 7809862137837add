"""Packs: several reports as one file, or one report as a file for each member of a level."""

import io
import zipfile
from collections.abc import Callable, Sequence

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.days import day_label
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.handing_over import TakenAway, handover
from kalendor.desk.organisation import organisation
from kalendor.desk.summaries import fresh_sheet
from kalendor.errors import DefinitionError
from kalendor.output.extract import parted
from kalendor.output.handover import Cover, Handover
from kalendor.output.moves import Moved
from kalendor.output.names import file_stem, free_name
from kalendor.output.pdf.pdf import pdf
from kalendor.output.workbook.book import workbook
from kalendor.output.writers import form_of, write

WHEN = (1980, 1, 1, 0, 0, 0)  # a fixed date, so that the same pack gives the same bytes
ZIP = "application/zip"
TOGETHER = {"xlsx": workbook, "pdf": pdf}


def pack(
    desk: Desk,
    title: str,
    reports: Sequence[Report],
    form: str,
    moves: Callable[[Sequence[Sheet]], Sequence[Moved]] = lambda _: (),
) -> TakenAway:
    """Reports as one workbook or PDF with a table of contents; in another format, as a zip of files. `moves` describes
    what changed in their sheets since their previous editions.

    Raises DefinitionError for no report or an unknown format, and whatever computing them raises.
    """
    if not reports:
        raise DefinitionError("a pack holds one report at least; choose some")
    found = form_of(form)
    for report in reports:
        fresh_sheet(desk, report)
    with desk.workspace.snapshot():
        given = [handover(desk, report, found.worded) for report in reports]
    month = day_label(max(one.sheet.as_of for one in given))[:7]
    named = [(f"{one.sheet.title} {day_label(one.sheet.as_of)[:7]}", one) for one in given]
    cover = cover_of(desk, title, moves([one.sheet for one in given]))
    return together(cover, f"{title} {month}", named, form)


def cover_of(desk: Desk, title: str, moves: Sequence[Moved] = ()) -> Cover:
    """The cover of a pack."""
    whose = organisation(desk)
    return Cover(title, whose.name, whose.accent, whose.mark, whose.kind, tuple(moves))


def together(
    cover: Cover, named: str, given: Sequence[tuple[str, Handover]], form: str, shape: str | None = None
) -> TakenAway:
    """Sheets, each with a name, as one workbook or PDF with contents, in another format as a zip of files; `named` is
    the file name, `shape` that of the files in a zip if the format has shapes."""
    found = form_of(form)
    if form in TOGETHER:
        return TakenAway(f"{named}.{found.ending}", found.media, TOGETHER[form]([one for _, one in given], cover))
    files = [(name, write(one, form, shape if shape in found.writers else None)) for name, one in given]
    return TakenAway(f"{named}.zip", ZIP, zipped(files, found.ending))


def by_member(desk: Desk, report: Report, level: str, form: str) -> TakenAway:
    """Export a report once for each member of a level, as a zip of files.

    Raises DefinitionError as `pack` does, and for a level without lines.
    """
    found = form_of(form)
    whole = handover(desk, report, found.worded)
    month = day_label(whole.sheet.as_of)[:7]
    files = [(f"{part.sheet.title} {month}", write(part, form, found.seen)) for _, part in parted(whole, level)]
    return TakenAway(f"{report.title} by {level} {month}.zip", ZIP, zipped(files, found.ending))


def zipped(files: Sequence[tuple[str, bytes]], ending: str) -> bytes:
    """A zip of files by title, with unique names."""
    made = io.BytesIO()
    taken: set[str] = set()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        for title, content in files:
            name = free_name(f"{file_stem(title)}.{ending}", taken)
            taken.add(name)
            archive.writestr(zipfile.ZipInfo(name, WHEN), content, zipfile.ZIP_DEFLATED)
    return made.getvalue()
