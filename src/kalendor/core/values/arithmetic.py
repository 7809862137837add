"""Arithmetic and comparison of columns: exact while results fit, otherwise approximate and marked as such."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from kalendor.core.values.columns import (
    DATED,
    DAY_MICROSECONDS,
    EXACT,
    INT64_MOST,
    MANY_WORDS,
    MOST_PLACES,
    NUMERIC,
    Array,
    Column,
    Kind,
    Mask,
    brought_to,
    magnitude,
    merge_words,
)
from kalendor.errors import DefinitionError

LARGE_QUOTIENT, WHOLE_FROM = 2.0**46, 2.0**52


def either_blank(*columns: Column) -> Mask | None:
    """Shape of the columns broadcast together: True where any is blank; None where none can be."""
    blank: Mask | None = None
    for column in columns:
        if column.blank is not None:
            blank = column.blank if blank is None else blank | column.blank
    if blank is None:
        return None
    return np.broadcast_to(blank, max(len(c) for c in columns)).copy()


def exact(values: Array, blank: Mask | None, places: int) -> Column:
    """An exact column; whole if it has no decimal places."""
    return Column(Kind.DECIMAL if places else Kind.WHOLE, values, blank, places)


def approximate(values: Array, blank: Mask | None) -> Column:
    """A float64 column; non-finite values become blank."""
    values = np.asarray(values, dtype=np.float64)
    wrong = ~np.isfinite(values)
    if wrong.any():
        blank = wrong if blank is None else blank | wrong
        values = np.where(wrong, 0.0, values)
    return Column(Kind.APPROXIMATE, values, blank)


def _in_floats(op: Callable[..., Any], a: Column, b: Column) -> Column:
    with np.errstate(all="ignore"):
        return approximate(op(a.floats(), b.floats()), either_blank(a, b))


def _with_unrounded(found: Column, *columns: Column, by: Callable[..., Any]) -> Column:
    """A result of exact columns, with unrounded values where an operand's units are rounded."""
    if found.kind not in EXACT or all(c.unrounded is None for c in columns):
        return found
    rounded = np.broadcast_to(False, len(found))
    for column in columns:
        rounded = rounded | column.rounded
    with np.errstate(all="ignore"):
        values = np.where(rounded & found.present, by(*(c.floats() for c in columns)), np.nan)
    return replace(found, unrounded=values)


def _additive(op: Callable[..., Any], a: Column, b: Column) -> Column:
    return _with_unrounded(_added(op, a, b), a, b, by=op)


def _added(op: Callable[..., Any], a: Column, b: Column) -> Column:
    if a.kind in EXACT and b.kind in EXACT:
        places = max(a.places, b.places)
        left, right = brought_to(a, places), brought_to(b, places)
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
            found = exact(a.values * b.values, either_blank(a, b), a.places + b.places)
            return _with_unrounded(found, a, b, by=np.multiply)
    return _in_floats(np.multiply, a, b)


def divide(a: Column, b: Column) -> Column:
    """a ÷ b in float64 from exact operands; blank where b is zero.

    If a quotient is too large for float64 to hold its second decimal place, the column is exact to two places, with
    `unrounded` for the other values, so that no wrong digit is shown.
    """
    left, right = a.floats(), b.floats()
    exactly = a.kind in EXACT and b.kind in EXACT
    if exactly:
        places = max(a.places, b.places)
        units_a, units_b = brought_to(a, places), brought_to(b, places)
        if units_a is not None and units_b is not None and a.unrounded is None and b.unrounded is None:
            left, right = units_a.astype(np.float64), units_b.astype(np.float64)
    with np.errstate(all="ignore"):
        found = approximate(left / right, either_blank(a, b))
    large = np.full(len(found), exactly) & found.present & (np.abs(found.values) >= LARGE_QUOTIENT)
    return _large_exactly(found, large, a, b) if large.any() else found


def _large_exactly(found: Column, large: Mask, a: Column, b: Column) -> Column:
    """A quotient at two places: exact where `large`, elsewhere rounded with the unrounded value beside it."""
    n = len(found)
    tops, bottoms = (np.broadcast_to(c.values.astype(object), n) for c in (a, b))
    units = np.zeros(n, dtype=object)
    for i in np.flatnonzero(found.present).tolist():
        if large[i]:
            top, bottom = int(tops[i]) * 10 ** (b.places + 2), int(bottoms[i]) * 10**a.places
            size = (2 * abs(top) + abs(bottom)) // (2 * abs(bottom))
            units[i] = size if (top < 0) == (bottom < 0) else -size
        else:
            units[i] = round(float(found.values[i]) * 100)
    return Column(Kind.DECIMAL, units, found.blank, 2, unrounded=np.where(large, np.nan, found.values))


def in_one_kind(columns: Sequence[Column]) -> list[Column]:
    """Blocks of one figure in one kind: if `divide` returned some as exact, the others are converted."""
    exactly = next((c for c in columns if c.kind in EXACT and c.unrounded is not None), None)
    if exactly is None or all(c.kind in EXACT for c in columns):
        return list(columns)
    return [c if c.kind in EXACT else _large_exactly(c, np.zeros(len(c), dtype=bool), c, c) for c in columns]


def modulo(a: Column, b: Column) -> Column:
    """The remainder with the sign of a, as ISO/IEC 9075 has it; blank where b is zero."""
    if a.kind in EXACT and b.kind in EXACT:
        places = max(a.places, b.places)
        left, right = brought_to(a, places), brought_to(b, places)
        if left is not None and right is not None:
            zero = np.broadcast_to(right == 0, max(len(a), len(b)))
            blank = either_blank(a, b)
            divisor = np.where(right == 0, 1, right)
            if object in (left.dtype, divisor.dtype):  # Python integers, whose remainder has the sign of the divisor
                rest = np.abs(left.astype(object)) % np.abs(divisor.astype(object))
                rest = np.where(left < 0, -rest, rest)
            else:
                rest = np.fmod(left, divisor)
            return exact(rest, zero.copy() if blank is None else blank | zero, places)
    return _in_floats(np.fmod, a, b)


