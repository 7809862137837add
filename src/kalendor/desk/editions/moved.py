"""What moved from an edition to another, or to now, and why: records first, then look-ups, groupings and calendars, then the
report itself. The parts of a cell are the differences of the sheets in between, so they add up exactly to its move."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

import numpy as np

from kalendor.core.groupings.trees import placing
from kalendor.core.sheet.moves import Move, Place, Places, moves
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.values.keys import key
from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Tree
from kalendor.desk.desk import Desk
from kalendor.desk.editions.came import Behind, Record, different
from kalendor.desk.editions.ingredients import HeldGrouping, HeldSource, Ingredients, rows_of, sheet_of, trail_of
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.standing import ingredients_now
from kalendor.desk.records import looked_up_by
from kalendor.errors import DefinitionError, KalendorError
from kalendor.output.brief import brief

TITLES = {
    "taken_back": "Files were taken back", "late": "Records came late", "corrected": "Records were corrected",
    "looked_up": "Look-ups and made columns changed", "groupings": "Groupings and calendars changed",
    "report": "The report changed",
}  # fmt: skip
MOST_LISTED = 200
SHOWN_VALUES = 12


@dataclass(frozen=True, eq=False)
class Step:
    """One step from the earlier sheet to the later: its kinds (several where a sheet between them cannot be worked out),
    what the sheet is made from after it, and the sheet."""

    kinds: tuple[str, ...]
    after: Ingredients
    sheet: Sheet
    places: Places

    @property
    def title(self) -> str:
        """What changed, in words."""
        return "; ".join([TITLES[self.kinds[0]], *(TITLES[k][:1].lower() + TITLES[k][1:] for k in self.kinds[1:])])


@dataclass(frozen=True, eq=False)
class Moved:
    """All between an edition and another, or now: the sheet first (`steps[0]`), then a step for each cause in the fixed order,
    and the cells that moved."""

    steps: tuple[Step, ...]
    cells: tuple[Move, ...]

    def values(self, place: Place) -> list[Any]:
        """What stands in a cell after each step, from the earlier sheet on."""
        return [step.places.value(place) for step in self.steps]


@dataclass(frozen=True)
class Came:
    """A record that came into a cell or left it: which, from where, and what it gives."""

    came: bool
    file: str
    line: int
    part: str
    amount: str
    values: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Part:
    """What one cause moved in a cell: `by` how much (None for what is no number), from what to what, in words and records."""

    title: str
    kinds: tuple[str, ...]
    by: Decimal | None
    was: Any
    now: Any
    words: tuple[str, ...] = ()
    columns: tuple[str, ...] = ()
    records: tuple[Came, ...] = ()
    more: int = 0


def moved(desk: Desk, edition_id: int, against: int | None) -> Moved:
    """What moved from an edition to another (issued before or after), or to now (None).

    Raises MissingError where one is not there, DefinitionError where the report cannot be worked out now.
    """
    before = opened(desk, edition_id)
    if against is None:
        after = ingredients_now(desk, before.edition)
        sheet = sheet_of(desk, after)
    else:
        other = opened(desk, against)
        after, sheet = other.ingredients, other.sheet
    own = key("moved", before.edition.sha256, after.rests, against)
    return desk.sheets(own, lambda: _moved(desk, before.ingredients, before.sheet, after, sheet))


def _moved(desk: Desk, before: Ingredients, was: Sheet, after: Ingredients, now: Sheet) -> Moved:
    first, last = Places(was), Places(now)
    steps = [Step((), before, was, first)]
    pending: list[str] = []
    between = list(_between(before, after, desk))
    for kind, ingredients in between[:-1]:
        pending.append(kind)
        if ingredients.rests == steps[-1].after.rests:
            pending.remove(kind)
            continue
        try:
            sheet = sheet_of(desk, ingredients)
        except KalendorError:
            continue  # cannot be worked out alone: it goes with the next step
        steps.append(Step(tuple(pending), ingredients, sheet, Places(sheet)))
        pending = []
    steps.append(Step((*pending, "report"), after, now, last))
    return Moved(tuple(steps), tuple(moves(first, last)))


def _between(before: Ingredients, after: Ingredients, desk: Desk) -> Iterator[tuple[str, Ingredients]]:
    """What the sheets in between are made from, in the fixed order; the last is what the later sheet is made from."""
    later = {source.id: source for source in after.sources}
    laid = {name.casefold() for name in (before.report.source, *(b.source for b in before.report.beside))}

    def with_files(found: Ingredients, kind: str) -> Ingredients:
        changed = []
        for source in found.sources:
            now = later.get(source.id)
            if source.name.casefold() in laid and now is not None:
                fresh = _with_columns(source, now)
                changed.append(_stepped(desk, fresh, now, kind))
            else:
                changed.append(source)
        return replace(found, sources=tuple(changed))

    found = before
    for kind in ("taken_back", "late", "corrected"):
        found = with_files(found, kind)
        yield kind, found
    found = replace(found, sources=_looked_up(found, later, after))
    yield "looked_up", found
    found = replace(found, groupings=tuple(_later(grouping, after) for grouping in found.groupings))
    yield "groupings", found
    yield "report", after


def _later(grouping: HeldGrouping, after: Ingredients) -> HeldGrouping:
    """A grouping as it is later, under the name that the report knows it by; one made anew under its name stands in for it."""
    own = next((g for g in after.groupings if g.id == grouping.id), None)
    alike = (g for g in after.groupings if (g.body.kind, g.body.name) == (grouping.body.kind, grouping.body.name))
    now = own or next(alike, None)
    if now is None:
        return grouping
    return HeldGrouping(now.id, now.revision, now.body.model_copy(update={"name": grouping.body.name}))


def _stepped(desk: Desk, source: HeldSource, now: HeldSource, kind: str) -> HeldSource:
    """A source's files after a step: those taken back gone, then those that came and replaced nothing, then all."""
    stay = set(source.intakes) & set(now.intakes)
    if kind == "taken_back":
        return replace(source, intakes=tuple(sorted(stay)))
    fresh = [id for id in now.intakes if id not in source.intakes]
    late = [id for id in fresh if kind == "corrected" or desk.intakes.one(id).replaced == 0]
    refused = replace(source, refused=now.refused, mended=now.mended) if kind == "corrected" else source
    return replace(refused, intakes=tuple(sorted([*stay, *late])))


