"""Partials: what one partition of the records contributes to a report, and how they are merged.

A partial is the partition's records condensed: each row represents all records that the report does not distinguish,
with exact sums of their amounts. Merging concatenates rows and condenses them again, so that the result depends on
neither order nor grouping, and a sheet is computed from it as from any records.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.takings import Takings
from kalendor.core.groupings.entries import Grouped, grouped
from kalendor.core.groupings.ground import Ground
from kalendor.core.partials.by_values import values_told
from kalendor.core.partials.joining import joined, order_of, packed
from kalendor.core.partials.told_apart import told_apart
from kalendor.core.placing.material import Material, as_of_column
from kalendor.core.plan import grounded
from kalendor.core.takes.aggregate import Of
from kalendor.core.takes.condensed import Condensed, DaySpans, taking_key
from kalendor.core.takes.groups import Groups
from kalendor.core.takes.takes import TAKES
from kalendor.core.takes.whole_sums import exact_sums
from kalendor.core.trail.trail import first_date
from kalendor.core.values.columns import DATED, INT64_MOST, Array, Records, days_of
from kalendor.core.values.keys import Key
from kalendor.definitions.figure import Taken
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError

RECORDS_OF = 40  # bits for the position of a record within its partition
BESIDE = 1 << 62  # position of the records of sources beside: after the report's own
DENSE = 16  # range of numbers per occurring number up to which a table is faster than sorting
SMALL = 1 << 16
WORTH = 2  # records of equal values, from which condensing these first is worth its passes
INT32_MOST = 2**31 - 1
Index = NDArray[np.int64]


def condensed(
    report: Report, material: Material, as_of: date, start: int = 0, whole: bool = True, worded: bool = False
) -> Material:
    """The partial of a partition, whose first record has the position `start` among all records; only one partition,
    the `whole` one, includes the sources beside. `worded`: sentences are made of the sheet as well.

    Raises DefinitionError as `planned` does.
    """
    material = replace(material, part=not whole)
    ground, known = _apart(report, material, as_of, start, worded)
    told = values_told(report, ground)
    if told is not None:
        groups, first = _rows(ground.records.count, told)
        if groups.count * WORTH <= ground.records.count:
            few = _as_rows(report, material, ground, known, Takings(ground, None), groups, first)
            assert few.condensed is not None
            material, ground, known = few, grounded(report, few, as_of, as_of), few.condensed
    return _condensed(report, material, ground, known)


def rows_of(report: Report, whole: Material, material: Material, as_of: date, start: int = 0) -> Index:
    """Shape (records,): the row of a merged partial that represents each record of a partition, whose first has the
    position `start`; −1 if none does. Likewise the rows of a partial that was merged into it.

    Raises DefinitionError as `planned` does.
    """
    assert whole.condensed is not None
    part = material
    if part.condensed is None:
        part = _spread_out(report, material, as_of, start, whole.condensed.worded)
    assert part.condensed is not None
    if report.records is not None:  # each row is one record
        return _found(whole.condensed.places, part.condensed.places)
    both = [whole, part]
    together = joined(both)
    assert together.condensed is not None
    ground = grounded(report, together, as_of, as_of)
    groups, _ = _groups(report, ground, *_taking(report, ground), together.condensed.worded)
    ids = np.empty(len(groups.ids), dtype=np.int64)
    ids[order_of(both)] = groups.ids
    row_of_group = np.full(groups.count, -1, dtype=np.int64)
    row_of_group[ids[: whole.records.count]] = np.arange(whole.records.count)
    return row_of_group[ids[whole.records.count :]]


def _found(sorted_: Index, wanted: Index) -> Index:
    """The position of each wanted number among others that rise; −1 if it does not occur."""
    at = np.searchsorted(sorted_, wanted)
    there = at < len(sorted_)
    there[there] = sorted_[at[there]] == wanted[there]
    return np.where(there, at, -1)


def _apart(report: Report, material: Material, as_of: date, start: int, worded: bool) -> tuple[Ground, Condensed]:
    """A partition's records, not condensed yet, as rows that represent one record each."""
    ground = grounded(report, material, as_of, as_of)
    places = np.arange(start, start + ground.records.count, dtype=np.int64)
    places[material.records.count :] += BESIDE - start
    once = np.ones(ground.records.count, dtype=np.int64)
    own = tuple(material.records.columns)
    days = _spans(ground, as_of_column(report) or first_date(ground)) if worded else None
    return ground, Condensed(once, places, {}, ground.unit_texts, ground.origin, own, worded, days)


def _spans(ground: Ground, of: str | None) -> DaySpans | None:
    """The day of each record in a date column, as a span of one day."""
    column = ground.records.columns.get(of or "")
    if of is None or column is None or column.kind not in DATED:
        return None
    days = days_of(column)
    return DaySpans(of, np.where(column.blanks, INT64_MOST, days), np.where(column.blanks, -INT64_MOST, days))


