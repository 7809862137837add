"""The records added to or removed from a number between one step and the next, each with its file and line."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from kalendor.core.sheet.moves import Place
from kalendor.core.trail.cell import Cell
from kalendor.desk.desk import Desk
from kalendor.desk.editions.came import Behind, Record, different
from kalendor.desk.editions.steps import Step
from kalendor.desk.ingredients import Ingredients
from kalendor.desk.records import rows_of
from kalendor.desk.sheets import trail_from
from kalendor.errors import KalendorError

MOST_LISTED = 200
MOST_IN_ALL = 1000


@dataclass(frozen=True)
class Came:
    """A record added to a cell or removed from it: which, from where, and its contribution."""

    came: bool
    file: str
    line: int
    part: str
    amount: str
    values: tuple[str, ...]


@dataclass(frozen=True)
class Between:
    """The records added and removed: the names of their values, the first of them, and the number of the others."""

    columns: tuple[str, ...]
    records: tuple[Came, ...]
    more: int

    @property
    def count(self) -> int:
        """The number of records added and removed."""
        return len(self.records) + self.more


NOTHING = Between((), (), 0)


def between(desk: Desk, before: Step, step: Step, place: Place) -> Between:
    """The records that a step added to a cell or removed from it, or whose contribution it changed."""
    return _listed(desk, step, _changed(desk, before, step, place), MOST_LISTED)


def between_in_all(desk: Desk, before: Step, step: Step, places: Sequence[Place]) -> Between:
    """Likewise for several cells, each record once, without its contributions."""
    found: dict[tuple[bool, int, int], tuple[bool, Record]] = {}
    for place in places:
        for came, one in _changed(desk, before, step, place):
            found.setdefault((came, one.source, one.row), (came, replace(one, part="", amount="")))
    return _listed(desk, step, [found[k] for k in sorted(found, key=lambda k: (k[1], k[2], k[0]))], MOST_IN_ALL)


def _changed(desk: Desk, before: Step, step: Step, place: Place) -> list[tuple[bool, Record]]:
    if "report" in step.kinds and before.after.report.source != step.after.report.source:
        return []
    if any(desk.linked.of(source.id) is not None for source in (*before.after.sources, *step.after.sources)):
        return []  # its records are not listed individually
    try:
        return different(_behind(desk, before, place), _behind(desk, step, place), _columns(step))
    except KalendorError:
        return []


def _columns(step: Step) -> tuple[str, ...]:
    source = step.after.source(step.after.report.source)
    return tuple(c.name for c in source.columns) if source else ()


def _listed(desk: Desk, step: Step, found: Sequence[tuple[bool, Record]], most: int) -> Between:
    origins = _origins(desk, [record for _, record in found[:most]])
    listed = tuple(
        Came(came, *origins.get((one.source, one.row), ("", 0)), one.part, one.amount, one.values)
        for came, one in found[:most]
    )
    return Between(_columns(step), listed, max(0, len(found) - most))


def _behind(desk: Desk, step: Step, place: Place) -> dict[str, Behind]:
    """The records behind a cell after a step, by part."""
    at = step.places.at(place)
    if at is None or not any(figure.name == place.figure for figure in step.sheet.figures):
        return {}
    trail = trail_from(desk, step.after, step.sheet, Cell(place.figure, *at))
    ids, rows = _row_ids(desk, step.after)
    return {
        name: Behind(ids[part.rows], rows[part.rows], part.amounts, part.rows, trail.records)
        for name, part in trail.operand.parts()
        if part.rows is not None
    }


def _row_ids(desk: Desk, found: Ingredients) -> tuple[np.ndarray, np.ndarray]:
    """The source and row of each record that a report is computed from, in order."""
    sources = [found.source(name) for name in (found.report.source, *(b.source for b in found.report.beside))]
    kept = [(source.id, rows_of(desk, source).rows) for source in sources if source is not None]
    ids = np.concatenate([np.full(len(rows), id, dtype=np.int64) for id, rows in kept])
    return ids, np.concatenate([rows for _, rows in kept])


def _origins(desk: Desk, wanted: Sequence[Record]) -> dict[tuple[int, int], tuple[str, int]]:
    """The file and line of rows."""
    found: dict[tuple[int, int], tuple[str, int]] = {}
    by_source: dict[int, list[int]] = {}
    for one in wanted:
        by_source.setdefault(one.source, []).append(one.row)
    for id, rows in by_source.items():
        origins = desk.intakes.origins(desk.sources.one(id), rows)
        found |= {(id, row): origin for row, origin in origins.items()}
    return found
