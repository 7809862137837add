"""Ambiguous values: day and month, and decimal marks. If a file's values are more plausible in the other reading, given
the source's existing records, a person is asked."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from kalendor.core.values.columns import DATED, NUMERIC, Column, Records, day_of, days_of
from kalendor.core.values.days import month_numbers
from kalendor.core.values.notation import grouped, noted
from kalendor.definitions.recipe import ColumnReading
from kalendor.intake.typed import Reading

FEWEST_DATES, LATE_DAYS, MOST_SPREAD = 12, 0.2, 3
LATE = 12  # the highest month
THOUSAND, LIKELIER = 1000.0, 3.0


@dataclass(frozen=True)
class Turned:
    """A column that is more plausible in another reading: why, in words, the settings of that reading, and the format
    or decimal mark used so far."""

    why: str
    told: dict[str, Any]
    instead: str


def turned_columns(known: Records, reading: Reading) -> Iterator[tuple[str, Turned]]:
    """The columns that are more plausible in another reading."""
    for name, column in reading.records.columns.items():
        old = known.columns.get(name)
        if old is None or not old.present.any() or not column.present.any():
            continue
        format = reading.recipe.columns[name].format or ""
        if old.kind in DATED and column.kind is old.kind and _turns(format):
            why = _dates_turned(old, column, format)
            if why:
                yield name, Turned(why, {"format": turned_format(format)}, format)
        elif name in reading.open_marks and old.kind in NUMERIC:
            mark = "." if reading.recipe.columns[name].decimal_mark == "," else ","
            why = _marks_turned(old, column)
            if why:
                words = f"with a decimal {'comma' if mark == ',' else 'point'}: {why}"
                yield name, Turned(words, {"decimal_mark": mark, "places": None}, "," if mark == "." else ".")


def _dates_turned(old: Column, column: Column, format: str) -> str:
    """Why ambiguous dates are more plausible with day and month swapped: earlier files had days after the 12th, and so
    dates concentrated in a few months. Empty if they are not."""
    days = days_of(column)[column.present]
    if len(days) < FEWEST_DATES or (_day_in_month(days) > LATE).any():
        return ""
    if (_day_in_month(days_of(old)[old.present]) > LATE).mean() < LATE_DAYS:
        return ""
    months, others = len(np.unique(month_numbers(days))), len(np.unique(month_numbers(_other_way_round(days))))
    if months <= MOST_SPREAD or others * MOST_SPREAD > months:
        return ""
    count = f"{others} month{'' if others == 1 else 's'}"
    return f"{order_of(turned_format(format))}: its dates fall in {count} then, and not in {months}"


def _marks_turned(old: Column, column: Column) -> str:
    """Why numbers like 1,234 are more plausible with the other decimal mark: they are closer to earlier values."""
    middle, before = _middle(column), _middle(old)
    other = middle * THOUSAND if _has_fractions(column) else middle / THOUSAND
    if not middle or not before or _apart(other, before) + np.log(LIKELIER) >= _apart(middle, before):
        return ""
    then, now, earlier = (noted(f"{size:,.6g}") for size in (other, middle, before))
    return f"they are about {then} then and not {now}; those before are about {earlier}"


def _middle(column: Column) -> float:
    values = np.abs(column.floats()[column.present])
    values = values[values > 0]
    return float(np.median(values)) if len(values) else 0.0


def _has_fractions(column: Column) -> bool:
    values = column.floats()[column.present]
    return bool((values != np.round(values)).any())


def _apart(one: float, other: float) -> float:
    return float(abs(np.log(one / other)))


def order_said(column: Column, found: ColumnReading, rival: bool) -> tuple[bool, str]:
    """How dates are written now, and whether that is unambiguous."""
    order = order_of(found.format or "")
    days = days_of(column)[column.present]
    late = int((_day_in_month(days) > LATE).sum())
    if rival:
        return False, f"{order}, or the other way round: every date can be read both ways"
    if _turns(found.format or ""):
        return late > 0, f"{order}: {grouped(late)} {'date' if late == 1 else 'dates'} can be read no other way"
    return True, order


def order_of(format: str) -> str:
    """A date format in words.

    >>> order_of("%d/%m/%Y"), order_of("%Y-%m-%d")
    ('day first', 'year first')
    """
    if format.startswith(("%d", "%e")):
        return "day first"
    return "month first" if format.startswith(("%m", "%b", "%B")) else "year first"


def _day_in_month(days: np.ndarray) -> np.ndarray:
    dates = days.astype("datetime64[D]")
    found: np.ndarray = (dates - dates.astype("datetime64[M]")).astype(np.int64) + 1
    return found


def _turns(format: str) -> bool:
    """Whether dates in a format could be read with day and month swapped."""
    return "%d" in format and "%m" in format and order_of(format) != "year first"


def turned_format(format: str) -> str:
    """A format with day and month swapped.

    >>> turned_format("%d/%m/%Y")
    '%m/%d/%Y'
    """
    return format.replace("%d", "%_").replace("%m", "%d").replace("%_", "%m")


def _other_way_round(days: np.ndarray) -> np.ndarray:
    """Days with day and month swapped; all are within the first twelve of a month."""
    different, codes = np.unique(days, return_inverse=True)
    turned = [d.replace(month=d.day, day=d.month) for d in map(day_of, different.tolist())]
    return np.array([(d - day_of(0)).days for d in turned], dtype=np.int64)[codes]