def _with_columns(source: HeldSource, now: HeldSource) -> HeldSource:
    """A source with the columns that it has later, where those it had are among them as they were."""
    here = {c.name: c for c in now.columns}
    return replace(source, columns=now.columns) if all(here.get(c.name) == c for c in source.columns) else source


def _looked_up(found: Ingredients, later: dict[int, HeldSource], after: Ingredients) -> tuple[HeldSource, ...]:
    """The sources with their look-ups and made columns as they are later, under the names that the report knows them by."""
    there = [replace(later[s.id], name=s.name) if s.id in later else s for s in found.sources]
    names = {s.name.casefold() for s in there}
    wanted = {name.casefold() for s in there for name in looked_up_by(s.made)}
    more = [s for s in after.sources if s.name.casefold() in wanted - names]
    return (*there, *more)


def parts(desk: Desk, found: Moved, place: Place, listed: bool = True) -> list[Part]:
    """What each cause moved in a cell, in the fixed order; where `listed`, with the records that came and left.

    Raises DefinitionError for a cell that is on neither sheet.
    """
    first, last = found.steps[0], found.steps[-1]
    if first.places.at(place) is None and last.places.at(place) is None:
        raise DefinitionError("there is no such cell on either sheet")
    result = []
    for before, step in zip(found.steps, found.steps[1:], strict=False):
        was, now = before.places.value(place), step.places.value(place)
        part = Part(step.title, step.kinds, difference(was, now), was, now)
        if listed:
            part = replace(part, words=tuple(_words(before.after, step, desk)), **_records(desk, before, step, place))
            if "groupings" in step.kinds:
                part = replace(part, words=(*part.words, *_placements(before, step, part)))
        result.append(part)
    return result


def difference(was: Any, now: Any) -> Decimal | None:
    """By how much a number moved, a blank one as 0; None for what is no number."""
    if any(value is not None and not isinstance(value, Decimal) for value in (was, now)):
        return None
    return (now or Decimal(0)) - (was or Decimal(0))


