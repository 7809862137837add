"""What keeping a waiting file would do, before it is done."""

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
    """A way in which a file could join: by which columns, how many records would leave, and why it would be held."""

    join: Join
    join_by: tuple[str, ...]
    leave: int
    held: tuple[str, ...]
    about: str = ""


@dataclass(frozen=True)
class Outcome:
    """What keeping a waiting file would do: `here` of its records are there already, `replaced` would go; `months` has it
    month by month, `held` why a person is asked before it is done.

    `problem` says why it cannot be kept as it is; `added` are columns that the source has not; `unplaced` says which
    values no category tree of the source's reports has a place for; `repeated` are values of the key that stand more than
    once, in the file or in the source. `ways` are those in which it could join; `keys` is what replacing by key would do.
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
    """What keeping a waiting file would do."""
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
    """The ways in which a file could join what is there, the mildest first."""
    before, after = joint.before, joint.after
    key = guessed_key(*joint.keys) if before.count and after.count else []
    for join in get_args(Join):
        by = key if join == "update" else []
        if join == "update" and not key:
            yield JoinWay(join, (), 0, ())  # the key is still to be chosen
            continue
        with suppress(IntakeError):  # it does not go by these columns
            out = replaced(before, after, join, by, joint.keys)
            yield JoinWay(join, tuple(by), len(out), joint.judged(out, over).reasons, _about(after, join))


def _about(after: Records, join: Join) -> str:
    """The time that a way goes by, where it goes by one."""
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
    """The sources that a file would fit, where it would make a new one: all their columns are in it, as the same kinds."""
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
    """The sum of each exact column with places, as text; of amounts of several units that of each."""
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
