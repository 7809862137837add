"""Units of amounts, such as currencies: the columns that hold them, what a formula makes of them, and each record's own."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlglot import exp

from kalendor.core.formulas.expressions import parsed
from kalendor.core.formulas.texts import as_text
from kalendor.core.values.columns import NUMERIC, Column, Kind, Records, merge_words

SEVERAL = "\x1f"  # between the units of an amount that is of several at once; no text of a file has it
_MARK, _UNSAID = "\0", "\0"
_UNITLESS = (exp.Predicate, exp.Connector, exp.Not, exp.Literal, exp.Interval, exp.Length, exp.DPipe, exp.Extract)


@dataclass(frozen=True)
class _Rests:
    """The columns that hold an expression's units, and those by which the rates in it were looked up."""

    units: frozenset[str] = frozenset()
    rates: frozenset[str] = frozenset()

    def beside(self, other: "_Rests") -> "_Rests":
        """Of a sum, a choice, and whatever has both among its arguments."""
        return _Rests(self.units | other.units, self.rates | other.rates)

    def times(self, other: "_Rests") -> "_Rests":
        """Of a product: an amount times a rate that was looked up by its unit has that unit no more."""
        return _Rests((self.units - other.rates) | (other.units - self.rates), self.rates | other.rates)

    def over(self, other: "_Rests") -> "_Rests":
        """Of a ratio, in which units of both sides cancel, too."""
        both = self.units & other.units
        kept = (self.units - other.rates) | (other.units - self.rates)
        return _Rests(kept - both, self.rates | other.rates)


def unit_of(formula: str, columns: Mapping[str, Column]) -> tuple[str, ...]:
    """The columns that hold the unit of a formula's result, in order of their names.

    Sums, differences and choices keep the units of what they are of; an amount times or over a rate that was looked up by
    its unit has none, as a ratio of two amounts of one unit, and a choice by the unit.
    """
    if not any(column.unit for column in columns.values()):
        return ()
    folded = {name.casefold(): column for name, column in columns.items()}
    return tuple(sorted(_rests(parsed(formula), {**folded, **columns}).units))


def _rests(node: Any, columns: Mapping[str, Column]) -> _Rests:
    if isinstance(node, exp.Column):
        column = columns.get(node.name) or columns.get(node.name.casefold())
        return _Rests() if column is None else _Rests(frozenset(column.unit), frozenset(column.found_by))
    if isinstance(node, _UNITLESS):
        return _Rests()
    if isinstance(node, exp.Mul):
        return _rests(node.this, columns).times(_rests(node.expression, columns))
    if isinstance(node, exp.Div):
        return _rests(node.this, columns).over(_rests(node.expression, columns))
    if isinstance(node, exp.Case):
        return _chosen(node.args.get("ifs", []), [node.args.get("default")], node.this, columns)
    if isinstance(node, exp.If):
        return _chosen([node], [node.args.get("false")], None, columns)
    return _all(node.iter_expressions(), columns)


def _all(parts: Iterable[Any], columns: Mapping[str, Column]) -> _Rests:
    found = _Rests()
    for part in parts:
        found = found if part is None else found.beside(_rests(part, columns))
    return found


def _chosen(ifs: Sequence[Any], others: Sequence[Any], by: Any, columns: Mapping[str, Column]) -> _Rests:
    """Of a choice: one that is made by the unit itself is taken for a conversion, and has that unit no more."""
    found = _all([*(one.args.get("true") for one in ifs), *others], columns)
    asked = [by, *(one.this for one in ifs)]
    named = {column.name.casefold() for one in asked if one is not None for column in one.find_all(exp.Column)}
    return _Rests(frozenset(u for u in found.units if u.casefold() not in named), found.rates)


def units_in(records: Records) -> dict[str, Column]:
    """For each column of amounts that has a unit, the unit of each record's amount as text, several with SEVERAL between them
    where it is of several at once, and blank where none is said. Columns that hold units and are not there say nothing."""
    found: dict[str, Column] = {}
    for name, column in records.columns.items():
        held = [records.columns[unit] for unit in column.unit if unit in records.columns]
        if held and column.kind in NUMERIC:
            found[name] = _together([as_text(one) for one in held])
    return found


def _together(held: Sequence[Column]) -> Column:
    if len(held) == 1:
        return held[0]
    codes, words = merge_words(held)
    codes = [np.where(one.blanks, -1, code) for one, code in zip(held, codes, strict=True)]
    different, at = np.unique(np.column_stack(codes), axis=0, return_inverse=True)
    said = [SEVERAL.join(dict.fromkeys("" if code < 0 else words[code] for code in row)) for row in different.tolist()]
    at = at.reshape(-1).astype(np.int32)
    return Column(Kind.TEXT, at, np.array([not word for word in said], dtype=bool)[at], words=tuple(said) or ("",))


def unsaid(count: int) -> Column:
    """The units of amounts that have none."""
    return Column(Kind.TEXT, np.zeros(count, dtype=np.int32), words=(_UNSAID,))


@dataclass(frozen=True, eq=False)
class Coded:
    """The units of a column of amounts over several: their `labels` by number, and by record what tells of any number of
    records whether their units are alike: a one, the unit's number and its square, blank where the amount is (with k ones,
    numbers that sum to s and squares to q they are alike where k·q = s·s)."""

    labels: tuple[str, ...]
    ones: Column
    numbers: Column
    squares: Column


def coded(amounts: Column, units: Column) -> Coded | None:
    """The units of amounts by number; None where all are of one, so that no sum of them can be over several.

    A record whose amount is of several units at once is alike to none: its square is one more.
    """
    known = {word: i for i, word in enumerate(units.words)}
    there = amounts.present if _UNSAID not in known else amounts.present & (units.values != known[_UNSAID])
    codes = np.where(units.blanks, -1, units.values)
    used = np.unique(codes[there]).tolist()
    labels = {code: "" if code < 0 else units.words[code] for code in used}
    if len(used) <= 1 and not any(SEVERAL in label for label in labels.values()):
        return None
    ranked = sorted(used, key=labels.__getitem__)
    number, square = np.zeros(len(units.words) + 1, np.int64), np.zeros(len(units.words) + 1, np.int64)
    for rank, code in enumerate(ranked):
        number[code], square[code] = rank, rank * rank + (SEVERAL in labels[code])

    def column(values: np.ndarray) -> Column:
        return Column(Kind.WHOLE, values, ~there)

    ones = np.ones(len(amounts), np.int64)
    said = tuple(labels[code].replace(SEVERAL, " and ") for code in ranked)
    return Coded(said, column(ones), column(number[codes]), column(square[codes]))


def told_by(amounts: str) -> tuple[str, str, str]:
    """The names by which the ones, numbers and squares of a column's units are taken; no column of a source has such."""
    return f"{_MARK}ones {amounts}", f"{_MARK}numbers {amounts}", f"{_MARK}squares {amounts}"


def is_of_units(name: str) -> bool:
    """Whether a column is one of those."""
    return name.startswith(_MARK)


def amounts_of(name: str) -> str:
    """The column of amounts whose units such a name tells."""
    return name.removeprefix(_MARK).partition(" ")[2]


def of_units(name: str, units: Mapping[str, Coded]) -> Column:
    """The column of such a name."""
    which = name.removeprefix(_MARK).partition(" ")[0]
    found: Column = getattr(units[amounts_of(name)], which)
    return found
