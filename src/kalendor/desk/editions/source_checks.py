"""The checks of a report's source before an edition is issued: is it complete, does it count twice, was everything
read."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kalendor.core.groupings.cadence_periods import Recurring, periods_before
from kalendor.core.placing.lookups import looked_up
from kalendor.core.values.columns import Kind, Records, day_number, days_of
from kalendor.core.values.keys import key
from kalendor.core.values.notation import grouped
from kalendor.definitions.report import LookupColumn, Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.coverage import cover, date_column, filling
from kalendor.desk.editions.owed import Recurs
from kalendor.desk.ingredients import Ingredients
from kalendor.desk.records import complete, material, stamp_of
from kalendor.store.keys import keys_of

State = Literal["ok", "look", "stop"]
SHOWN, NEARLY_UNIQUE, FEWEST_CODES, USUAL = 3, 0.98, 50, 2


@dataclass(frozen=True)
class Check:
    """The result of one check: passed, to be confirmed by a person, or failed; in words."""

    kind: str
    state: State
    words: str


def covers(desk: Desk, one: Recurs, report: Report, period: Recurring) -> Iterator[Check]:
    """Whether the report's source covers the period."""
    source = desk.sources.named(report.source)
    if source is None:
        return
    name = date_column(report, complete(desk, source).records)
    if name is None:
        yield Check("source", "ok", f"{source.name} has no dates, so whether it is complete cannot be told")
        return
    known = filling(desk, source, name)
    how = cover(known, period, periods_before(one.calendar, period), day_number(desk.today()))
    if how.filled in ("whole", "open"):
        yield Check("source", "ok", f"{source.name} covers all of {period.label}, {how.words}")
    elif how.filled == "missing":
        yield Check("empty", "stop", f"{source.name} has no record of {period.label} yet")
    else:
        yield Check("source", "stop", f"{source.name} covers {period.label} only in part: {how.words}")


def refused(desk: Desk, report: Report, period: Recurring) -> Iterator[Check]:
    """Refused lines, not corrected since, of files that overlap the period."""
    source = desk.sources.named(report.source)
    if source is None:
        return
    linked = desk.linked.of(source.id)
    if linked is not None and linked.facts.refused:
        lines = "line was" if linked.facts.refused == 1 else "lines were"
        yield Check(
            "refused", "look", f"{grouped(linked.facts.refused)} {lines} refused in the files of {linked.folder}"
        )
    first, last = period.days
    for intake in desk.intakes.of(source):
        here = intake.undone_at is None and (intake.first_day or "") <= last and (intake.last_day or "9") >= first
        if not here or not intake.refused:
            continue
        left = sum(1 for line in desk.intakes.refused(intake.id) if line.mended_by is None)
        if left:
            lines = "line was" if left == 1 else "lines were"
            yield Check("refused", "look", f"{grouped(left)} {lines} refused in {intake.file_name}")


def unmatched(desk: Desk, report: Report, found: Ingredients, period: Recurring) -> Iterator[Check]:
    """Look-ups that leave records of the period without a match."""
    source = desk.sources.named(report.source)
    if source is None or desk.linked.of(source.id) is not None:
        return
    records = complete(desk, source).records
    within = _within(report, records, period)
    records = records if within is None else records.take(np.flatnonzero(within))
    tables = dict(material(desk, found).looked_up or {})
    for made in (*source.made, *report.columns):
        if not isinstance(made, LookupColumn) or any(key not in records.columns for key in made.lookup.own):
            continue
        other = desk.sources.named(made.lookup.source)
        if other is None:
            continue
        table = tables.get(made.lookup.source) or complete(desk, other).records
        missed = looked_up(records, made.lookup, {made.lookup.source: table}).unmatched
        if missed:
            noun = "record finds" if missed == 1 else "records find"
            yield Check("unmatched", "look", f"{grouped(missed)} {noun} no {made.name} in {other.name}")


def _within(report: Report, records: Records, period: Recurring) -> NDArray[np.bool_] | None:
    """Which records are in a period, by the report's date column; None if it has none."""
    name = date_column(report, records)
    if name is None:
        return None
    column = records.columns[name]
    days = days_of(column)
    found: NDArray[np.bool_] = column.present & (days >= period.first) & (days <= period.last)
    return found


def repeated(desk: Desk, report: Report, period: Recurring) -> Iterator[Check]:
    """Records of the period that occur more than once: equal in every column, more often than elsewhere in the source,
    or with the same code as another record."""
    source = desk.sources.named(report.source)
    if source is None or desk.linked.of(source.id) is not None:
        return
    records = desk.sources.records(source)
    within = _within(report, records, period)
    if within is None or not within.any():
        return
    own = stamp_of(desk, source)
    twice = desk.memory(key("standing twice", own), lambda: _twice(keys_of(records)))
    here, elsewhere = twice[within], twice[~within]
    if here.any() and here.mean() > USUAL * (elsewhere.mean() if len(elsewhere) else 0.0):
        count = int(here.sum())
        noun = "record stands" if count == 1 else "records stand"
        yield Check("repeated", "look", f"{grouped(count)} {noun} more than once, every column the same")
        return
    code = desk.memory(key("code", own), lambda: _code(records))
    if not code:
        return
    column = records.columns[code]
    again = desk.memory(key("codes twice", own), lambda: _twice(column.values)) & within & column.present
    if again.any():
        values = list(dict.fromkeys(str(column.item(int(at))) for at in np.flatnonzero(again)))
        shown = ", ".join(values[:SHOWN]) + (f" and {grouped(len(values) - SHOWN)} more" if len(values) > SHOWN else "")
        count = int(again.sum())
        noun = "record has" if count == 1 else "records have"
        yield Check("repeated", "look", f"{grouped(count)} {noun} a {code} that stands more than once: {shown}")


def _twice(keys: np.ndarray) -> NDArray[np.bool_]:
    """Which keys occur more than once."""
    _, places, counts = np.unique(keys, return_inverse=True, return_counts=True)
    found: NDArray[np.bool_] = counts[places] > 1
    return found


def _code(records: Records) -> str:
    """The first text column that identifies nearly every record; empty if there is none."""
    if records.count < FEWEST_CODES:
        return ""
    return next(
        (
            name
            for name, column in records.columns.items()
            if column.kind is Kind.TEXT
            and column.present.all()
            and len(column.words) >= NEARLY_UNIQUE * records.count
            and len(np.unique(column.values)) >= NEARLY_UNIQUE * records.count
        ),
        "",
    )
