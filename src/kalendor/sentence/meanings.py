"""Functions called by grammar rules for meanings that are more than plain values."""

import re
from collections.abc import Callable, Mapping, Sequence
from datetime import date as Date
from typing import Any

from kalendor.sentence.chart import Unfit
from kalendor.sentence.conditions import among
from kalendor.sentence.names import Names, key_of
from kalendor.sentence.naming import own_name
from kalendor.sentence.spans import (  # fmt: skip
    day_after,
    day_before,
    day_of,
    joined_spans,
    month_span,
    months,
    months_on,
    months_up_to,
    quarter_span,
    spans_between,
    year_of_span,
    year_span,
)

DATE, BEFORE = "\0date", "\0before"
"""What a sentence leaves unsaid: the date that it is about, and the figure that stands before."""
YEARS_BACK, YEARS_AHEAD = 20, 5
"""Around the as-of date, between which a number of four digits may be a year."""
AGE_WORDS = frozenset(["age", "ages", "aging", "ageing", "days", "overdue", "late", "past", "due", "old", "open"])


def given(value: Any, otherwise: Any) -> Any:
    """A value, or the default if none was said."""
    return otherwise if value is None else value


def merged(parts: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """Several parts as one; contradictory parts do not fit."""
    whole: dict[str, Any] = {}
    for part in parts:
        for key, value in part.items():
            if isinstance(value, dict) and isinstance(whole.get(key), dict):
                value = merged([whole[key], value])
            elif key in whole and whole[key] != value:
                raise Unfit
            whole[key] = value
    return whole


def called(name: str, figure: Mapping[str, Any], parts: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """A figure with a given name."""
    return merged([{"name": name}, {k: v for k, v in figure.items() if k != "name"}, *parts])


def part_of(entry: Mapping[str, Any], parts: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """An axis entry with further properties."""
    return merged([entry, *parts])


def back(count: int, grain: str) -> Any:
    """A base so many periods back."""
    return "year_earlier" if (count, grain) == (1, "year") else {"back": count, "grain": grain}


def running(figure: Any, way: Mapping[str, Any] | None) -> dict[str, Any]:
    """A running total along the date, unless told otherwise."""
    return {"running": given(figure, BEFORE), "along": DATE, **(way or {})}


def worked(parts: Sequence[Any]) -> dict[str, Any]:
    """A figure from figures.

    Raises Unfit for numbers alone: *1/3/2026* is a day, and says not which.
    """
    if all(isinstance(part, str) or "number" in part for part in parts):
        raise Unfit
    return {"worked": list(parts)}


def change_between(figure: Mapping[str, Any], first: int, second: int, way: str | None) -> dict[str, Any]:
    """A figure of the later of two years, compared with the earlier one."""
    earlier, later = sorted((first, second))
    compared = {"with": {"year": earlier}, **({"as": way} if way else {})}
    return {"figures": [figure], "window": {"of": DATE, "show": year_span(later)}, "compare": compared}


def nested(outer: Mapping[str, Any], inner: Mapping[str, Any]) -> dict[str, Any]:
    """Two entries, one within the other."""
    return {"nested": [outer, inner]}


def several(cuts: list[Any]) -> list[Any]:
    """Cuts of which there are several.

    Raises Unfit for a single one: *ranges of 500* says how wide ranges are, and not where they begin and end.
    """
    if len(cuts) < 2:
        raise Unfit
    return cuts


def denied(values: Sequence[tuple[str, str]]) -> list[dict[str, Any]]:
    """Conditions that a record has none of these values; blanks stay."""
    return among(values, "not among")


def said_of(figure: Mapping[str, Any], levels: Callable[[], Sequence[str]]) -> dict[str, Any]:
    """What is said of a figure; a share of a level, or a rank within one, is of the group.

    Raises Unfit if the report has no such level: the figure would be something else.
    """
    found = {key: value for key, value in figure.items() if value is not None}
    for key in ("of_total", "within", "restart", "again"):
        if isinstance(found.get(key), Mapping):
            level = level_of(found[key], levels)
            found[key] = "parent" if key in ("of_total", "within") else level
    return found


def level_of(said: str | Mapping[str, str], levels: Callable[[], Sequence[str]]) -> str:
    """The level at which a running total restarts, or another figure is taken.

    Raises Unfit if a column is meant which is no level of the report.
    """
    if isinstance(said, str):
        return said
    found = next((one for one in levels() if one.casefold() == said["level"].casefold()), None)
    if found is None:
        raise Unfit
    return found


def part_that(
    figure: Mapping[str, Any], conditions: Sequence[Mapping[str, Any]], values: Sequence[tuple[str, str]]
) -> dict[str, Any]:
    """What part of a figure is of the records that have these values, or that have none of them, as a percentage."""
    whole, texts = own_name(figure), " or ".join(text for _, text in values)
    texts = f"not {texts}" if any(one["is"] == "not among" for one in conditions) else texts
    part = {**figure, "name": f"{whole}, {texts}", "where": {"all": conditions}}
    return {"worked": [part, "/", figure], "name": f"{whole}, % {texts}", "format": {"percent": True}}


def kept(level: Any, conditions: Sequence[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """The lines of a level for which all conditions hold."""
    return [{"level": level, "where": one} for one in conditions]


def any_of(clauses: Sequence[Mapping[str, Any]]) -> list[Mapping[str, Any]]:
    """Clauses in which values of one column, said in different places, are alternatives: separate ones join what was
    said of their column before."""
    first: dict[str, dict[str, Any]] = {}
    found: list[Mapping[str, Any]] = []
    for clause in clauses:
        own = []
        for condition in clause.get("only", ()):
            earlier = first.get(condition.get("column", "")) if clause.get("any") else None
            if earlier is not None:
                earlier["values"] = [
                    *earlier["values"],
                    *(v for v in condition["values"] if v not in earlier["values"]),
                ]
                earlier["is"] = "among" if len(earlier["values"]) > 1 else "equal"
                continue
            own.append(dict(condition))
            if condition.get("is") in ("equal", "among") and all("text" in v for v in condition["values"]):
                first.setdefault(condition["column"], own[-1])
        found.append({**clause, "only": own} if "only" in clause else clause)
    return found


def valued(column: str, values: Sequence[tuple[str, str]]) -> dict[str, Any]:
    """The condition that a column has one of some values, as *north and south areas*.

    Raises Unfit for a value of another column.
    """
    if any(not isinstance(value, tuple) or value[0] != column for value in values):
        raise Unfit
    texts = [{"text": text} for _, text in values]
    return {"column": column, "is": "among" if len(texts) > 1 else "equal", "values": texts}


def value_of(column: str, texts: Mapping[str, str]) -> tuple[str, str]:
    """The one of a value's columns that is named, with its spelling there."""
    if column not in texts:
        raise Unfit
    return column, texts[column]


def equal_to(value: tuple[str, str]) -> dict[str, Any]:
    """The condition that a column has a value."""
    return {"column": value[0], "is": "equal", "values": [{"text": value[1]}]}


def minus(labels: Sequence[str]) -> dict[str, int]:
    """Members whose signs are reversed."""
    return dict.fromkeys(labels, -1)


def plus(labels: Sequence[str]) -> dict[str, int]:
    """Members whose signs are not reversed."""
    return dict.fromkeys(labels, 1)


def mapping(pairs: Sequence[Sequence[str]]) -> dict[str, str]:
    """Pairs as a dictionary."""
    return {pair[0]: pair[1] for pair in pairs}


PLAIN = {
    f.__name__: f
    for f in (given, merged, called, part_of, back, running, worked, change_between, nested, several, valued, part_that, kept, months_up_to, denied, among, minus, plus, mapping,
              day_of, month_span, year_span, quarter_span, joined_spans, spans_between, months, months_on, day_before, day_after, value_of, equal_to)
}  # fmt: skip


def _all_of(sign: int) -> Callable[[Any], list[str] | None]:
    return lambda value: list(value) if isinstance(value, dict) and set(value.values()) == {sign} else None


INVERSES: Mapping[str, Callable[[Any], Any]] = {
    "mapping": lambda value: [list(pair) for pair in value.items()],
    "year_span": year_of_span,
    "minus": _all_of(-1),
    "plus": _all_of(1),
    "merged": lambda value: [{key: part} for key, part in value.items()] or None,
}
"""For what a rule calls where it is also written: the arguments that give a value, or None."""


class InContext:
    """Functions whose result depends on the names of the source and the groupings, or on the as-of date."""

    def __init__(self, names: Names, as_of: Date) -> None:
        self.names, self.as_of = names, as_of

    def values_of(self, column: str, values: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Values of a column. Raises Unfit for a value of another: in *clinics in north*, north is an area."""
        for value in values:
            known = self.names.exactly(str(value.get("text", "")))
            of = {named.value[0] for named, _ in known if named.kind == "value"}
            if of and column not in of:
                raise Unfit
        return values

    def sized(self, column: str, size: dict[str, Any]) -> dict[str, Any]:
        """A condition on a column. Raises Unfit for days with a number column: they refer to the report's dates."""
        if self.names.kind_of(column) == "number" and any("day" in value for value in size["values"]):
            raise Unfit
        return {"column": column, **size}

    def tree_levels(self, path: tuple[str, list[str]]) -> dict[str, Any]:
        """Some levels of a tree."""
        return {**self.tree_whole(path[0]), "levels": path[1]}

    def tree_whole(self, tree: str) -> dict[str, Any]:
        """All levels of a tree. Raises Unfit if the source has no column for it."""
        column = self.names.trees[tree][0] if tree in self.names.trees else None
        if column is None:
            raise Unfit
        return {"category": column, "tree": tree}

    def bucket_set(self, name: str) -> dict[str, Any]:
        """The ranges of a bucket set. Raises Unfit if the source has no number column for it."""
        column = self.names.sets.get(name)
        if column is None or self.names.kind_of(column) != "number":
            raise Unfit
        return {"bucket": column, "set": name}

    def age_set(self, name: str) -> dict[str, Any]:
        """The ages of a bucket set. Raises Unfit if it has a column that is no date, or a name that is of no ages."""
        column = self.names.sets.get(name)
        if column is not None and self.names.kind_of(column) == "date":
            return {"age": column, "set": name}
        if column is None and AGE_WORDS & set(key_of(name).split(" ")):
            return {"age": DATE, "set": name}
        raise Unfit

    def no_year(self, condition: dict[str, Any]) -> dict[str, Any]:
        """A condition. Raises Unfit if it compares with a year: *net from 2025* is a window."""
        if any(self._may_be_year(str(value.get("number", ""))) for value in condition["values"]):
            raise Unfit
        return condition

    def of_late(self, window: dict[str, Any]) -> dict[str, Any]:
        """A window. Raises Unfit if its year is not near the as-of date: *net over 2000* is an amount."""
        if (year := year_of_span(window["show"])) and not self._may_be_year(year):
            raise Unfit
        return window

    def quarter_in(self, year: Mapping[str, Any], quarter: int) -> dict[str, Any]:
        """A quarter of a period of a calendar. Raises Unfit if it is no year of four quarters."""
        if len(year.get("quarters", ())) != 4:
            raise Unfit
        return {"of": DATE, "calendar": year["calendar"], "show": year["quarters"][quarter - 1]}

    def quarter_of(self, name: str, year: int, quarter: int) -> dict[str, Any]:
        """A quarter of a year of a named calendar. Raises Unfit if that has no such year of four quarters."""
        periods = (named.value for named, _ in self.names.exactly(f"{name} {year}") if named.kind == "period")
        return self.quarter_in(next((one for one in periods if one["calendar"] == name), {}), quarter)

    def month_alone(self, month: int) -> dict[str, str]:
        """The last month of that number that has begun."""
        return month_span(self.as_of.year if month <= self.as_of.month else self.as_of.year - 1, month)

    def quarter_alone(self, quarter: int) -> dict[str, str]:
        """The last quarter of that number that has begun."""
        begun = quarter * 3 - 2 <= self.as_of.month
        return quarter_span(self.as_of.year if begun else self.as_of.year - 1, quarter)

    def _may_be_year(self, number: str) -> bool:
        back = self.as_of.year - int(number) if re.fullmatch(r"\d{4}", number) else None
        return back is not None and -YEARS_AHEAD <= back <= YEARS_BACK


def functions(names: Names, as_of: Date) -> dict[str, Any]:
    """All functions that a rule may call, over one dictionary, as at one day."""
    own = InContext(names, as_of)
    bound = {name: getattr(own, name) for name in vars(InContext) if not name.startswith("_")}
    return {**PLAIN, **bound, "date": DATE, "before": BEFORE}
