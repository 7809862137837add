"""Groupings over real data: the contents of each category, year and range, and which reports use them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas import texts
from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings import buckets, trees
from kalendor.core.groupings.calendars import calendar, years_of
from kalendor.core.groupings.levels import label_key
from kalendor.core.placing.material import as_of_day
from kalendor.core.takes.whole_sums import exact_sums
from kalendor.core.values.columns import DATED, EXACT, NUMERIC, Column, Kind, Records, day_number, day_of, days_of
from kalendor.definitions.axis import AgeEntry
from kalendor.definitions.buckets import Buckets
from kalendor.definitions.calendar import Calendar
from kalendor.definitions.figure import Taken
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report
from kalendor.definitions.resting import entries_on
from kalendor.definitions.tree import Node, Tree
from kalendor.desk.desk import Desk
from kalendor.desk.new_report import first_amount
from kalendor.desk.records import complete
from kalendor.desk.spread import spread
from kalendor.output.numbers import plain_exact
from kalendor.store.definitions import Stored
from kalendor.store.sources import Source

BINS = 44


@dataclass(frozen=True, eq=False)
class Subject:
    """The data over which a grouping is shown: a column of a source, and the amount to sum beside the count.
    `specimen`: the source is linked, and these are only some of its records."""

    source: Source
    records: Records
    name: str
    column: Column
    amount_name: str | None
    as_of: int
    is_age: bool = False
    specimen: bool = False

    def sums(self, codes: NDArray[np.int64], count: int) -> list[str]:
        """The sum of each group as text; negative codes are ignored."""
        amount = self.records.columns.get(self.amount_name or "")
        if amount is None or amount.kind not in EXACT:
            return [""] * count
        kept = (codes >= 0) & amount.present
        totals = exact_sums(codes[kept], amount.values[kept], count)
        return [plain_exact(int(t), amount.places) for t in totals]


def uses(desk: Desk, document: Grouping) -> list[Stored]:
    """The reports that use a grouping of that kind and name."""
    return [stored for stored in desk.definitions.all("report") if entries_on(cast(Report, stored.body), document)]


def subject(
    desk: Desk, document: Grouping, source_name: str | None, column_name: str | None, as_of: date | None = None
) -> Subject | None:
    """The data over which a grouping is shown: the requested column, else that of a report which uses it, else the best
    match."""
    if source_name is not None and column_name is not None:
        return _subject(desk, source_name, column_name, None, False, as_of)
    for stored in uses(desk, document):
        report = cast(Report, stored.body)
        entry = entries_on(report, document)[0]
        name = getattr(entry, "category", None) or getattr(entry, "period", None) or getattr(entry, "of", None)
        name = name or getattr(entry, "bucket", None) or getattr(entry, "age", None)
        found = _subject(desk, report.source, str(name), report, isinstance(entry, AgeEntry))
        if found is not None:
            return found
    return _fitting(desk, document)


def _subject(
    desk: Desk, source_name: str, name: str, report: Report | None, is_age: bool, given: date | None = None
) -> Subject | None:
    source = desk.sources.named(source_name)
    if source is None:
        return None
    records = complete(desk, source).records
    if name not in records.columns:
        return None
    taken = [f.of for f in report.figures if isinstance(f, Taken) and f.take == "sum"] if report else []
    amount = next((n for n in taken if n in records.columns), None) or first_amount(records)
    as_of = as_of_day(report, records, desk.today(), given) if report else day_number(given or desk.today())
    for condition in report.only if report else []:
        scope = Scope(records.columns, records.count, as_of)
        kept = np.flatnonzero(holds(condition, scope))
        records = Records({n: c.take(kept) for n, c in records.columns.items()}, len(kept))
    column = records.columns[name]
    linked = desk.linked.of(source.id) is not None
    return Subject(source, records, name, column, amount, as_of, is_age or column.kind in DATED, linked)


def _fitting(desk: Desk, document: Grouping) -> Subject | None:
    """The first column that the grouping can be used on; for a tree, the one with the most values that it names."""
    best: tuple[int, Source, str] | None = None
    named = {v for v, _ in _placements(document.roots)} if isinstance(document, Tree) else set()
    for source in desk.sources.all():
        for name, column in complete(desk, source).records.columns.items():
            fits = 0
            if isinstance(document, Tree) and column.kind is Kind.TEXT:
                fits = 1 + 1000 * len(named.intersection(column.words))
            elif isinstance(document, Calendar):
                fits = int(column.kind in DATED)
            elif isinstance(document, Buckets):
                fits = int(column.kind in NUMERIC)
            if fits and (best is None or fits > best[0]):
                best = (fits, source, name)
    return _subject(desk, best[1].name, best[2], None, False) if best else None


def _placements(nodes: Sequence[Node]) -> list[tuple[str, date | None]]:
    """Every value placed by name, with the day from which the placement holds."""
    return [p for n in nodes for p in ([(n.value, n.since)] if n.value is not None else _placements(n.under))]


def _moved_on(moves: Sequence[date], since: date | None) -> date | None:
    """The day on which a value leaves the place that it has had since `day`."""
    return min((day for day in moves if since is None or day > since), default=None)


@dataclass(frozen=True)
class TreeRow:
    """A row of a tree: `path` are positions from the root down (empty for a value matched by a rule).

    `since` and `until` bound a temporary placement of a value; its records are counted where it is now.
    """

    path: tuple[int, ...]
    depth: int
    label: str
    value: str | None
    rule: str
    caught: bool
    members: int
    records: int
    amount: str
    since: date | None = None
    until: date | None = None


@dataclass(frozen=True)
class TreeLook:
    """A tree over its data: its rows, the values not placed, and the number of distinct values."""

    rows: list[TreeRow]
    loose: list[TreeRow]
    values: int
    blank: int


def look_at_tree(tree: Tree, over: Subject | None) -> TreeLook:
    """Each category and value with its records and amount, and the values that neither name nor rule places."""
    text = texts.as_text(over.column) if over else None
    words = text.words if text is not None else ()
    counts, amounts = dict.fromkeys(words, 0), dict.fromkeys(words, "")
    if over is not None and text is not None:
        codes = np.where(text.blanks, -1, text.values).astype(np.int64)
        found = np.bincount(codes[codes >= 0], minlength=len(words)).tolist()
        counts = dict(zip(words, found, strict=True))
        amounts = dict(zip(words, over.sums(codes, len(words)), strict=True))
    used = [w for w in words if counts[w]]
    placed = trees.placing(tree, used)
    rows = _TreeRows(tree, placed.caught, counts, amounts)
    rows.walk(tree.roots, ())
    loose = [_value_row(v, v, (), 0, counts, amounts) for v in placed.loose]
    loose.sort(key=lambda row: -row.records)
    return TreeLook(rows.found, loose, len(used), 0 if text is None else int(text.blanks.sum()))


class _TreeRows:
    """The rows of a tree from top to bottom, with the values that a rule matches under their category."""

    def __init__(
        self, tree: Tree, caught: Mapping[str, str], counts: Mapping[str, int], amounts: Mapping[str, str]
    ) -> None:
        self.counts, self.amounts, self.found = counts, amounts, list[TreeRow]()
        self.caught: dict[str, list[str]] = {}
        for value, label in caught.items():
            self.caught.setdefault(label, []).append(value)
        self.moves: dict[str, list[date]] = {}
        for value, since in _placements(tree.roots):
            if since is not None:
                self.moves.setdefault(value, []).append(since)

    def walk(self, nodes: Sequence[Node], path: tuple[int, ...]) -> list[str]:
        """Add the rows of `nodes` and of all beneath them; returns the values that stand there now."""
        under: list[str] = []
        for i, node in enumerate(nodes):
            under += (
                self._category(node, (*path, i)) if node.value is None else self._value(node.value, node, (*path, i))
            )
        return under

    def _value(self, value: str, node: Node, here: tuple[int, ...]) -> list[str]:
        row = _value_row(value, node.label or value, here, len(here) - 1, self.counts, self.amounts)
        until = _moved_on(self.moves.get(value, []), node.since)
        if until is not None:
            row = replace(row, records=0, amount="")
        self.found.append(replace(row, since=node.since, until=until))
        return [value] if until is None else []

    def _category(self, node: Node, here: tuple[int, ...]) -> list[str]:
        at = len(self.found)
        self.found.append(TreeRow(here, len(here) - 1, node.label or "", None, node.rule or "", False, 0, 0, ""))
        below = self.walk(node.under, here)
        extra = sorted(self.caught.get(node.label or "", []), key=label_key) if node.rule else []
        for value in extra:
            self.found.append(replace(_value_row(value, value, (), len(here), self.counts, self.amounts), caught=True))
        below += extra
        records, amount = sum(self.counts.get(v, 0) for v in below), _added(below, self.amounts)
        self.found[at] = replace(self.found[at], members=len(below), records=records, amount=amount)
        return below


def _value_row(
    value: str, label: str, path: tuple[int, ...], depth: int, counts: Mapping[str, int], amounts: Mapping[str, str]
) -> TreeRow:
    return TreeRow(path, depth, label, value, "", False, 0, counts.get(value, 0), amounts.get(value, ""))


def _added(values: list[str], amounts: Mapping[str, str]) -> str:
    numbers = [amounts[v] for v in values if amounts.get(v)]
    if not numbers:
        return ""
    places = max(len(n.partition(".")[2]) for n in numbers)
    return plain_exact(sum(int(n.replace(".", "").ljust(1, "0")) for n in numbers), places)


@dataclass(frozen=True)
class YearLook:
    """A year of a calendar, and its number of records."""

    name: str
    first: date
    last: date
    days: int
    weeks: int
    working_days: int
    records: int


@dataclass(frozen=True)
class PeriodLook:
    """A period of the latest year: its names, its days, and its quarter."""

    name: str
    label: str
    first: date
    last: date
    quarter: int


def look_at_calendar(
    document: Calendar, over: Subject | None, today: date
) -> tuple[list[YearLook], list[PeriodLook], list[PeriodLook]]:
    """The years that the data cover, and the periods and quarters of the latest of them."""
    which = calendar(document)
    days = days_of(over.column)[over.column.present] if over and over.column.kind in DATED else np.zeros(0, np.int64)
    first, last = (int(days.min()), int(days.max())) if len(days) else (day_number(today), day_number(today))
    holidays = (
        np.array([day_number(h) for h in document.holidays], dtype="datetime64[D]")
        if document.holidays
        else np.zeros(0, "datetime64[D]")
    )
    years = []
    for name, start, end in years_of(which, first, last):
        span = np.datetime64(day_of(start)), np.datetime64(day_of(end + 1))
        working = int(np.busday_count(*span, holidays=holidays))
        held = int(((days >= start) & (days <= end)).sum())
        years.append(
            YearLook(name, day_of(start), day_of(end), end - start + 1, -(-(end - start + 1) // 7), working, held)
        )
    year = int(which.ordinals("year", np.array(last)))
    return years, _periods(which, "month", year), _periods(which, "quarter", year)


def _periods(which: Any, grain: str, year: int) -> list[PeriodLook]:
    start, end = (int(d) for d in which.starts("year", np.array([year, year + 1])))
    ordinals = which.ordinals(grain, np.array([start, end - 1]))
    found = []
    for ordinal in range(int(ordinals[0]), int(ordinals[1]) + 1):
        first, after = (int(d) for d in which.starts(grain, np.array([ordinal, ordinal + 1])))
        place = int(which.places(grain, np.array(ordinal))[1])
        quarter = int(which.places("quarter", which.ordinals("quarter", np.array(first)))[1])
        name = which.place_label(grain, place)
        found.append(PeriodLook(name, which.label(grain, ordinal), day_of(first), day_of(after - 1), quarter))
    return found


@dataclass(frozen=True)
class RangeLook:
    """A range of a bucket set: its label, its records, its amount."""

    label: str
    records: int
    amount: str


@dataclass(frozen=True)
class BucketLook:
    """A bucket set over its data: the histogram (counts between `low` and `high`), the cuts, and each range's contents."""

    bins: list[int]
    low: float
    high: float
    cuts: list[float]
    ranges: list[RangeLook]
    blank: int


