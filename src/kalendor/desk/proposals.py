"""Reports proposed for a source by its columns; nothing is stored until one is used."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.columns import Records, column_days
from kalendor.definitions.axis import PeriodEntry
from kalendor.definitions.kinds import definition
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.new_report import first_figure, free_title
from kalendor.desk.profile import Profile, profiles
from kalendor.desk.records import complete
from kalendor.desk.summaries import fresh_sheet
from kalendor.errors import DefinitionError, KalendorError
from kalendor.store.sources import Source

MOST = 3
A_YEAR = 365
FEWEST, MOST_MEMBERS, BEST = 2, 60, 12
DUE = ("due", "pay", "bill", "invoice", "expire")
CLOSED = ("paid", "closed", "settled", "cleared")


@dataclass(frozen=True)
class Proposal:
    """A proposed report, and its sheet."""

    report: Report
    sheet: Sheet


def proposals(desk: Desk, source: Source) -> list[Proposal]:
    """Up to three proposed reports for a source, computed from its own records."""
    records = complete(desk, source).records
    if not records.count:
        return []
    found: list[Proposal] = []
    for title, body in _bodies(records, _calendar(desk)):
        document = {"kalendor": 1, "kind": "report", "source": source.name, "title": free_title(desk, title), **body}
        try:
            report = definition(document, "proposal", ("report",))
            assert isinstance(report, Report)
            found.append(Proposal(report, fresh_sheet(desk, report)[1]))
        except (DefinitionError, KalendorError):
            continue
        if len(found) == MOST:
            break
    return found


def _bodies(records: Records, fiscal: str | None) -> Iterator[tuple[str, dict[str, Any]]]:
    known = profiles(records)
    dates = [p for p in known if p.role == "period" and p.different > 1]
    figure = first_figure(records)
    name = figure["name"]
    named = {"calendar": fiscal} if fiscal else {}
    categories = _categories(known)
    first = categories[0].name if categories else None
    if dates and first is not None:
        day = dates[0].name
        yield (
            f"{name} by {_said(first)} and month",
            {
                "figures": [figure],
                "down": [{"category": first, "order": {"by": name, "desc": True}}],
                "across": [{"period": day, "grains": ["month"], **named}],
                "window": {"of": day, "show": {"last": 3, "grain": "month"}, **named},
            },
        )
    if dates and _spans_years(records, dates[0].name):
        day = dates[0].name
        change = {"name": "Change", "compare": name, "with": "year_earlier", "as": "percent"}
        yield (
            f"{name} by quarter, year over year",
            {
                "figures": [figure, change],
                "down": [{"period": day, "grains": ["quarter"], **named}],
                "across": [{"period": day, "grains": ["year"], **named}],
                "window": {"of": day, "show": {"last": 2, "grain": "year"}, **named},
                "totals": {"grand_across": "none"},
            },
        )
    if first is not None:
        yield from _unpaid(figure, first, dates)
    yield from _shares(figure, [one.name for one in categories])


def _unpaid(figure: dict[str, Any], category: str, dates: list[Profile]) -> Iterator[tuple[str, dict[str, Any]]]:
    """Open items by age, if there are due dates and closing dates."""
    due = next((d for d in dates if any(word in d.name.casefold() for word in DUE[:1])), None)
    due = due or next((d for d in dates if any(word in d.name.casefold() for word in DUE)), None)
    paid = next((d for d in dates if any(word in d.name.casefold() for word in CLOSED)), None)
    if due is not None and paid is not None and paid.blank:
        yield (
            f"{figure['name']} unpaid by age",
            {
                "figures": [figure],
                "down": [{"category": category, "order": {"by": figure["name"], "desc": True}}],
                "across": [{"age": due.name, "cut": [0, 30, 60, 90]}],
                "only": [f'"{paid.name}" IS NULL'],
            },
        )


def _shares(figure: dict[str, Any], categories: list[str]) -> Iterator[tuple[str, dict[str, Any]]]:
    name, first = figure["name"], categories[0] if categories else None
    figures = [figure] if figure["take"] == "mean" else [figure, {"name": "Share", "share": name}]
    if len(categories) > 1:
        yield (
            f"{name} by {_said(categories[0])} and {_said(categories[1])}",
            {"figures": figures, "down": [{"category": one} for one in categories[:2]]},
        )
    if first is not None:
        yield (
            f"{name} by {_said(first)}",
            {
                "figures": figures,
                "down": [{"category": first, "order": {"by": name, "desc": True}}],
            },
        )


def _calendar(desk: Desk) -> str | None:
    """The calendar that most reports use; the only one if none is used; else the civil year."""
    used = Counter(
        entry.calendar
        for stored in desk.definitions.all("report")
        if isinstance(stored.body, Report)
        for entry in stored.body.entries_of(PeriodEntry)
        if entry.calendar is not None
    )
    names = [stored.name for stored in desk.definitions.all("calendar")]
    found = next((name for name, _ in used.most_common() if name in names), None)
    return found or (names[0] if len(names) == 1 else None)


def _spans_years(records: Records, day: str) -> bool:
    """Whether the data include an earlier year to compare with."""
    span = column_days(records.columns[day])
    return span is not None and span[1] - span[0] > A_YEAR


def _categories(known: list[Profile]) -> list[Profile]:
    """Columns to group by, those with about a dozen values first."""
    found = [p for p in known if p.role == "category" and not p.warning and FEWEST <= p.different <= MOST_MEMBERS]
    return sorted(found, key=lambda p: (abs(p.different - BEST), p.name))


def _said(column: str) -> str:
    return column.replace("_", " ")
