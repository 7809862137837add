"""Bringing a file in: read, looked at, then kept whole or not at all."""

import csv
import io
import sys
from dataclasses import dataclass, replace
from pathlib import Path
from uuid import uuid4

import numpy as np

from kalendor.core.values.columns import DATED, Records
from kalendor.definitions.recipe import ColumnReading, Join, Recipe
from kalendor.desk.changed import matched, read_beside, read_matched
from kalendor.desk.desk import Desk
from kalendor.desk.uploads import Held, hold, hold_file, parts_of
from kalendor.desk.waiting import Waiting
from kalendor.errors import ChangedError, DefinitionError, IntakeError
from kalendor.intake.apart import Asked
from kalendor.intake.guarding import harmless
from kalendor.intake.raw import ReadSoFar, unwatched
from kalendor.intake.reading import LAID_OUT
from kalendor.output.numbers import as_read
from kalendor.store.bringing import Bringing, Origin
from kalendor.store.inserting import Progress
from kalendor.store.intakes import Intake, no_progress
from kalendor.store.sources import Source

SHOWN_RECORDS = 8
MOST_WAITING = 24
STDIN = "standard input"
OF_DATES = frozenset(
    ("to", "until", "till", "from", "since", "of", "for", "as", "at", "and", "in")
)  # words that lead to a date


def source_name_for(file_name: str) -> str:
    """A name to offer for a new source: the file's own, without its ending and dates.

    >>> source_name_for("ticket_sales-2026-07.csv.gz"), source_name_for("counters-to-2025-10.csv")
    ('Ticket sales', 'Counters')
    """
    stem = file_name.split(".")[0]
    all_words = stem.replace("_", " ").replace("-", " ").split()
    words = [w for w in all_words if not w.isdigit()]
    while len(words) > 1 and len(words) < len(all_words) and words[-1].casefold() in OF_DATES:
        words.pop()
    name = " ".join(words) or stem
    return name[:1].upper() + name[1:]


def look_at(
    desk: Desk, file_name: str, data: bytes, source: str | None, recipe: Recipe | None = None, mends: int | None = None
) -> Waiting:
    """Read bytes at hand and let them wait, as `look_at_held` does."""
    return look_at_held(desk, file_name, hold(desk, [data]), source, recipe, mends)


def look_at_held(
    desk: Desk,
    file_name: str,
    held: Held,
    source: str | None,
    recipe: Recipe | None = None,
    mends: int | None = None,
    so_far: ReadSoFar = unwatched,
) -> Waiting:
    """Read a file and let it wait, by the source's recipe where it has one; what is not read is let go. A file that is not
    like those before waits with what it is taken to be.

    Raises IntakeError where it cannot be read.
    """
    name = source or source_name_for(file_name)
    found = desk.sources.named(name)
    how = recipe or (found.recipe if found else Recipe())
    if mends is not None and recipe is None:
        how = desk.intakes.recipe_of(desk.intakes.one(mends))
    if found is not None and mends is None and found.report_id is not None:
        raise IntakeError(f"{name} is a report's summary; it is worked out from the report, and takes no files")
    try:
        asked, changes = Asked(held.path, file_name, how, guarded=mends is not None), None
        if found is not None and recipe is None and mends is None:
            reading, changes = read_beside(desk, found, asked, so_far)
        else:
            reading = desk.readers.read(asked, so_far)
    except BaseException:
        held.path.unlink(missing_ok=True)
        raise
    already = desk.intakes.brought_before(found, held.sha256) if found else None
    waiting = Waiting(
        uuid4().hex, file_name, held.size, held.sha256, held.path, name, reading, already,
        how.join if mends is None else "add", tuple(how.join_by), mends=mends, always=recipe is not None, changes=changes,
    )  # fmt: skip
    _let_wait(desk, waiting)
    return waiting


def _let_wait(desk: Desk, fresh: Waiting) -> None:
    """Keep a file among those that wait; of too many, those that waited longest are let go, but for any being kept."""
    desk.waiting[fresh.token] = fresh
    for token in list(desk.waiting)[:-MOST_WAITING]:
        if token not in desk.keeping:
            leave(desk, token)


def waiting(desk: Desk, token: str) -> Waiting:
    """The file that waits under a token.

    Raises IntakeError where it waits no more.
    """
    found = desk.waiting.get(token)
    if found is None:
        raise IntakeError("this file is no longer waiting; choose it again")
    return found


