"""Builds the dictionary of a sentence from what a report could be over: records, groupings, and the current report."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import date

import numpy as np

from kalendor.core.groupings.calendars import Calendar, calendar, years_of
from kalendor.core.groupings.ground import Groupings
from kalendor.core.groupings.levels import NOT_PLACED
from kalendor.core.groupings.trees import Placer
from kalendor.core.values.columns import DATED, NUMERIC, Kind, Records, days_of
from kalendor.core.values.columns import Column as Values
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Tree
from kalendor.sentence.condition_words import values_named
from kalendor.sentence.meanings import AGE_WORDS
from kalendor.sentence.names import Column, Names, key_of, names, singular
from kalendor.sentence.writer import document

MOST_VALUES, MOST_RULED, YEAR = 20_000, 2_000, 366
EPOCH = date(1970, 1, 1).toordinal()
KINDS = {Kind.TEXT: "text", Kind.YES_NO: "yes_no", Kind.TIME: "time"}


def dictionary(
    records: Records, groupings: Groupings, source: str = "", report: Report | None = None, sources: Iterable[str] = ()
) -> Names:
    """The names that a sentence over these records may use; also those of a report's own figures and made columns.

    Values are those of the columns with the fewest distinct ones, up to 20,000 in all, and those that the report refers
    to.
    """
    columns = [
        Column(name, _kind(values), len(values.words), values.places) for name, values in records.columns.items()
    ]
    found = _values(records)
    made = names(
        columns,
        found,
        trees={name: (_column_of(tree, records, found), tree.levels) for name, tree in groupings.trees.items()},
        calendars=list(groupings.calendars),
        sets={name: _measured(name, columns) for name in groupings.bucket_sets},
        sources=[source, *sources] if source else list(sources),
    )
    _add_periods(made, records, groupings)
    return made if report is None else with_report(made, report)


def _add_periods(made: Names, records: Records, groupings: Groupings) -> None:
    """Add the years and quarters of calendars, as FY26 and *fiscal 2026*, with their days, as far as the data go."""
    values = records.columns.get(made.first_date or "")
    if values is None or not values.present.any():
        return
    days = days_of(values)[values.present]
    reach = int(days.min()) - YEAR, int(days.max()) + YEAR
    for name, document_ in groupings.calendars.items():
        own = calendar(document_)
        first, last = own.within(np.array([reach[0], reach[1]], dtype=np.int64)).tolist()
        quarters = list(_quarters(own, first, last))
        for label, low, high in years_of(own, first, last):
            span = {
                "calendar": name,
                "show": _span(low, high),
                "quarters": [_span(a, b) for _, a, b in quarters if low <= a and b <= high],
            }
            made.add("period", label, span)
            if number := re.search(r"(\d{2}|\d{4})$", label):
                year = number[1] if len(number[1]) == 4 else f"20{number[1]}"
                if label != f"{(prefix := label.removesuffix(number[1]))}{year}":
                    made.add("period", f"{prefix}{year}", span, 0.01)
                for called in (name, name.removesuffix(" year"), "fiscal", "fiscal year"):
                    if called in (name, name.removesuffix(" year")) or any(True for _ in made.exactly("fiscal")):
                        made.add("period", f"{called} {year}", span, 0.01)
        for label, low, high in quarters:
            made.add("period", label, {"calendar": name, "show": _span(low, high)})


def _quarters(own: Calendar, first: int, last: int) -> Iterator[tuple[str, int, int]]:
    """The quarters between two days, each with its label, and its first and last day."""
    found = np.unique(own.ordinals("quarter", np.arange(first, last, 20, dtype=np.int64)))
    edges = own.starts("quarter", np.append(found, found[-1] + 1)).tolist()
    for ordinal, low, high in zip(found.tolist(), edges, edges[1:], strict=False):
        yield own.label("quarter", ordinal), low, high - 1


def _span(low: int, high: int) -> dict[str, str]:
    return {key: date.fromordinal(EPOCH + day).isoformat() for key, day in (("from", low), ("to", high))}


def with_report(known: Names, report: Report) -> Names:
    """A dictionary with the figures of a report, its made columns and the values that it refers to."""
    made = known.over({f["name"]: f for f in document(report)["figures"]}, values_named(report.only))
    new = [column.name for column in report.columns if column.name not in known.columns]
    for name in new:
        made.add("column", name)
    return replace(made, columns={**known.columns, **{name: Column(name, "number") for name in new}})


def _kind(values: Values) -> str:
    if values.kind in NUMERIC:
        return "number"
    return "date" if values.kind in DATED else KINDS[values.kind]


def _values(records: Records) -> dict[str, list[str]]:
    """The values of the text columns with the fewest distinct ones."""
    found: dict[str, list[str]] = {}
    left = MOST_VALUES
    text = {name: values for name, values in records.columns.items() if values.kind is Kind.TEXT}
    for name, values in sorted(text.items(), key=lambda pair: len(pair[1].words)):
        if len(values.words) > left:
            break
        left -= len(values.words)
        found[name] = [str(word) for word in values.words]
    return {name: found[name] for name in text if name in found}


def _column_of(tree: Tree, records: Records, values: Mapping[str, Sequence[str]]) -> str | None:
    """The column that a tree belongs to: the one with most values that it names, or that its rules place, else the one
    that its last level is named after."""
    named, by_rule = _placed_by(tree)
    shares = {name: len(named.intersection(own)) / len(own) for name, own in values.items() if own}
    if by_rule and not any(shares.values()):
        shares = {name: _share(tree, own) for name, own in values.items() if 0 < len(own) <= MOST_RULED}
    best = max(shares, key=lambda name: shares[name], default=None)
    if best is not None and shares[best] > 0:
        return best
    last = key_of(tree.levels[-1])
    return next((name for name in records.columns if last in (key_of(name), *singular(key_of(name)))), None)


def _placed_by(tree: Tree) -> tuple[set[str], bool]:
    """The values that a tree names, and whether it places others by rules."""
    named, by_rule, waiting = set(), False, list(tree.roots)
    while waiting:
        node = waiting.pop()
        if node.value is not None:
            named.add(node.value)
        by_rule |= node.rule is not None
        waiting += node.under
    return named, by_rule


def _share(tree: Tree, values: Sequence[str]) -> float:
    """The share of values that a tree places."""
    placing = Placer(tree, list(values)).placing(None).paths
    return float(np.mean([path[0].special != NOT_PLACED for path in placing]))


def _measured(name: str, columns: Sequence[Column]) -> str | None:
    """The column that a set of ranges is named after; None if there is none, or it is about ages."""
    words = set(key_of(name).split(" "))
    for column in columns:
        if column.kind in ("number", "date") and set(key_of(column.name).split(" ")) & words - AGE_WORDS:
            return column.name
    numbers = [column.name for column in columns if column.kind == "number"]
    return numbers[0] if len(numbers) == 1 and not words & AGE_WORDS else None