def _words(before: Ingredients, step: Step, desk: Desk) -> Iterator[str]:
    after = step.after
    then = {s.id: s for s in before.sources}
    for source in after.sources:
        was = then.get(source.id)
        if was is None or was.intakes == source.intakes:
            continue
        for id in sorted(set(was.intakes) ^ set(source.intakes)):
            intake = desk.intakes.one(id)
            way = "brought in" if id in source.intakes else "taken back"
            on = intake.brought_at if id in source.intakes else intake.undone_at or intake.brought_at
            yield f"{intake.file_name}, {way} {on[:10]}"
    for source in after.sources:
        was = then.get(source.id)
        if was is not None and was.made != source.made:
            yield f"made columns of {source.name}: {_made(was)} → {_made(source)}"
    known = {g.id: g for g in before.groupings}
    for grouping in after.groupings:
        had = known.get(grouping.id)
        if had is not None and had.body != grouping.body:
            yield f"{grouping.body.name}, revision {had.revision} → {grouping.revision}"
    if "report" in step.kinds and before.report.worked_part() != after.report.worked_part():
        yield from _phrases(before.report, after.report)


def _made(source: HeldSource) -> str:
    return ", ".join(column.name for column in source.made) or "none"


def _phrases(before: Report, after: Report) -> Iterator[str]:
    was, now = brief(before), brief(after)
    yield f"{was} → {now}" if was != now else "the same phrases, set otherwise"


def _placements(before: Step, step: Step, part: Part) -> Iterator[str]:
    """Values that moved within the trees, among the records that came and left."""
    then = {g.id: g.body for g in before.after.groupings if isinstance(g.body, Tree)}
    entries = [e for e in (*step.after.report.down, *step.after.report.across) if isinstance(e, CategoryEntry)]
    for grouping in step.after.groupings:
        was, body = then.get(grouping.id), grouping.body
        if was is None or not isinstance(body, Tree) or was == body:
            continue
        at = [i for e in entries if e.tree == body.name for i, name in enumerate(part.columns) if name == e.category]
        values = list(dict.fromkeys(record.values[i] for record in part.records for i in at if record.values[i]))
        for value in values[:SHOWN_VALUES]:
            old, new = _under(was, value), _under(body, value)
            if old != new:
                yield f"{value} from {old} to {new}"


def _under(tree: Tree, value: str) -> str:
    path = placing(tree, [value]).paths[0]
    labels = [place.label for place in path[:-1]] or [path[-1].label]
    return " › ".join(dict.fromkeys(labels))


def _records(desk: Desk, before: Step, step: Step, place: Place) -> dict[str, Any]:
    """The records that came into a cell by a step or left it, or give it another amount."""
    if "report" in step.kinds and before.after.report.source != step.after.report.source:
        return {}
    try:
        was, now = _behind(desk, before, place), _behind(desk, step, place)
    except KalendorError:
        return {}
    source = step.after.source(step.after.report.source)
    columns = tuple(c.name for c in source.columns) if source else ()
    found = different(was, now, columns)
    origins = _origins(desk, [record for _, record in found[:MOST_LISTED]])
    listed = [
        Came(came, *origins.get((one.source, one.row), ("", 0)), one.part, one.amount, one.values)
        for came, one in found[:MOST_LISTED]
    ]
    return {"columns": columns, "records": tuple(listed), "more": max(0, len(found) - MOST_LISTED)}


def _behind(desk: Desk, step: Step, place: Place) -> dict[str, Behind]:
    """The records behind a cell after a step, by part."""
    at = step.places.at(place)
    if at is None or not any(figure.name == place.figure for figure in step.sheet.figures):
        return {}
    trail = trail_of(desk, step.after, step.sheet, Cell(place.figure, *at))
    ids, rows = _row_ids(desk, step.after)
    return {
        name: Behind(ids[part.rows], rows[part.rows], part.amounts, part.rows, trail.records)
        for name, part in trail.operand.parts()
        if part.rows is not None
    }


def _row_ids(desk: Desk, found: Ingredients) -> tuple[np.ndarray, np.ndarray]:
    """The source and row of each record that a report is worked out from, in order."""
    sources = [found.source(name) for name in (found.report.source, *(b.source for b in found.report.beside))]
    kept = [(source.id, rows_of(desk, source).rows) for source in sources if source is not None]
    ids = np.concatenate([np.full(len(rows), id, dtype=np.int64) for id, rows in kept])
    return ids, np.concatenate([rows for _, rows in kept])


def _origins(desk: Desk, wanted: Sequence[Record]) -> dict[tuple[int, int], tuple[str, int]]:
    """The file and line that rows came from."""
    found: dict[tuple[int, int], tuple[str, int]] = {}
    by_source: dict[int, list[int]] = {}
    for one in wanted:
        by_source.setdefault(one.source, []).append(one.row)
    for id, rows in by_source.items():
        origins = desk.intakes.origins(desk.sources.one(id), rows)
        found |= {(id, row): origin for row, origin in origins.items()}
    return found
