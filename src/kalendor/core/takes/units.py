"""Units of amounts, such as currencies: the columns that hold them, the unit of a formula's result, and each record's
own."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlglot import exp

from kalendor.core.formulas.expressions import parsed
from kalendor.core.formulas.texts import as_text
from kalendor.core.values.columns import NUMERIC, Column, Kind, Records, merge_words

SEVERAL = "\x1f"  # separates the units of an amount of several at once; does not occur in files
_MARK, _UNSAID = "\0", "\0"
_UNITLESS = (exp.Predicate, exp.Connector, exp.Not, exp.Literal, exp.Interval, exp.Length, exp.DPipe, exp.Extract)


@dataclass(frozen=True)
class _Rests:
    """The columns that hold an expression's units, and those by which the rates in it were looked up."""

    units: frozenset[str] = frozenset()
    rates: frozenset[str] = frozenset()

    def beside(self, other: "_Rests") -> "_Rests":
        """Of a sum, a choice, and any function whose arguments keep their units."""
        return _Rests(self.units | other.units, self.rates | other.rates)

    def times(self, other: "_Rests") -> "_Rests":
        """Of a product: an amount times a rate looked up by its unit no longer has that unit."""
        return _Rests((self.units - other.rates) | (other.units - self.rates), self.rates | other.rates)

    def over(self, other: "_Rests") -> "_Rests":
        """Of a ratio, in which units on both sides cancel as well."""
        both = self.units & other.units
        kept = (self.units - other.rates) | (other.units - self.rates)
        return _Rests(kept - both, self.rates | other.rates)


def unit_of(formula: str, columns: Mapping[str, Column]) -> tuple[str, ...]:
    """The columns that hold the unit of a formula's result, by name.

    Sums, differences and choices keep the units of their operands. An amount multiplied or divided by a rate looked up
    by its unit has none, nor has a ratio of two amounts of one unit, nor a choice by the unit.
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
    """Of a choice: one made by the unit itself is treated as a conversion, and no longer has that unit."""
    found = _all([*(one.args.get("true") for one in ifs), *others], columns)
    asked = [by, *(one.this for one in ifs)]
    named = {column.name.casefold() for one in asked if one is not None for column in one.find_all(exp.Column)}
    return _Rests(frozenset(u for u in found.units if u.casefold() not in named), found.rates)


def units_in(records: Records) -> dict[str, Column]:
    """For each amount column that has a unit, the unit of each record's amount as text, several separated by SEVERAL if
    it is of several at once, and blank if none is given. Unit columns that do not exist are ignored."""
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
    """The units of an amount column that has several: their `labels` by number, and for each record three numbers whose
    sums tell whether the units of any set of records are equal: a one, the unit's number and its square, blank where
    the amount is (with k ones, numbers with sum s and squares with sum q, they are equal if k·q = s·s)."""

    labels: tuple[str, ...]
    ones: Column
    numbers: Column
    squares: Column


def coded(amounts: Column, units: Column) -> Coded | None:
    """The units of amounts by number; None if all are the same, so that no sum mixes units.

    A record whose amount is of several units at once equals no other: its square is increased by one.
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
    """The names under which the ones, numbers and squares of a column's units are taken; no column of a source has such
    a name."""
    return f"{_MARK}ones {amounts}", f"{_MARK}numbers {amounts}", f"{_MARK}squares {amounts}"


def is_of_units(name: str) -> bool:
    """Whether a column is one of those."""
    return name.startswith(_MARK)


def amounts_of(name: str) -> str:
    """The amount column to whose units such a name belongs."""
    return name.removeprefix(_MARK).partition(" ")[2]


def of_units(name: str, units: Mapping[str, Coded]) -> Column:
    """The column of such a name."""
    which = name.removeprefix(_MARK).partition(" ")[0]
    found: Column = getattr(units[amounts_of(name)], which)
    return found
