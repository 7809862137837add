"""Text functions over columns: each works once on every different word, not on every record."""

import re
from collections.abc import Callable
from datetime import date, datetime
from decimal import Decimal, InvalidOperation

import numpy as np
from sqlglot import exp

from kalendor.core import arithmetic as ar
from kalendor.core.columns import (
    DAY_MICROSECONDS,
    INT64_MOST,
    MOST_PLACES,
    NUMERIC,
    Column,
    Kind,
    date_column,
    day_number,
    number_column,
    scalar,
    text_column,
)
from kalendor.errors import DefinitionError

LIKE_WILD = {"%": ".*", "_": "."}


def _need_text(column: Column, what: str) -> Column:
    if ar.is_null(column):
        return scalar(Kind.TEXT, None)
    if column.kind is not Kind.TEXT:
        raise DefinitionError(f"{what} needs text, and was given {ar.say(column.kind)}")
    return column


def _by_word(column: Column, work: Callable[[str], str]) -> Column:
    fresh = text_column([work(word) for word in column.words] or [""])
    return Column(Kind.TEXT, fresh.values[column.values], column.blank, words=fresh.words)


def upper(column: Column) -> Column:
    """UPPER."""
    return _by_word(_need_text(column, "UPPER"), str.upper)


def lower(column: Column) -> Column:
    """LOWER."""
    return _by_word(_need_text(column, "LOWER"), str.lower)


def trimmed(column: Column, side: str) -> Column:
    """TRIM of outer spaces: BOTH, LEADING or TRAILING."""
    work = {"LEADING": str.lstrip, "TRAILING": str.rstrip}.get(side, str.strip)
    return _by_word(_need_text(column, "TRIM"), work)


def length(column: Column) -> Column:
    """CHAR_LENGTH, in characters."""
    column = _need_text(column, "CHAR_LENGTH")
    sizes = np.array([len(word) for word in column.words] or [0], dtype=np.int64)
    return Column(Kind.WHOLE, sizes[column.values], column.blank)