def negate(a: Column) -> Column:
    """−a."""
    return Column(a.kind, -a.values, a.blank, a.places, unrounded=None if a.unrounded is None else -a.unrounded)


def rounded(a: Column, places: int) -> Column:
    """To `places` decimal places (up to 9; below 0 to tens, hundreds …), half away from zero.

    Approximate where the result passes 64 bits.
    """
    if a.kind is Kind.APPROXIMATE or a.unrounded is not None:
        scale, own = 10.0**places, a.floats()
        with np.errstate(all="ignore"):
            values = own * scale
            moved = np.sign(values) * np.floor(np.abs(values) + 0.5) / scale
        whole = np.abs(own) >= WHOLE_FROM if places >= 0 else ~np.isfinite(moved)
        return approximate(np.where(whole, own, moved), a.blank)
    if a.places <= places:
        return a
    factor = 10 ** (a.places - places)
    values = a.values if factor <= INT64_MOST else a.values.astype(object)
    size = np.abs(values) // factor
    size = size + (np.abs(values) - size * factor >= factor // 2)
    found = exact(np.where(values < 0, -size, size), a.blank, max(0, places))
    if places >= 0:
        return found
    scaled = brought_to(found, -places)
    return approximate(found.floats() * 10.0**-places, a.blank) if scaled is None else exact(scaled, a.blank, 0)


def stepped(a: Column, up: bool) -> Column:
    """FLOOR (or CEIL, `up`) as whole numbers."""
    if a.kind is Kind.APPROXIMATE:
        return approximate(np.ceil(a.values) if up else np.floor(a.values), a.blank)
    if a.unrounded is not None:
        return approximate(np.ceil(a.floats()) if up else np.floor(a.floats()), a.blank)
    factor = 10**a.places
    values = -((-a.values) // factor) if up else a.values // factor
    return exact(values, a.blank, 0)


def _in_one_scale(a: Column, b: Column, verb: str) -> tuple[Array, Array]:
    if a.kind in NUMERIC and b.kind in NUMERIC:
        if a.kind in EXACT and b.kind in EXACT:
            places = max(a.places, b.places)
            left, right = brought_to(a, places), brought_to(b, places)
            if left is not None and right is not None and a.unrounded is None and b.unrounded is None:
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
            if (
                len(b) == 1 and 0 < len(a.words) <= MANY_WORDS and b.blank is None
            ):  # a single text: compare once for each word, not for each row
                codes = [code for code, word in enumerate(a.words) if word == b.words[b.values[0]]]
                met = a.values == codes[0] if len(codes) == 1 else np.isin(a.values, codes)
                return Column(Kind.YES_NO, met if op is np.equal else ~met, a.blank)
            (left, right), _ = merge_words((a, b))
        else:
            left, right = _text_ranks(a, b)
    else:
        left, right = _in_one_scale(a, b, "compare")
    return Column(Kind.YES_NO, np.asarray(op(left, right), dtype=bool), either_blank(a, b))


def say(kind: Kind) -> str:
    """The name of a kind in messages."""
    words = {Kind.WHOLE: "a whole number", Kind.APPROXIMATE: "an approximate number", Kind.DATETIME: "a date-time"}
    words |= {Kind.TEXT: "text", Kind.YES_NO: "a yes/no", Kind.DECIMAL: "a decimal", Kind.DATE: "a date"}
    return words.get(kind, f"a {kind.value}")


def alike(columns: list[Column]) -> list[Column]:
    """Columns converted to one kind and scale, so that either may replace the other; literal NULLs fit any kind."""
    typed = [c for c in columns if not is_null(c)]
    if not typed:
        return columns
    kinds = {c.kind for c in typed}
    n_kinds = kinds & NUMERIC
    if kinds <= NUMERIC:
        places = max(c.places for c in typed)
        kind = Kind.APPROXIMATE if Kind.APPROXIMATE in kinds else Kind.DECIMAL if places else Kind.WHOLE
        scaled = [brought_to(c, places) if c.kind in EXACT else None for c in columns]
        if kind in EXACT and all(s is not None for s, c in zip(scaled, columns, strict=True) if not is_null(c)):
            return [
                Column(
                    kind,
                    np.zeros(len(c), np.int64) if s is None or is_null(c) else s,
                    c.blank,
                    places,
                    unrounded=c.unrounded,
                )
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
    """True for the literal NULL, and for a column without any value: neither has a kind of its own."""
    if column.blank is None:
        return len(column) == 0
    return (len(column) == 1 and column.kind is Kind.YES_NO) or (column.kind is Kind.TEXT and bool(column.blank.all()))


def chosen(condition: Mask, a: Column, b: Column) -> Column:
    """a where `condition`, else b; both converted to one kind first."""
    a, b = alike([a, b])
    n = max(len(condition), len(a), len(b))
    values = np.where(condition, a.values, b.values)
    blank = np.where(condition, np.broadcast_to(a.blanks, n), np.broadcast_to(b.blanks, n))
    unrounded = None
    if a.unrounded is not None or b.unrounded is not None:
        own = [np.full(len(c), np.nan) if c.unrounded is None else c.unrounded for c in (a, b)]
        unrounded = np.where(condition, *own)
    return Column(a.kind, values, blank, a.places, a.words, unrounded=unrounded)