def look_at_buckets(document: Buckets, over: Subject | None) -> BucketLook:
    """The histogram of the data from its lowest to its highest value, and each range's contents."""
    if over is None:
        plain = buckets.cuts_of(document.cut)
        cuts, labels = [float(c) for c in plain], buckets.range_labels(plain, False)
        return BucketLook([], cuts[0], cuts[-1], cuts, [RangeLook(label, 0, "") for label in labels], 0)
    found = (
        buckets.age_cuts(over.column, document.cut, over.as_of)
        if over.is_age
        else buckets.column_cuts(over.column, document.cut)
    )
    cuts = [float(c) for c in found]
    if over.is_age:
        codes, members = buckets.ages(over.column, over.name, document.cut, document.labels, over.as_of)
        values = (over.as_of - days_of(over.column))[over.column.present].astype(np.float64)
    else:
        codes, members = buckets.ranges(over.column, over.name, document.cut, document.labels)
        values = over.column.floats()[over.column.present]
    n = len(members)
    counts = np.bincount(codes, minlength=n)[:n].tolist()
    amounts = over.sums(codes.astype(np.int64), n)
    ranges = [RangeLook(label, c, a) for label, c, a in zip(members.labels, counts, amounts, strict=True)]
    low, high = (float(values.min()), float(values.max())) if len(values) else (cuts[0], cuts[-1])
    bins = spread(values, BINS).tolist() if len(values) else []
    return BucketLook(bins, low, high, cuts, ranges, int(over.column.blanks.sum()))
