"""The effect of importing a waiting file, before it is done."""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from typing import get_args

import numpy as np

from kalendor.core.takes.units import coded, units_in
from kalendor.core.takes.whole_sums import exact_sums
from kalendor.core.values.columns import EXACT, Column, Mask, Records, days_of
from kalendor.core.values.days import FULL_MONTH_NAMES
from kalendor.core.values.notation import grouped, noted_day
from kalendor.definitions.recipe import Join
from kalendor.desk.desk import Desk
from kalendor.desk.unplaced import unplaced
from kalendor.desk.waiting import Waiting
from kalendor.errors import IntakeError
from kalendor.output.numbers import plain_exact
from kalendor.store.by_hand import filed
from kalendor.store.holding import Joint, Judged, KeyLine, MonthLine, guessed_key
from kalendor.store.joining import date_column_of, dated_by, fitted, months_about, replaced
from kalendor.store.keys import MOST_NAMED, doubled
from kalendor.store.sources import MOST_COLUMNS


@dataclass(frozen=True)
class JoinWay:
    """One way of joining a file: the columns to join by, how many records would be removed, and why it would be held."""

    join: Join
    join_by: tuple[str, ...]
    leave: int
    held: tuple[str, ...]
    about: str = ""


@dataclass(frozen=True)
class Outcome:
    """The effect of importing a waiting file: `here` of its records exist already, `replaced` would be removed;
    `months` is the same by month, `held` why a person must confirm first.

    `problem` says why it cannot be imported as it is; `added` are columns that the source does not have; `unplaced`
    lists values that no category tree of the source's reports places; `repeated` are key values that occur more than
    once, in the file or in the source. `ways` are the possible ways to join; `keys` is the effect of replacing by key.
    """

    here: int = 0
    doubled: int = 0
    replaced: int = 0
    added: tuple[str, ...] = ()
    problem: str = ""
    unplaced: tuple[str, ...] = ()
    sums: tuple[tuple[str, str], ...] = ()
    months: tuple[MonthLine, ...] = ()
    held: tuple[str, ...] = ()
    repeated: tuple[str, ...] = ()
    ways: tuple[JoinWay, ...] = ()
    keys: tuple[KeyLine, ...] = ()


def outcome(desk: Desk, found: Waiting) -> Outcome:
    """The effect of importing a waiting file."""
    records = found.reading.records
    sums = sums_of(records)
    source = desk.sources.named(found.source)
    if len(records.columns) > MOST_COLUMNS:
        count = len(records.columns)
        return Outcome(
            problem=f"{found.file_name}: it has {grouped(count)} columns; a source may have {grouped(MOST_COLUMNS)}"
        )
    if source is None:
        return Outcome(doubled=doubled(records), sums=sums)
    try:
        fit = fitted(source, found.reading, found.take_added, widen=found.changes is not None)
        before = fit.beside(filed(desk.workspace, source, desk.sources.kept(source)).records)
    except IntakeError as error:
        return Outcome(problem=str(error), sums=sums)
    over = source.recipe.held_over
    joint = Joint(before, fit.records, dated_by(fit.records, found.join, found.join_by))
    ways = tuple(_ways(joint, over)) if found.mends is None else ()
    try:
        out = replaced(before, fit.records, found.join, list(found.join_by), joint.keys)
    except IntakeError as error:
        return Outcome(added=fit.added, problem=str(error), sums=sums, ways=ways)
    loose = tuple(unplaced(desk, source.name, fit.records))
    told = joint.judged(out, over) if found.mends is None else Judged()
    key = list(found.join_by) if found.join == "update" else []
    there, came = joint.keys
    twice = tuple(dict.fromkeys([*came.repeated(key), *there.repeated(key)]))[:MOST_NAMED]
    return Outcome(
        joint.alike, came.doubled(), len(out), fit.added, "", loose, sums, told.months, told.reasons, twice, ways,
        joint.by_key(key, out),
    )  # fmt: skip


def _ways(joint: Joint, over: float) -> Iterator[JoinWay]:
    """The ways in which a file could join the existing records, the least destructive first."""
    before, after = joint.before, joint.after
    key = guessed_key(*joint.keys) if before.count and after.count else []
    for join in get_args(Join):
        by = key if join == "update" else []
        if join == "update" and not key:
            yield JoinWay(join, (), 0, ())  # no key chosen yet
            continue
        with suppress(IntakeError):  # these columns cannot be the key
            out = replaced(before, after, join, by, joint.keys)
            yield JoinWay(join, tuple(by), len(out), joint.judged(out, over).reasons, _about(after, join))


def _about(after: Records, join: Join) -> str:
    """The period that a way of joining replaces, if it replaces one."""
    if join not in ("replace_months", "replace_dates"):
        return ""
    column = after.columns[date_column_of(after, [])]
    days = days_of(column)[column.present]
    if not len(days):
        return ""
    if join == "replace_dates":
        return f"{noted_day(int(days.min()))} – {noted_day(int(days.max()))}"
    months = months_about(days).tolist()
    return ", ".join(f"{FULL_MONTH_NAMES[month % 12]} {month // 12}" for month in months)


def fitting(desk: Desk, found: Waiting) -> list[str]:
    """The sources that a file would fit although it would create a new one: it has all their columns, with the same
    kinds."""
    if desk.sources.named(found.source) is not None:
        return []
    fits = []
    for source in desk.sources.all():
        if source.report_id is None and source.columns:
            try:
                fitted(source, found.reading, take_added=False)
            except IntakeError:
                continue
            fits.append(source.name)
    return fits


def sums_of(records: Records) -> tuple[tuple[str, str], ...]:
    """The sum of each exact column with decimal places, as text; for amounts of several units the sum of each."""
    found, units = [], units_in(records)
    for name, column in records.columns.items():
        if not column.places or column.kind not in EXACT or column.percent or not column.present.any():
            continue
        several = coded(column, units[name]) if name in units else None
        if several is None:
            found.append((name, _sum(column, column.present)))
            continue
        for i, unit in enumerate(several.labels):
            found.append(
                (f"{name} {unit or 'of no unit'}", _sum(column, column.present & (several.numbers.values == i)))
            )
    return tuple(found)


def _sum(column: Column, which: Mask) -> str:
    values = column.values[which]
    return plain_exact(int(exact_sums(np.zeros(len(values), np.int64), values, 1)[0]), column.places)
