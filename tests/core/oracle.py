"""A second, independent implementation of the semantics, slow and simple: dictionaries and fractions, record by
record."""

import re
import unicodedata
from collections.abc import Callable
from datetime import date, timedelta
from fractions import Fraction
from statistics import median
from typing import Any

Record = dict[str, Any]
Key = tuple[Any, ...]


def month_of(day: date) -> date:
    return day.replace(day=1)


def quarter_of(day: date) -> date:
    return day.replace(day=1, month=(day.month - 1) // 3 * 3 + 1)


def year_of(day: date) -> date:
    return date(day.year, 1, 1)


def week_of(day: date) -> date:
    return day - timedelta(days=day.weekday())


GRAINS: dict[str, Callable[[date], date]] = {"year": year_of, "quarter": quarter_of, "month": month_of, "week": week_of}


def a_year_on(day: date) -> date:
    """The same month and day a year later; 28 February for 29 February."""
    try:
        return day.replace(year=day.year + 1)
    except ValueError:
        return day.replace(year=day.year + 1, day=28)


def sort_key(value: Any) -> Any:
    """Sort key of labels, blanks last."""
    if value is None:
        return (1, "", "")
    if isinstance(value, date):
        return (0, value.isoformat(), "")
    plain = "".join(c for c in unicodedata.normalize("NFKD", value) if not unicodedata.combining(c))
    return (0, re.sub(r"[0-9]+", lambda m: m.group().zfill(30), plain.casefold()), value)


def take(name: str, records: list[Record], of: str | None) -> Fraction | int | float | None:
    """One figure over some records; None if blank."""
    if name == "count":
        return len(records)
    assert of is not None
    values = [r[of] for r in records if r[of] is not None]
    if name == "count_values":
        return len(values)
    if name == "distinct":
        return len(set(values))
    if not values:
        return None
    numbers = [Fraction(v) for v in values]
    match name:
        case "sum":
            return sum(numbers)
        case "mean":
            return sum(numbers) / len(numbers)
        case "min":
            return min(numbers)
        case "max":
            return max(numbers)
        case "median":
            return median(sorted(numbers))
        case "variance":
            if len(numbers) < 2:
                return None
            mean = sum(numbers) / len(numbers)
            return sum((n - mean) ** 2 for n in numbers) / (len(numbers) - 1)
    raise AssertionError(name)


def keys_of(record: Record, entries: list[dict[str, Any]]) -> Key:
    """A record's members, level by level."""
    keys: list[Any] = []
    for entry in entries:
        if "category" in entry:
            keys.append(record[entry["category"]])
        else:
            day = record[entry["period"]]
            keys += [None if day is None else GRAINS[g](day) for g in entry["grains"]]
    return tuple(keys)


def cells(
    records: list[Record], down: list[dict[str, Any]], across: list[dict[str, Any]]
) -> dict[tuple[Key, Key], list[Record]]:
    """The records of every crossing of the levels, totals included."""
    found: dict[tuple[Key, Key], list[Record]] = {}
    for record in records:
        d, a = keys_of(record, down), keys_of(record, across)
        for i in range(len(d) + 1):
            for j in range(len(a) + 1):
                found.setdefault((d[:i], a[:j]), []).append(record)
    return found


def ordered(keys: set[Key]) -> list[Key]:
    """Paths in sheet order with totals after their members."""
    longest = max((len(k) for k in keys), default=0)

    def place(key: Key) -> list[Any]:
        return [(0, sort_key(part)) for part in key] + [(1, (0, "", ""))] * (longest - len(key))

    return sorted(keys, key=place)