def leave(desk: Desk, token: str) -> None:
    """Let a waiting file go; nothing of it is kept."""
    found = desk.waiting.pop(token, None)
    if found is not None:
        found.path.unlink(missing_ok=True)


@dataclass(frozen=True)
class Change:
    """What to change in how a waiting file is read and joined; None leaves as it is."""

    columns: dict[str, ColumnReading] | None = None
    source: str | None = None
    sheet: str | None = None
    area: str | None = None
    delimiter: str | None = None
    encoding: str | None = None
    heading_line: int | None = None
    foot_lines: int | None = None
    join: Join | None = None
    join_by: list[str] | None = None
    always: bool | None = None
    take_added: bool | None = None
    pairs: dict[str, str | None] | None = None


def read_again(desk: Desk, token: str, change: Change) -> Waiting:
    """A waiting file read or joined in another way; `pairs` says which of its headings are which columns of the source. One
    that is to go to another source that is there is read as that source's files are, and joins as they do.

    Raises IntakeError where it cannot be read so; it waits as before then.
    """
    before = _for_source(desk, waiting(desk, token), change.source)
    recipe = before.reading.recipe
    told = {k: v for k in LAID_OUT if (v := getattr(change, k)) is not None}
    reading = before.reading
    source = desk.sources.named(before.source)
    if change.pairs and before.changes is not None and source is not None:
        recipe = matched(recipe, source, before.changes, change.pairs)
    if change.columns or change.pairs or told:
        columns = {} if (told.keys() - {"foot_lines"}) else recipe.columns | _told(recipe, change.columns or {})
        recipe = recipe.model_copy(update={"columns": columns, **({"area": None} if "sheet" in told else {}), **told})
        asked = Asked(before.path, before.file_name, recipe, guarded=before.mends is not None)
        known = desk.sources.records(source) if source else Records({}, 0)
        reading = read_matched(desk, known, asked, recipe, change.pairs or ())
    name = change.source or before.source
    found = desk.sources.named(name)
    by = before.join_by if change.join in (None, before.join) else ()
    after = replace(
        before,
        reading=reading,
        source=name,
        already=desk.intakes.brought_before(found, before.sha256) if found else None,
        join=change.join or before.join,
        join_by=by if change.join_by is None else tuple(change.join_by),
        always=before.always if change.always is None else change.always,
        take_added=before.take_added if change.take_added is None else change.take_added,
    )
    desk.waiting[token] = after
    return after


def _for_source(desk: Desk, found: Waiting, name: str | None) -> Waiting:
    """A waiting file read as the files of another source are, where it is to go there."""
    source = None if name is None or name == found.source else desk.sources.named(name)
    if source is None:
        return found if name in (None, found.source) else replace(found, changes=None)
    if source.report_id is not None:
        raise IntakeError(f"{source.name} is a report's summary; it is worked out from the report, and takes no files")
    reading, changes = read_beside(desk, source, Asked(found.path, found.file_name, source.recipe))
    joins = source.recipe
    return replace(
        found,
        reading=reading,
        changes=changes,
        source=source.name,
        join=joins.join,
        join_by=tuple(joins.join_by),
        always=False,
    )


def _told(recipe: Recipe, columns: dict[str, ColumnReading]) -> dict[str, ColumnReading]:
    """What is told of columns, each with the headings that it is known by, unless these are told as well."""
    found = {}
    for name, told in columns.items():
        before = recipe.columns.get(name, told)
        kept = {
            key: getattr(before, key) for key in ("headings", "optional", "unit") if key not in told.model_fields_set
        }
        found[name] = told.model_copy(update=kept)
    return found


def keep(
    desk: Desk,
    token: str,
    again: bool = False,
    progress: Progress = no_progress,
    seen: bool = False,
    matched: bool = False,
    origin: Origin = "file",
) -> tuple[Source, Intake]:
    """Keep a waiting file's records.

    Raises IntakeError for a file whose content is there already, unless it is asked for again; HeldError for one that would
    take away or count twice what is there, and ChangedError for one that is not like those before, unless a person has `seen`
    what it would do; with `matched`, what its columns are need not be seen where it is beyond doubt.
    """
    with desk.lock:
        found = waiting(desk, token)
        if token in desk.keeping:
            raise IntakeError(f"{found.file_name}: it is being kept already")
        desk.keeping.add(token)
    try:
        if not seen:
            _check_alike(found, matched)
        if not found.reading.records.count and desk.sources.named(found.source) is None:
            raise IntakeError(f"{found.file_name}: it holds no record below its headings; nothing was brought in")
        way = Bringing(
            found.source, found.reading, found.sha256, found.size, desk.now(), found.join, found.join_by, found.take_added,
            found.mends, again, path=found.path, always=found.always, widen=found.changes is not None, held_over=None if seen or again else _held_over(desk, found.source),
            origin=origin,
        )  # fmt: skip
        kept = desk.intakes.bring_in(way, progress)
        leave(desk, token)
    finally:
        desk.keeping.discard(token)
    return kept