def _pairwise(a: Column, b: Column, work: Callable[[str, str], str]) -> Column:
    n = max(len(a), len(b))
    pairs = a.values.astype(np.int64) * max(1, len(b.words)) + b.values
    different, codes = np.unique(np.broadcast_to(pairs, n), return_inverse=True)
    width = max(1, len(b.words))
    fresh = text_column([work(a.words[p // width], b.words[p % width]) for p in different.tolist()])
    return Column(Kind.TEXT, fresh.values[codes], ar.either_blank(a, b), words=fresh.words)


def joined(a: Column, b: Column) -> Column:
    """a || b; numbers and dates are written out first."""
    return _pairwise(as_text(a), as_text(b), str.__add__)


def like(column: Column, pattern: Column | None) -> Column:
    """LIKE with % and _; the pattern is one text for all records."""
    column = _need_text(column, "LIKE")
    if pattern is None or pattern.kind is not Kind.TEXT or len(pattern) != 1:
        raise DefinitionError("LIKE needs a pattern in quotes")
    regex = "".join(LIKE_WILD.get(c, re.escape(c)) for c in pattern.words[0])
    match = re.compile(regex, re.DOTALL).fullmatch
    table = np.array([match(word) is not None for word in column.words] or [False])
    return Column(Kind.YES_NO, table[column.values], column.blank)


def _one_number(column: Column | None, what: str) -> int | None:
    if column is None:
        return None
    if column.kind is not Kind.WHOLE or len(column) != 1:
        raise DefinitionError(f"{what} needs a whole number written out")
    return int(column.values[0])


def substring(column: Column, start: Column | None, size: Column | None = None) -> Column:
    """SUBSTRING(text FROM start FOR size), counted from 1, as ISO/IEC 9075 counts places before the first."""
    first, count = _one_number(start, "SUBSTRING") or 1, _one_number(size, "SUBSTRING")
    end = None if count is None else max(0, first - 1 + count)
    return _by_word(_need_text(column, "SUBSTRING"), lambda word: word[max(0, first - 1) : end])


def position(column: Column, part: Column) -> Column:
    """POSITION(part IN text), from 1; 0 where it does not occur."""
    column, part = _need_text(column, "POSITION"), _need_text(part, "POSITION")
    if len(part) != 1:
        raise DefinitionError("POSITION needs the text to find in quotes")
    found = np.array([word.find(part.words[0]) + 1 for word in column.words] or [0], dtype=np.int64)
    return Column(Kind.WHOLE, found[column.values], column.blank)


def replaced(column: Column, old: Column, new: Column | None) -> Column:
    """REPLACE(text, old, new)."""
    column, old = _need_text(column, "REPLACE"), _need_text(old, "REPLACE")
    by = scalar(Kind.TEXT, "") if new is None else _need_text(new, "REPLACE")
    if len(old) != 1 or len(by) != 1:
        raise DefinitionError("REPLACE needs the old and the new text in quotes")
    return _by_word(column, lambda word: word.replace(old.words[0], by.words[0]) if old.words[0] else word)


def as_text(column: Column) -> Column:
    """Any column written out: numbers with their places, dates as ISO 8601."""
    if column.kind is Kind.TEXT:
        return column
    if ar.is_null(column):
        return scalar(Kind.TEXT, None)
    different, codes = np.unique(column.values, return_inverse=True)
    plain = Column(column.kind, different, None, column.places)
    fresh = text_column([written(plain.item(i)) for i in range(len(different))] or [""])
    return Column(Kind.TEXT, fresh.values[codes], column.blank, words=fresh.words)


def written(value: object) -> str:
    """One value as text: decimals without an exponent, yes/no in words, dates as ISO 8601."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Decimal):
        return f"{value:f}"
    if isinstance(value, float):
        return f"{value:.12g}"
    if isinstance(value, datetime):
        return value.isoformat(sep=" ", timespec="minutes" if value.second == 0 and value.microsecond == 0 else "auto")
    if isinstance(value, date):
        return value.isoformat()
    return str(value)


def _decimal(word: str) -> Decimal | None:
    try:
        number = Decimal(word.strip())
    except InvalidOperation:
        return None
    return number if number.is_finite() else None


def _date(word: str) -> date | None:
    try:
        return date.fromisoformat(word.strip()[:10])
    except ValueError:
        return None


def _text_to_number(column: Column, places: int | None) -> Column:
    numbers = [_decimal(word) for word in column.words] or [None]
    found = max((-int(n.as_tuple().exponent) for n in numbers if n is not None), default=0)
    scale = max(0, min(found, MOST_PLACES)) if places is None else places
    fits = all(n is None or abs(n.scaleb(scale)) <= INT64_MOST for n in numbers)
    if not fits:
        raise DefinitionError("CAST: a number does not fit in 64 bits")
    quantum = Decimal(1).scaleb(-scale)
    table = number_column(
        [None if n is None else n.quantize(quantum, rounding="ROUND_HALF_UP") for n in numbers], scale
    )
    taken = table.take(column.values)
    return Column(taken.kind, taken.values, taken.blanks | column.blanks, taken.places)


def cast(column: Column, to: exp.DataType) -> Column:
    """CAST to a text, whole, decimal, approximate or date type; text that cannot be read is blank."""
    name = to.this.value if hasattr(to.this, "value") else str(to.this)
    if ar.is_null(column):
        return column
    if name in {"VARCHAR", "CHAR", "TEXT", "NVARCHAR"}:
        return as_text(column)
    if name in {"DATE"}:
        if column.kind is Kind.TEXT:
            table = date_column([_date(word) for word in column.words] or [None]).take(column.values)
            if table.blank is not None and len(column) == 1 and not column.blanks.any():
                raise DefinitionError(f"{column.words[0]!r} is not a date; write it as DATE '2026-07-31'")
            return Column(Kind.DATE, table.values, table.blanks | column.blanks)
        if column.kind is Kind.DATETIME:
            return Column(Kind.DATE, (column.values // DAY_MICROSECONDS).astype(np.int32), column.blank)
        if column.kind is Kind.DATE:
            return column
    if name in {"TIMESTAMP", "DATETIME"} and column.kind is Kind.TEXT and len(column) == 1:
        try:
            moment = datetime.fromisoformat(column.words[0])
        except ValueError:
            raise DefinitionError(f"{column.words[0]!r} is not a date-time") from None
        seconds = day_number(moment.date()) * 86_400 + moment.hour * 3600 + moment.minute * 60 + moment.second
        return scalar(Kind.DATETIME, seconds * 1_000_000 + moment.microsecond)
    if name in {"INT", "BIGINT", "SMALLINT", "DECIMAL", "NUMERIC"}:
        places = 0
        if name in {"DECIMAL", "NUMERIC"} and len(to.expressions) > 1:
            places = int(to.expressions[1].name)
        if column.kind is Kind.TEXT:
            return _text_to_number(column, places)
        if column.kind in NUMERIC:
            return ar.rounded(column, places)
    if name in {"DOUBLE", "FLOAT", "REAL"}:
        number = _text_to_number(column, None) if column.kind is Kind.TEXT else column
        if number.kind in NUMERIC:
            return ar.approximate(number.floats(), number.blank)
    raise DefinitionError(f"CAST of {ar.say(column.kind)} to {name} is not known here")
