"""A column at a glance: its range, numbers of distinct and blank values, and distribution."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from kalendor.core.formulas.texts import written
from kalendor.core.values.columns import DATED, DAY_MICROSECONDS, NUMERIC, Column, Kind, Records, days_of
from kalendor.core.values.days import month_numbers
from kalendor.core.values.notation import grouped, noted, noted_day
from kalendor.desk.round_cut import round_cut
from kalendor.desk.spread import spread
from kalendor.intake.specimen import MOST_WORDS, Days, Facts
from kalendor.output.numbers import as_read, plain_approximate, plain_exact

BARS = 36
NAMED = 3
FEW, NEARLY_ALL = 50, 0.9
EARLIEST_YEAR, LATEST_YEAR = 1900, 2100


@dataclass(frozen=True)
class Profile:
    """`spread` are bar heights from 0 to 1: by month for dates, by size for numbers, the most common first for text.
    `unit` is the column that holds the unit of its amounts, empty for none; `cut` are round ranges that cover its
    numbers."""

    name: str
    kind: str
    places: int
    role: str
    lowest: str
    highest: str
    summary: str
    different: int
    blank: int
    spread: list[float]
    warning: str
    unit: str
    cut: dict[str, float] | None = None


def profiled(name: str, column: Column) -> Profile:
    """The profile of one column."""
    values = column.values if column.blank is None else column.values[column.present]
    blank = len(column) - len(values)
    if not len(values):
        return Profile(
            name,
            column.kind,
            column.places,
            _role(column),
            "",
            "",
            "all blank",
            0,
            blank,
            [],
            "every value is blank" if blank else "",
            _unit(column),
        )
    if column.kind is Kind.TEXT:
        return _of_text(name, column, values, blank)
    different = len(np.unique(values))
    low, high = _end(column, values.min()), _end(column, values.max())
    summary = low if low == high else f"{low} – {high}"
    role, warning = _role(column), ""
    if column.kind is Kind.WHOLE and int(values.min()) >= EARLIEST_YEAR and int(values.max()) <= LATEST_YEAR:
        role, warning = "category", "years, not amounts"
    elif column.kind is Kind.WHOLE and len(values) > FEW and different > NEARLY_ALL * len(values):
        role, warning = "category", "a code, not an amount"
    return Profile(
        name, column.kind, column.places, role, low, high, summary, different, blank, _bars(column, values), warning,
        _unit(column), _cut(column, values),
    )  # fmt: skip


def profiles(records: Records) -> list[Profile]:
    """The profiles of all columns, in order."""
    return [profiled(name, column) for name, column in records.columns.items()]


def of_specimen(found: Sequence[Profile], facts: Facts) -> list[Profile]:
    """Profiles of a specimen's columns, shown as those of all records; what a specimen cannot tell is left out, as is
    everything about made columns."""
    codes = "a code"  # depends on the number of distinct values, which a specimen does not know
    return [
        Profile(one.name, one.kind, one.places, one.role, "", "", "not counted", 0, 0, [], "", one.unit, one.cut)
        if one.name not in facts.blanks
        else replace(
            one,
            blank=facts.blanks.get(one.name, 0),
            spread=_by_month(facts.days[one.name]) if one.name in facts.days else [],
            warning="" if one.warning.startswith(codes) else one.warning,
            summary=one.summary if one.kind != Kind.TEXT or _few(one) else f"more than {grouped(MOST_WORDS)} different",
            different=_different(one, facts),
        )
        for one in found
    ]


def _few(found: Profile) -> bool:
    """Whether a specimen contains all distinct values of a column."""
    return found.different < MOST_WORDS


def _different(found: Profile, facts: Facts) -> int:
    """The number of distinct values in all records; 0 if unknown."""
    if found.name in facts.days and found.kind == Kind.DATE:
        return int(np.count_nonzero(facts.days[found.name].counts))
    return found.different if found.kind in (Kind.TEXT, Kind.YES_NO) and _few(found) else 0


def _by_month(days: Days) -> list[float]:
    counts = np.array(days.counts)
    months = month_numbers(np.arange(days.first, days.first + len(counts)))
    return _heights(np.bincount(months - months[0], weights=counts).astype(np.int64))


def _cut(column: Column, values: np.ndarray) -> dict[str, float] | None:
    if column.kind not in NUMERIC:
        return None
    low, high = (
        float(str(replace(column, values=np.array([end]), blank=None).item(0))) for end in (values.min(), values.max())
    )
    return round_cut(low, high, column.kind is Kind.WHOLE) if math.isfinite(low) and math.isfinite(high) else None


def _unit(column: Column) -> str:
    return " and ".join(column.unit)


def _role(column: Column) -> str:
    return "period" if column.kind in DATED else "number" if column.kind in NUMERIC else "category"


def _of_text(name: str, column: Column, values: np.ndarray, blank: int) -> Profile:
    counts = np.bincount(values, minlength=len(column.words))
    order = np.argsort(-counts, kind="stable")
    used = [int(i) for i in order if counts[i]]
    words = [column.words[i] for i in used[:NAMED]]
    summary = ", ".join(words) if len(used) <= NAMED else f"{grouped(len(used))} different"
    bars = [float(counts[i] / counts[used[0]]) for i in used[:BARS]]
    ends = sorted(column.words[i] for i in used) if len(used) <= 10_000 else words
    warning = "a code, not a grouping" if len(used) > FEW and len(used) > NEARLY_ALL * len(values) else ""
    return Profile(name, column.kind, 0, "category", ends[0], ends[-1], summary, len(used), blank, bars, warning, "")


def _end(column: Column, value: object) -> str:
    if column.percent:
        return as_read(replace(column, values=np.array([value]), blank=None))[0]
    if column.kind in DATED:
        day = int(value) // DAY_MICROSECONDS if column.kind is Kind.DATETIME else int(value)  # type: ignore[call-overload]
        return noted_day(day)
    if column.kind in (Kind.WHOLE, Kind.DECIMAL):
        return _thousands(plain_exact(int(value), column.places))  # type: ignore[call-overload]
    if column.kind is Kind.APPROXIMATE:
        return _thousands(plain_approximate(float(value)))  # type: ignore[arg-type]
    return written(Column(column.kind, np.array([value])).item(0))


def _thousands(plain: str) -> str:
    whole, point, rest = plain.partition(".")
    return noted(f"{int(whole):,}{point}{rest}" if whole not in ("", "-", "-0") else plain)


def _bars(column: Column, values: np.ndarray) -> list[float]:
    if column.kind is Kind.YES_NO:
        counts = np.bincount(values.astype(np.int64), minlength=2)
    elif column.kind in DATED:
        months = month_numbers(days_of(Column(column.kind, values.copy())))
        counts = np.bincount(months - months.min())
    else:
        counts = spread(values.astype(np.float64), BARS)
    return _heights(counts)


def _heights(counts: np.ndarray) -> list[float]:
    """Counts as bar heights, limited in number."""
    if len(counts) > BARS:
        counts = np.add.reduceat(counts, np.arange(0, len(counts), -(-len(counts) // BARS)))
    return [float(c / counts.max()) for c in counts]