def _spanned(groups: Groups, days: DaySpans | None) -> DaySpans | None:
    """The spans of rows that represent others."""
    if days is None:
        return None
    first, last = np.full(groups.count, INT64_MOST), np.full(groups.count, -INT64_MOST)
    np.minimum.at(first, groups.ids, days.first)
    np.maximum.at(last, groups.ids, days.last)
    return DaySpans(days.of, first, last)


def _spread_out(report: Report, material: Material, as_of: date, start: int, worded: bool) -> Material:
    """The partial of a partition in which no two records share a row."""
    ground, known = _apart(report, material, as_of, start, worded)
    every = Groups(np.arange(ground.records.count), ground.records.count, None)
    taken = _taken(report, _taking(report, ground)[1], every, known.places)
    return replace(material, records=ground.records, looked_up=None, condensed=replace(known, taken=taken))


def merged(report: Report, partials: Sequence[Material], as_of: date) -> Material:
    """Several partials as one; the result is the same in any order and grouping."""
    material = joined(partials)
    assert material.condensed is not None
    return _condensed(report, material, grounded(report, material, as_of, as_of), material.condensed)


def _condensed(report: Report, material: Material, ground: Ground, known: Condensed) -> Material:
    sides, takings = _taking(report, ground)
    groups, first = _groups(report, ground, sides, takings, known.worded)
    return _as_rows(report, material, ground, known, takings, groups, first)


def _as_rows(
    report: Report, material: Material, ground: Ground, known: Condensed, takings: Takings, groups: Groups, first: Index
) -> Material:
    """Groups of records, each as one row, and the first record of each."""
    times = exact_sums(groups.ids, known.times, groups.count)
    origin = known.origin
    return replace(
        material,
        records=Records({name: packed(c.take(first)) for name, c in ground.records.columns.items()}, len(first)),
        looked_up=None,
        part=False,
        condensed=Condensed(
            times,
            known.places[first],
            _taken(report, takings, groups, known.places),
            {name: packed(column.take(first)) for name, column in known.units.items()},
            None if origin is None else replace(origin, of=origin.of[first]),
            known.columns,
            known.worded,
            _spanned(groups, known.days),
        ),
    )


def _taking(report: Report, ground: Ground) -> tuple[Grouped, Takings]:
    sides = grouped(ground, report.down, report.across)
    return sides, Takings(ground, sides.signs)


def _groups(report: Report, ground: Ground, sides: Grouped, takings: Takings, worded: bool) -> tuple[Groups, Index]:
    """The records that a report never distinguishes as groups, and the first record of each."""
    return _rows(ground.records.count, list(told_apart(report, ground, sides, takings, worded)))


def _taken(report: Report, takings: Takings, groups: Groups, places: Index) -> Mapping[Key, Of]:
    """What the figures take of each group; errors are left to the computation of the sheet."""
    found: dict[Key, Of] = {}
    for figure in report.figures:
        if (
            not isinstance(figure, Taken)
            or TAKES[figure.take].by_value
            or (own := taking_key(figure, figure.of)) in found
        ):
            continue
        try:
            of, _ = takings.of(figure)
            of = replace(of, places=places) if of.places is None else of
            rows = TAKES[figure.take].condensed(groups, of)
            found[own] = replace(rows, column=None if rows.column is None else packed(rows.column), keys=None)
        except DefinitionError:
            continue
    return found


def _rows(count: int, told: Sequence[Array]) -> tuple[Groups, Index]:
    """Records that are equal in all numbers as groups, by first appearance, and the first record of each."""
    number: Array = np.zeros(count, dtype=np.int32)
    space = 1
    for one in told:
        low = int(one.min(initial=0))
        size = int(one.max(initial=0)) - low + 1
        if space > 1 and space * size > max(SMALL, DENSE * count):  # fewer numbers occur than are possible
            number, first = _renumbered(number, space)
            space = len(first)
        if space * size > INT64_MOST:
            different, one = np.unique(one, return_inverse=True)
            one, low, size = one.reshape(-1), 0, len(different)
        space *= size
        number = np.multiply(number, size, dtype=np.int32 if space <= INT32_MOST else np.int64)
        number += (one - low if low else one).astype(number.dtype, copy=False)
    ids, first = _renumbered(number, space)
    order = np.argsort(first, kind="stable")
    rank = np.empty(len(order), dtype=np.int64)
    rank[order] = np.arange(len(order))
    return Groups(rank[ids], len(first), None), first[order]


def _renumbered(number: Array, space: int) -> tuple[Index, Index]:
    """The rank of each number among those that occur, and the position of the first occurrence of each."""
    if space > max(SMALL, DENSE * len(number)):
        _, first, ids = np.unique(number, return_index=True, return_inverse=True)
        return ids.reshape(-1), first
    table = np.full(space, -1, dtype=np.int64)
    table[number[::-1]] = np.arange(len(number))[::-1]
    there = np.flatnonzero(table >= 0)
    first = table[there]
    table[there] = np.arange(len(there))
    return table[number], first
