"""The default names of figures."""

import re
from collections.abc import Iterable, Mapping
from decimal import Decimal
from typing import Any

Figure = Mapping[str, Any]
TAKES = {
    "mean": "Average {}",
    "weighted_mean": "Weighted average {}",
    "median": "Median {}",
    "min": "Lowest {}",
    "max": "Highest {}",
    "stdev": "Standard deviation of {}",
    "variance": "Variance of {}",
    "stdev_pop": "Population standard deviation of {}",
    "variance_pop": "Population variance of {}",
    "distinct": "Different {}",
    "count_values": "Filled {}",
    "first": "First {}",
    "last": "Last {}",
    "balance": "Closing {}",
}
_NUMBER = re.compile(r" \d+$")
COMPARED = {"percent": "Change", "difference": "Difference", "index": "Index"}
EARLIER = {"year_earlier": "{} a year earlier", "period_before": "{} the period before"}


def said(column: str) -> str:
    """A column's name as read out.

    >>> said("due_on")
    'due on'
    """
    return column.replace("_", " ")


def capital(text: str) -> str:
    """A text that begins with a capital letter."""
    return text[:1].upper() + text[1:]


def ordinal(number: float) -> str:
    """A number as an ordinal.

    >>> ordinal(2), ordinal(90.0), ordinal(11), ordinal(97.5)
    ('2nd', '90th', '11th', '97.5th')
    """
    text = number_text(number)
    last = 0 if "." in text or text[-2:] in ("11", "12", "13") else int(text[-1])
    return text + {1: "st", 2: "nd", 3: "rd"}.get(last, "th")


def plural(name: str) -> str:
    """A name in the plural, if it stands without quotation marks.

    >>> plural("clinic"), plural("category"), plural("branch"), plural("fare_class")
    ('clinics', 'categories', 'branches', 'fare_classes')
    """
    if name.endswith('"'):
        return name
    if name.endswith("y") and name[-2:-1] not in "aeiou":
        return name[:-1] + "ies"
    return name + ("es" if name.endswith(("s", "x", "z", "ch", "sh")) else "s")


def number_text(number: float) -> str:
    """A number without an exponent.

    >>> number_text(30.0), number_text(-0.25), number_text(1e18)
    ('30', '-0.25', '1000000000000000000')
    """
    return str(int(number)) if number == int(number) else format(Decimal(repr(float(number))), "f")


def own_name(figure: Figure) -> str:
    """The default name of a figure.

    >>> own_name({"take": "mean", "of": "net_fare"}), own_name({"compare": "Net", "with": "year_earlier", "as": "percent"})
    ('Average net fare', 'Change')
    """
    if "compare" in figure:
        base = figure["with"]
        if figure.get("as") in COMPARED:
            return COMPARED[figure["as"]]
        return EARLIER[base].format(figure["compare"]) if isinstance(base, str) else f"{figure['compare']} compared"
    if "share" in figure:
        return "Share"
    if "running" in figure:
        return f"{figure['running']} so far"
    if "moving" in figure:
        return f"{figure['periods']}-period {'sum' if figure.get('take') == 'sum' else 'average'}"
    if "rank" in figure:
        return "Rank"
    if "take" in figure:
        return capital(_taken(figure))
    return "Worked out"


def following_name(before: Figure, after: Figure, taken: Iterable[str]) -> str:
    """The name of a figure after a change: a default name follows, one given by the user stays.

    >>> mean, median = {"take": "mean", "of": "paid"}, {"take": "median", "of": "kg"}
    >>> following_name({**mean, "name": "Average paid"}, {**median, "name": "Average paid"}, [])
    'Median kg'
    >>> following_name({**mean, "name": "Typical"}, {**median, "name": "Typical"}, [])
    'Typical'
    """
    name = after["name"]
    own, made = own_name(before), own_name(after)
    by_itself = own.casefold() in (name.casefold(), _NUMBER.sub("", name).casefold())
    return free_name(made, taken) if before["name"] == name and by_itself and own != made else name


def _taken(figure: Figure) -> str:
    take, of = figure["take"], said(figure.get("of") or "")
    place = figure.get("p") if take == "percentile" else figure.get("n")
    match take:
        case "count":
            return "Records"
        case "sum":
            return of
        case "percentile":
            return f"{ordinal(place or 0)} percentile of {of}"
        case "nth_largest" | "nth_smallest":
            return f"{ordinal(place or 1)} {take.removeprefix('nth_')} {of}"
    return TAKES[take].format(plural(of) if take == "distinct" else of)


def free_name(name: str, taken: Iterable[str]) -> str:
    """A name that is not taken, ignoring case.

    >>> free_name("Net", ["net", "Net 2"])
    'Net 3'
    """
    used = {one.casefold() for one in taken}
    number, made = 1, name
    while made.casefold() in used:
        number += 1
        made = f"{name} {number}"
    return made[:200]