def _held_over(desk: Desk, name: str) -> float:
    source = desk.sources.named(name)
    return source.recipe.held_over if source else Recipe().held_over


def _check_alike(found: Waiting, matched: bool) -> None:
    """Raises ChangedError where a waiting file is not like those before. `matched`: what is beyond doubt will do; new columns
    that are not taken in need nobody's word."""
    changes = found.changes
    if changes is None or (matched and changes.sure):
        return
    if changes.columns or changes.layout or found.take_added:
        said = f"{found.file_name}: not like the files before, nothing was brought in: {changes.said}"
        raise ChangedError(said, changes.sure)


def bring_in_file(
    desk: Desk, path: Path, source: str, recipe: Recipe | None = None, seen: bool = False, matched: bool = False
) -> tuple[Source, Intake]:
    """A file on disk, or - for standard input, brought into a source in one go, by its recipe; new columns are left out. `matched`: where it is not
    like the files before and what its columns are is beyond doubt, it is read so.

    Raises IntakeError where it cannot be read, ChangedError where it does not fit, HeldError where a person is to see first
    what it would do.
    """
    name, held = (
        (STDIN, hold(desk, parts_of(sys.stdin.buffer))) if str(path) == "-" else (path.name, hold_file(desk, path))
    )
    found = look_at_held(desk, name, held, source, recipe)
    if desk.sources.named(source) is not None:
        found = read_again(desk, found.token, Change(take_added=False))
    try:
        return keep(desk, found.token, seen=seen, matched=matched)
    except IntakeError:
        leave(desk, found.token)
        raise


def set_joining(desk: Desk, source: Source, join: Join, join_by: list[str], held_over: float) -> None:
    """Say how a source's files join what is there, from the next one on.

    Raises DefinitionError where it goes by a column that the source has not, or by none that it can go by.
    """
    desk.linked.check_kept(source.id, source.name)
    names = [column.name for column in source.columns]
    lost = [name for name in join_by if name not in names]
    if lost:
        raise DefinitionError(f"{source.name} has no column {lost[0]!r} to join by; it has {', '.join(names)}")
    dated = [column.name for column in source.columns if column.kind in DATED]
    if join == "update" and not join_by:
        raise DefinitionError(f"{source.name}: records of the same key are replaced by key columns; name at least one")
    if join in ("replace_months", "replace_dates") and not set(join_by[:1] or dated) & set(dated):
        raise DefinitionError(f"{source.name}: months and days are replaced by a date column, and it has none to go by")
    with desk.workspace.change() as db:
        desk.sources.set_joining(db, source.id, join, join_by, held_over)


def first_records(records: Records) -> list[list[str]]:
    """The first few records as text, to be looked at."""
    picked = [as_read(column.take(np.arange(min(SHOWN_RECORDS, records.count)))) for column in records.columns.values()]
    return [list(row) for row in zip(*picked, strict=True)]


def refused_file(desk: Desk, intake_id: int) -> bytes:
    """An intake's refused lines that were not mended, as a delimited file under their headings, to be mended and brought in."""
    intake = desk.intakes.one(intake_id)
    lines = [line for line in desk.intakes.refused(intake_id) if line.mended_by is None]
    held = desk.workspace.files / intake.sha256
    headings = desk.readers.read(Asked(held, intake.file_name, desk.intakes.recipe_of(intake))).headings
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([harmless(heading) for heading in headings])
    for line in lines:
        if len(line.cells) == len(headings):
            writer.writerow([harmless(cell) for cell in line.cells])
        else:
            out.write(_guarded_line(line.cells[0] if line.cells else line.text))
    return out.getvalue().encode("utf-8", "replace")


def _guarded_line(text: str) -> str:
    """A line that has not as many fields as headings, as it stands but for fields that a program might run."""
    fields = text.rstrip("\r\n").split(",")
    return ",".join(harmless(field) for field in fields) + "\n"
