"""What each column of a source could add to a report: figures, lines, columns, windows and conditions."""

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from kalendor.core.values.days import FULL_MONTH_NAMES
from kalendor.definitions.calendar import WEEKDAYS
from kalendor.sentence.conditions import quoted_name, quoted_text
from kalendor.sentence.offers.phrase import On, Phrase, Says, Subject, Way

TAKES = (
    ("sum", "sum of total add up"),
    ("mean", "avg mean"),
    ("median", "middle"),
    ("min", "min smallest least lowest"),
    ("max", "max largest highest biggest"),
    ("stdev", "stdev spread"),
    ("variance", "spread"),
    ("count_values", "count non-blank values"),
)
GRAINS = (
    ("month", "monthly"),
    ("quarter", "quarterly"),
    ("year", "yearly annual"),
    ("week", "weekly"),
    ("day", "daily date"),
    ("half", "half-year semester"),
    ("day_of_week", "weekday of the week monday sunday"),
    ("month_of_year", "of the year years merged season"),
    ("week_of_year", "of the year years merged"),
    ("day_of_month", "of the month day number"),
)
CLOCK = (("hour_of_day", "time of day"), ("hour", "hourly"), ("minute", "by the minute"))
OF_A_CALENDAR = 4  # the coarse grains, which calendars define
WINDOWS: tuple[tuple[str, Mapping[str, Any]], ...] = (
    ("trailing year", {"last": 12, "grain": "month"}),
    ("current year to date ytd", {"this": "year"}),
    ("last year", {"last": 2, "grain": "year"}),
    ("recent", {"last": 3, "grain": "month"}),
)
AGES = (0, 30, 60, 90)
MOST_WEIGHED, MOST_WEIGHTS = 4, 3
BOTH: tuple[Way, ...] = ("down", "across")
ACROSS_FIRST: tuple[Way, ...] = ("across", "down")


def typed_number(typed: str, otherwise: int, most: int = 10_000) -> int:
    """The typed number: `top 5`, `4th largest`, `90th percentile`."""
    found = re.search(r"\d+", typed)
    return min(most, max(1, int(found[0]))) if found else otherwise


def of_number(says: Says, column: Subject, typed: str) -> Iterator[Phrase]:
    """Figures and ranges of a number column."""
    of = column.name
    for i, (take, also) in enumerate(TAKES):
        yield from says.figure({"take": take, "of": of}, also, 60 - i * 3, "sum" if take == "sum" else "figure")
    yield from says.figure(
        {"take": "percentile", "of": of, "p": float(typed_number(typed, 90, 100))}, "percentile quantile", 30
    )
    nth = typed_number(typed, 2)
    yield from says.figure({"take": "nth_largest", "of": of, "n": nth}, "nth", 28)
    yield from says.figure({"take": "nth_smallest", "of": of, "n": nth}, "nth", 26)
    if column.groups:
        yield from says.entry({"category": of}, BOTH, "group each value", 33, column.summary)
    cut = dict(column.cut or {"from": 0, "to": 1000, "step": 100})
    yield from says.entry({"bucket": of, "cut": cut}, BOTH, "ranges of buckets bands size", 32, column.summary)


def weighted(says: Says, numbers: Sequence[Subject]) -> Iterator[Phrase]:
    """The weighted averages that pairs of number columns make."""
    for column in numbers[:MOST_WEIGHED]:
        for weight in [one for one in numbers if one is not column][:MOST_WEIGHTS]:
            figure = {"take": "weighted_mean", "of": column.name, "weight": weight.name}
            yield from says.figure(figure, "weighted average mean avg", 14)


