"""Arithmetic and comparison of columns: exact while it fits, approximate and marked so where it does not."""

from collections.abc import Callable
from typing import Any

import numpy as np

from kalendor.core.values.columns import (
    DATED,
    DAY_MICROSECONDS,
    EXACT,
    INT64_MOST,
    MOST_PLACES,
    NUMERIC,
    Array,
    Column,
    Kind,
    Mask,
    merge_words,
)
from kalendor.errors import DefinitionError


def either_blank(*columns: Column) -> Mask | None:
    """Shape of the columns broadcast together: True where any is blank; None where none can be."""
    blank: Mask | None = None
    for column in columns:
        if column.blank is not None:
            blank = column.blank if blank is None else blank | column.blank
    if blank is None:
        return None
    return np.broadcast_to(blank, max(len(c) for c in columns)).copy()


def magnitude(values: Array) -> int:
    """The largest absolute value, as a Python integer."""
    return max(abs(int(values.min())), abs(int(values.max()))) if len(values) else 0


def at_places(column: Column, places: int) -> Array | None:
    """Exact units at a finer scale; None where they pass 64 bits (object columns never do)."""
    factor = 10 ** (places - column.places)
    if factor == 1:
        return column.values
    if column.values.dtype != object and magnitude(column.values) * factor > INT64_MOST:
        return None
    return column.values * factor


def exact(values: Array, blank: Mask | None, places: int) -> Column:
    """An exact column; whole where there are no places."""
    return Column(Kind.DECIMAL if places else Kind.WHOLE, values, blank, places)


def approximate(values: Array, blank: Mask | None) -> Column:
    """A float64 column in which what is not finite is blank."""
    values = np.asarray(values, dtype=np.float64)
    wrong = ~np.isfinite(values)
    if wrong.any():
        blank = wrong if blank is None else blank | wrong
        values = np.where(wrong, 0.0, values)
    return Column(Kind.APPROXIMATE, values, blank)


def _in_floats(op: Callable[..., Any], a: Column, b: Column) -> Column:
    with np.errstate(all="ignore"):
        return approximate(op(a.floats(), b.floats()), either_blank(a, b))


def _additive(op: Callable[..., Any], a: Column, b: Column) -> Column:
    if a.kind in EXACT and b.kind in EXACT:
        places = max(a.places, b.places)
        left, right = at_places(a, places), at_places(b, places)
        if left is not None and right is not None:
            wide = left.dtype == object or right.dtype == object
            if wide or magnitude(left) + magnitude(right) <= INT64_MOST:
                return exact(op(left, right), either_blank(a, b), places)
    return _in_floats(op, a, b)


def add(a: Column, b: Column) -> Column:
    """a + b; exact for exact columns."""
    return _additive(np.add, a, b)


def subtract(a: Column, b: Column) -> Column:
    """a − b; exact for exact columns."""
    return _additive(np.subtract, a, b)


def multiply(a: Column, b: Column) -> Column:
    """a × b; exact where the places together are at most 9 and the product fits 64 bits."""
    if a.kind in EXACT and b.kind in EXACT and a.places + b.places <= MOST_PLACES:
        wide = a.values.dtype == object or b.values.dtype == object
        if wide or magnitude(a.values) * magnitude(b.values) <= INT64_MOST:
            return exact(a.values * b.values, either_blank(a, b), a.places + b.places)
    return _in_floats(np.multiply, a, b)


def divide(a: Column, b: Column) -> Column:
    """a ÷ b in float64 from exact operands; blank where b is zero."""
    left, right = a.floats(), b.floats()
    if a.kind in EXACT and b.kind in EXACT:
        places = max(a.places, b.places)
        units_a, units_b = at_places(a, places), at_places(b, places)
        if units_a is not None and units_b is not None:
            left, right = units_a.astype(np.float64), units_b.astype(np.float64)
    with np.errstate(all="ignore"):
        return approximate(left / right, either_blank(a, b))


def modulo(a: Column, b: Column) -> Column:
    """The remainder with the sign of a, as ISO/IEC 9075 has it; blank where b is zero."""
    if a.kind in EXACT and b.kind in EXACT:
        places = max(a.places, b.places)
        left, right = at_places(a, places), at_places(b, places)
        if left is not None and right is not None:
            zero = np.broadcast_to(right == 0, max(len(a), len(b)))
            blank = either_blank(a, b)
            divisor = np.where(right == 0, 1, right)
            return exact(np.fmod(left, divisor), zero.copy() if blank is None else blank | zero, places)
    return _in_floats(np.fmod, a, b)


def negate(a: Column) -> Column:
    """−a."""
    return Column(a.kind, -a.values, a.blank, a.places)


