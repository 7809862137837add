"""Imports a file: reads it, shows what it would do, then stores all of it or nothing."""

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
)  # words before a date in file names


def source_name_for(file_name: str) -> str:
    """A suggested name for a new source: the file's name without its extension and dates.

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
    """Read bytes from memory and let them wait, as `look_at_held` does."""
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
    """Read a file and let it wait, using the source's recipe if it has one; deletes the file if reading fails. A file
    that differs from earlier ones waits together with the proposed matching of its columns.

    Raises IntakeError if it cannot be read.
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
    """Add a file to those that wait. If there are too many, those that have waited longest are dropped, except any
    being imported."""
    desk.waiting[fresh.token] = fresh
    for token in list(desk.waiting)[:-MOST_WAITING]:
        if token not in desk.keeping:
            leave(desk, token)


def waiting(desk: Desk, token: str) -> Waiting:
    """The waiting file with that token.

    Raises IntakeError if it is no longer waiting.
    """
    found = desk.waiting.get(token)
    if found is None:
        raise IntakeError("this file is no longer waiting; choose it again")
    return found


def leave(desk: Desk, token: str) -> None:
    """Drop a waiting file; nothing of it is stored."""
    found = desk.waiting.pop(token, None)
    if found is not None:
        found.path.unlink(missing_ok=True)


@dataclass(frozen=True)
class Change:
    """Changes to how a waiting file is read and joined; None leaves a setting as it is."""

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
    """Read or join a waiting file in another way; `pairs` maps columns of the source to headings of the file. If it is
    to go to another existing source, it is read and joined as that source's files are.

    Raises IntakeError if it cannot be read that way; it then waits unchanged.
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
    """A waiting file, read as the files of another source are if it is to go there."""
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
    """The given column settings, extended with the headings by which each column is known unless these are given as
    well."""
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
    """Import the records of a waiting file.

    Raises IntakeError for a file whose content has been imported already, unless `again`; HeldError for one that would
    remove records or count them twice, and ChangedError for one that differs from earlier files, unless a person has
    `seen` its effect. With `matched`, an unambiguous matching of changed columns needs no confirmation.
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
    """Raises ChangedError if a waiting file differs from earlier ones. `matched`: an unambiguous matching is accepted,
    and so are new columns that are not imported."""
    changes = found.changes
    if changes is None or (matched and changes.sure):
        return
    if changes.columns or changes.layout or found.take_added:
        said = f"{found.file_name}: not like the files before, nothing was brought in: {changes.said}"
        raise ChangedError(said, changes.sure)


def bring_in_file(
    desk: Desk, path: Path, source: str, recipe: Recipe | None = None, seen: bool = False, matched: bool = False
) -> tuple[Source, Intake]:
    """Import a file on disk, or - for standard input, into a source in one step, by its recipe; new columns are left
    out. `matched`: if the file differs from earlier ones and the matching is unambiguous, that matching is used.

    Raises IntakeError if it cannot be read, ChangedError if it does not fit, HeldError if a person must confirm its
    effect first.
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
    """Set how a source's files join the existing records, from the next file on.

    Raises DefinitionError if it joins by a column that the source does not have, or by none that it can join by.
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
    """The first few records as text, for a preview."""
    picked = [as_read(column.take(np.arange(min(SHOWN_RECORDS, records.count)))) for column in records.columns.values()]
    return [list(row) for row in zip(*picked, strict=True)]


def refused_file(desk: Desk, intake_id: int) -> bytes:
    """The refused lines of an intake that have not been corrected, as a delimited file with their headings, to be
    corrected and imported."""
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
    """A line with the wrong number of fields, unchanged except that fields which another program might execute are
    guarded."""
    fields = text.rstrip("\r\n").split(",")
    return ",".join(harmless(field) for field in fields) + "\n"