def of_date(says: Says, column: Subject, calendars: Sequence[str], own: str | None, typed: str) -> Iterator[Phrase]:
    """Periods, ages and windows of a date column; `own` is the calendar that the report uses."""
    grains = (*GRAINS, *CLOCK) if column.clock else GRAINS
    for calendar in (None, *calendars):
        fits = 8 if calendar == own else -6 if calendar else 0
        named = {"calendar": calendar} if calendar else {}
        for i, (grain, also) in enumerate(grains[:OF_A_CALENDAR] if calendar else grains):
            entry = {"period": column.name, "grains": [grain], **named}
            on = On("calendar", column.name, calendar or "")
            words = f"{also} fiscal" if calendar else also
            yield from says.entry(entry, ACROSS_FIRST, words, 58 - i * 4 + fits, column.summary, on)
    if not calendars and re.search("fis", typed, re.IGNORECASE):
        yield from _fiscal(says, column)
    yield from _weeks_from(says, column, typed)
    hint = "days to the as-of date"
    yield from says.entry({"age": column.name, "cut": list(AGES)}, BOTH, "aging overdue buckets", 34, hint)
    for i, (also, show) in enumerate(WINDOWS):
        window = {"of": column.name, "show": dict(show), **({"calendar": own} if own else {})}
        if says.report.get("window") == window:
            continue
        yield from says.clause("window", window, f"window {also} filter", 36 - i * 3, own or "window", "period", "for ")


def _fiscal(says: Says, column: Subject) -> Iterator[Phrase]:
    """Fiscal periods if there is no calendar yet: it is created at the same time."""
    for g, grain in enumerate(("quarter", "year", "month")):
        for m, month in enumerate(FULL_MONTH_NAMES[1:]):
            calendar = {
                "name": f"Fiscal year from {month}",
                "months": {"start_month": m + 2},
                "year_name": {"by": "end", "prefix": "FY", "digits": 2},
            }
            grains = ["year"] if grain == "year" else ["year", grain]
            weight = 70 - g * 20 - abs(m - 2)
            yield from _made(says, calendar, column, grains, ("across",), f"fiscal financial {grain} ending", weight)


def _weeks_from(says: Says, column: Subject, typed: str) -> Iterator[Phrase]:
    """Weeks that start on the typed weekday: their calendar is created at the same time."""
    day = next((day for day in WEEKDAYS if re.search(rf"\b{day[:3]}", typed, re.IGNORECASE)), None)
    if day is not None:
        calendar = {"name": f"Weeks from {day.capitalize()}", "months": {}, "week_start": day}
        yield from _made(says, calendar, column, ["week"], ACROSS_FIRST, "weekly starting starts weekday", 68)


def _made(
    says: Says,
    calendar: Mapping[str, Any],
    column: Subject,
    grains: Sequence[str],
    ways: Sequence[Way],
    also: str,
    weight: int,
) -> Iterator[Phrase]:
    entry = {"period": column.name, "grains": list(grains), "calendar": calendar["name"]}
    for phrase in says.entry(entry, ways, f"calendar {also}", weight, "makes the calendar"):
        yield Phrase(phrase.text, phrase.hint, phrase.tone, phrase.also, phrase.weight, calendar)


def of_category(says: Says, column: Subject, typed: str, measure: str) -> Iterator[Phrase]:
    """Lines, columns and counts of a category column; `measure` is the figure that ranks its top lines."""
    if column.groups:
        yield from says.entry({"category": column.name}, BOTH, "group", 66, column.summary)
        if re.search("top", typed, re.IGNORECASE) and measure:
            top = typed_number(typed, 5)
            entry = {"category": column.name, "top": top, "by": measure}
            yield from says.entry(entry, ("down",), f"top {top} largest best", 72, "the rest as Other")
    yield from says.figure({"take": "distinct", "of": column.name}, "count of different unique values", 22)
    yield from says.figure({"take": "count_values", "of": column.name}, "count of non-blank", 12)


def conditions(says: Says, column: Subject) -> Iterator[Phrase]:
    """Conditions on a column: an incomplete one to be finished, blanks left out, and each value if they are few."""
    begun = f"only where {says.name(column.name)} …"
    also = "filter where condition is contains between"
    yield Phrase(begun, column.summary, "condition", also, 40, begin={"only": column.name})
    name = quoted_name(column.name)
    if column.blank:
        yield says.condition(f"{name} IS NOT NULL", "leave out empty missing non-blank filter", 30)
    for value in column.values:
        yield says.condition(f"{name} = {quoted_text(value)}", f"filter {value}", 39)