def rounded(a: Column, places: int) -> Column:
    """To `places` decimal places (up to 9; below 0 to tens, hundreds …), half away from zero."""
    if places < 0 and a.kind is not Kind.APPROXIMATE:
        factor = 10 ** (a.places - places)
        size = (np.abs(a.values) + factor // 2) // factor * 10**-places if factor <= INT64_MOST else a.values * 0
        return exact(np.where(a.values < 0, -size, size), a.blank, 0)
    if a.kind is Kind.APPROXIMATE:
        scale = 10.0**places
        values = a.values * scale
        return approximate(np.sign(values) * np.floor(np.abs(values) + 0.5) / scale, a.blank)
    if a.places <= places:
        return a
    factor = 10 ** (a.places - places)
    size = (np.abs(a.values) + factor // 2) // factor
    return exact(np.where(a.values < 0, -size, size), a.blank, places)


def stepped(a: Column, up: bool) -> Column:
    """FLOOR (or CEIL, `up`) as whole numbers."""
    if a.kind is Kind.APPROXIMATE:
        return approximate(np.ceil(a.values) if up else np.floor(a.values), a.blank)
    factor = 10**a.places
    values = -((-a.values) // factor) if up else a.values // factor
    return exact(values, a.blank, 0)


def _in_one_scale(a: Column, b: Column, verb: str) -> tuple[Array, Array]:
    if a.kind in NUMERIC and b.kind in NUMERIC:
        if a.kind in EXACT and b.kind in EXACT:
            places = max(a.places, b.places)
            left, right = at_places(a, places), at_places(b, places)
            if left is not None and right is not None:
                return left, right
        return a.floats(), b.floats()
    if a.kind in DATED and b.kind in DATED and a.kind != b.kind:
        return tuple(  # type: ignore[return-value]
            c.values if c.kind is Kind.DATETIME else c.values.astype(np.int64) * DAY_MICROSECONDS for c in (a, b)
        )
    if a.kind != b.kind:
        raise DefinitionError(f"cannot {verb} {say(a.kind)} with {say(b.kind)}")
    return a.values, b.values


def _text_ranks(a: Column, b: Column) -> tuple[Array, Array]:
    (left, right), words = merge_words((a, b))
    order = np.empty(len(words), dtype=np.int64)
    order[sorted(range(len(words)), key=words.__getitem__)] = np.arange(len(words))
    return order[left], order[right]


def compared(op: Callable[..., Any], a: Column, b: Column) -> Column:
    """A yes/no column: op (np.equal, np.less …) of a and b; blank where either is."""
    if a.kind is Kind.TEXT and b.kind is Kind.TEXT:
        if op in (np.equal, np.not_equal):
            (left, right), _ = merge_words((a, b))
        else:
            left, right = _text_ranks(a, b)
    else:
        left, right = _in_one_scale(a, b, "compare")
    return Column(Kind.YES_NO, np.asarray(op(left, right), dtype=bool), either_blank(a, b))


def say(kind: Kind) -> str:
    """A kind in words."""
    words = {Kind.WHOLE: "a whole number", Kind.APPROXIMATE: "an approximate number", Kind.DATETIME: "a date-time"}
    words |= {Kind.TEXT: "text", Kind.YES_NO: "a yes/no", Kind.DECIMAL: "a decimal", Kind.DATE: "a date"}
    return words.get(kind, f"a {kind.value}")


def alike(columns: list[Column]) -> list[Column]:
    """Columns brought to one kind and scale, so that one may stand for another; blanks written NULL fit any kind."""
    typed = [c for c in columns if not is_null(c)]
    if not typed:
        return columns
    kinds = {c.kind for c in typed}
    n_kinds = kinds & NUMERIC
    if kinds <= NUMERIC:
        places = max(c.places for c in typed)
        kind = Kind.APPROXIMATE if Kind.APPROXIMATE in kinds else Kind.DECIMAL if places else Kind.WHOLE
        scaled = [at_places(c, places) if c.kind in EXACT else None for c in columns]
        if kind in EXACT and all(s is not None for s, c in zip(scaled, columns, strict=True) if not is_null(c)):
            return [
                Column(kind, np.zeros(len(c), np.int64) if s is None or is_null(c) else s, c.blank, places)
                for s, c in zip(scaled, columns, strict=True)
            ]
        return [Column(Kind.APPROXIMATE, np.zeros(len(c)) if is_null(c) else c.floats(), c.blank) for c in columns]
    if len(kinds) > 1 or n_kinds:
        names = " and ".join(sorted(say(k) for k in kinds))
        raise DefinitionError(f"cannot put {names} in one column")
    kind = kinds.pop()
    if kind is Kind.TEXT:
        recoded, words = merge_words(
            [c if c.kind is Kind.TEXT else Column(Kind.TEXT, c.values * 0, c.blank, words=("",)) for c in columns]
        )
        return [Column(kind, codes, c.blank, words=words) for codes, c in zip(recoded, columns, strict=True)]
    return [Column(kind, c.values.astype(typed[0].values.dtype), c.blank) for c in columns]


def is_null(column: Column) -> bool:
    """True for the single value NULL, and for a column without a single value: neither has a kind of its own."""
    if column.blank is None:
        return len(column) == 0
    return (len(column) == 1 and column.kind is Kind.YES_NO) or (column.kind is Kind.TEXT and bool(column.blank.all()))


def chosen(condition: Mask, a: Column, b: Column) -> Column:
    """a where `condition`, else b; both brought to one kind first."""
    a, b = alike([a, b])
    n = max(len(condition), len(a), len(b))
    values = np.where(condition, a.values, b.values)
    blank = np.where(condition, np.broadcast_to(a.blanks, n), np.broadcast_to(b.blanks, n))
    return Column(a.kind, values, blank, a.places, a.words)
