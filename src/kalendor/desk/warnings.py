"""What an analyst should know about a report before trusting it, each point once and where it arises."""

from collections.abc import Iterator

import numpy as np

from kalendor.core.groupings.periods import MERGING
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Column, Kind, Records, column_days, day_of
from kalendor.core.values.notation import grouped
from kalendor.definitions.axis import CategoryEntry, PeriodEntry
from kalendor.definitions.figure import Taken, with_earlier_periods
from kalendor.definitions.report import LookupColumn, Report
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete, note_on
from kalendor.store.sources import Source

MANY_LINES = 2_000
NEARLY_ALL, FEW = 0.9, 50
CURRENCY = ("currency", "ccy", "curr")
TOTALS = frozenset({"total", "totals", "grand total", "subtotal", "sub-total", "sub total"})
MOST_WORDS = 20_000


def warnings(desk: Desk, report: Report, sheet: Sheet) -> list[str]:
    """The warnings of a report and its sheet, the most serious first."""
    source = desk.sources.named(report.source)
    if source is None or sheet.tie_out.on_sheet == 0:
        return []
    records = complete(desk, source).records
    linked = desk.linked.of(source.id) is not None  # a specimen, of which nothing is counted
    return [
        *_mixed_currencies(report, records),
        *_totals_kept(records),
        *_merged_years(report, records),
        *_part_compared(report, sheet),
        *_no_base(report, sheet),
        *(() if linked else _unmatched(desk, source, report, records)),
        *(() if linked else _nearly_unique(report, records)),
        *_one_member(sheet),
        *_too_long(sheet),
    ]


def _mixed_currencies(report: Report, records: Records) -> Iterator[str]:
    grouped = {entry.category for entry in report.entries_of(CategoryEntry)}
    sums = any(isinstance(f, Taken) and f.take in ("sum", "mean") for f in report.figures)
    said = {unit for column in records.columns.values() for unit in column.unit}
    for name, column in records.columns.items():
        named = any(word in name.casefold() for word in CURRENCY)
        if not sums or not named or column.kind is not Kind.TEXT or name in grouped | said:
            continue
        if any(name in condition for condition in report.only) or len(column.words) < 2:
            continue
        used = np.unique(column.values[column.present])
        if len(used) > 1:
            few = ", ".join(column.words[i] for i in used[:4].tolist())
            ways = "say in the source that amounts are in it, group by it, or keep one of them"
            yield f"Amounts of different currencies are added up ({name}: {few}); {ways}"


def _totals_kept(records: Records) -> Iterator[str]:
    for name, column in records.columns.items():
        if column.kind is Kind.TEXT and len(column.words) <= MOST_WORDS:
            found = next(
                (word for word in column.words if word.strip().casefold() in TOTALS and _is_used(column, word)), None
            )
            if found is not None:
                yield f"{name} has records called {found!r}: a total line may have been imported as a record, and counts twice"


def _is_used(column: Column, word: str) -> bool:
    return bool(((column.values == column.words.index(word)) & column.present).any())


def _merged_years(report: Report, records: Records) -> Iterator[str]:
    entries = report.entries_of(PeriodEntry)
    yearly = {entry.period for entry in entries if "year" in entry.grains}
    for entry in entries:
        if entry.period in yearly:
            continue
        merged = next((g for g in entry.grains if isinstance(g, str) and g in MERGING and g.endswith("of_year")), None)
        column = records.columns.get(entry.period)
        span = column_days(column) if merged is not None and column is not None else None
        if span is not None and merged is not None and day_of(span[0]).year < day_of(span[1]).year:
            if report.window is not None and report.window.show.last == 1:
                continue
            years = f"{day_of(span[0]).year} to {day_of(span[1]).year}"
            yield f"{merged.replace('_', ' ').capitalize()} adds up the years {years}"


def _part_compared(report: Report, sheet: Sheet) -> Iterator[str]:
    whole = [f.name for f in with_earlier_periods(report.figures) if not f.to_date and not f.hide]
    noted = [(side, at) for side in (sheet.columns, sheet.lines) for at, note in side.notes.items() if note == "part"]
    if whole and noted:
        side, at = noted[0]
        yield f"{whole[0]} compares {side.labels[at]}, of which only a part has passed, with a whole period"


def _no_base(report: Report, sheet: Sheet) -> Iterator[str]:
    shown = {f.name: f for f in sheet.figures}
    for figure in with_earlier_periods(report.figures):
        found, own = shown.get(figure.name), shown.get(figure.compare)
        if own is not None and not own.cells.present.any():
            continue  # nothing is there that could be compared
        if found is not None and not found.cells.present.any() and (found.marks is None or not found.marks.any()):
            yield f"{figure.name} is blank throughout: its base lies before the first record"


def _unmatched(desk: Desk, source: Source, report: Report, records: Records) -> Iterator[str]:
    for made in (*source.made, *report.columns):
        if isinstance(made, LookupColumn):
            unmatched = note_on(desk, records, made).unmatched
            if unmatched:
                yield f"{made.name}: {grouped(unmatched)} records found no match in {made.lookup.source}"


def _nearly_unique(report: Report, records: Records) -> Iterator[str]:
    for entry in report.entries_of(CategoryEntry):
        if entry.tree is not None or entry.top is not None:
            continue
        column = records.columns.get(entry.category)
        if column is None or column.kind is not Kind.TEXT or records.count <= FEW:
            continue
        if len(column.words) > NEARLY_ALL * records.count:
            yield f"{entry.category} is nearly unique: it makes a line of almost every record"


def _one_member(sheet: Sheet) -> Iterator[str]:
    for side in (sheet.lines, sheet.columns):
        for k, level in enumerate(side.levels):
            here = side.depth == k + 1
            labels = set(side.labels[here].tolist())
            if len(labels) == 1 and level.kind == "category":
                yield f"{level.name} has one member only, {next(iter(labels))}"


def _too_long(sheet: Sheet) -> Iterator[str]:
    count = len(sheet.lines.shown.lines)
    if count > MANY_LINES:
        yield f"{grouped(count)} lines are more than can be read; close levels, or show the top few"
