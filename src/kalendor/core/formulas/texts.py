"""Text functions over columns; each is evaluated once for every distinct word, not for every record."""

from collections.abc import Callable, Sequence
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from functools import cache
from typing import Any

import numpy as np
from sqlglot import exp

from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import (
    DAY_MICROSECONDS,
    EXACT,
    INT64_MOST,
    MOST_PLACES,
    NUMERIC,
    Array,
    Column,
    Kind,
    Mask,
    date_column,
    day_number,
    number_column,
    scalar,
    text_column,
)
from kalendor.core.values.interruption import checked
from kalendor.errors import DefinitionError

MOST_SCALE = 18  # places that 64 bits hold


def _need_text(column: Column, what: str) -> Column:
    if ar.is_null(column):
        return scalar(Kind.TEXT, None)
    if column.kind is not Kind.TEXT:
        raise DefinitionError(f"{what} needs text, and was given {ar.say(column.kind)}")
    return column


def _by_word(column: Column, work: Callable[[str], str]) -> Column:
    fresh = text_column([work(word) for word in checked(column.words)] or [""])
    return Column(Kind.TEXT, fresh.values[column.values], column.blank, words=fresh.words)


def upper(column: Column) -> Column:
    """UPPER."""
    return _by_word(_need_text(column, "UPPER"), str.upper)


def lower(column: Column) -> Column:
    """LOWER."""
    return _by_word(_need_text(column, "LOWER"), str.lower)


def trimmed(column: Column, side: str, part: Column | None = None) -> Column:
    """TRIM of outer spaces, or of another character: BOTH, LEADING or TRAILING.

    Raises DefinitionError if `part` is not one character.
    """
    character = " " if part is None else _one_text(part, "TRIM")
    work = {"LEADING": str.lstrip, "TRAILING": str.rstrip}.get(side, str.strip)
    return _by_word(_need_text(column, "TRIM"), lambda word: work(word, character))


def length(column: Column) -> Column:
    """CHAR_LENGTH, in characters."""
    column = _need_text(column, "CHAR_LENGTH")
    sizes = np.array([len(word) for word in column.words] or [0], dtype=np.int64)
    return Column(Kind.WHOLE, sizes[column.values], column.blank)


def _each(columns: Sequence[Column], work: Callable[..., Any]) -> tuple[list[Any], Array, Mask]:
    """A function applied once to each distinct combination of values; None if one of them is blank.

    Returns the results, the result's index for each record, and the blanks if any column has some, the latter two of
    shape (n,).
    """
    count = max(len(column) for column in columns)
    blank = np.logical_or.reduce([np.broadcast_to(column.blanks, count) for column in columns])
    varying = [i for i, column in enumerate(columns) if len(column) > 1]
    if [columns[i].kind for i in varying] == [Kind.TEXT]:
        (at,) = varying
        told = [column.item(0) if len(column) == 1 else None for column in columns]
        rows = [(*told[:at], word, *told[at + 1 :]) for word in checked(columns[at].words)]
        codes: Array = columns[at].values
    else:
        codes = blank.astype(np.int64)
        for column in columns:
            different, own = np.unique(np.broadcast_to(column.values, count), return_inverse=True)
            codes = np.unique(codes * len(different) + own, return_inverse=True)[1]
        _, first = np.unique(codes, return_index=True)
        known = [column.broadcast(count) for column in columns]
        rows = [tuple(column.item(i) for column in known) for i in first.tolist()]
    return [None if None in row else work(*row) for row in rows] or [None], codes, blank


def _text_of(columns: Sequence[Column], work: Callable[..., str]) -> Column:
    found, codes, blank = _each(columns, work)
    fresh = text_column(["" if text is None else text for text in found])
    return Column(Kind.TEXT, fresh.values[codes], blank, words=fresh.words)


def joined(a: Column, b: Column) -> Column:
    """a || b; numbers and dates are written out first."""
    return _text_of([as_text(a), as_text(b)], str.__add__)


def like(column: Column, pattern: Column, escape: Column | None = None) -> Column:
    """LIKE with % and _; the escape character, if given, makes them literal. Linear in the length of the text."""
    column, pattern = _need_text(column, "LIKE"), _need_text(pattern, "LIKE")
    mark = "" if escape is None else _one_text(escape, "ESCAPE")
    pieces = cache(lambda text: _pieces(text, mark))
    found, codes, blank = _each([column, pattern], lambda word, text: _is_like(word, pieces(text)))
    return Column(Kind.YES_NO, np.array([bool(yes) for yes in found])[codes], blank)


def _one_text(given: Column, what: str) -> str:
    if given.kind is not Kind.TEXT or len(given) != 1 or given.blank is not None or len(given.words[0]) != 1:
        raise DefinitionError(f"{what} needs one character in quotes")
    return given.words[0]


Piece = tuple[str | None, ...]


def _pieces(pattern: str, escape: str) -> list[Piece]:
    """The pieces between the % of a pattern: characters, None for any one."""
    pieces: list[list[str | None]] = [[]]
    at = 0
    while at < len(pattern):
        char = pattern[at]
        if escape and char == escape:
            at += 1
            if at == len(pattern) or pattern[at] not in ("%", "_", escape):
                raise DefinitionError(
                    f"in the pattern {pattern!r}, {escape!r} stands before neither % nor _ nor itself"
                )
            pieces[-1].append(pattern[at])
        elif char == "%":
            pieces.append([])
        else:
            pieces[-1].append(None if char == "_" else char)
        at += 1
    return [tuple(piece) for piece in pieces]


def _is_like(word: str, pieces: list[Piece]) -> bool:
    """Whether the first piece matches at the start, the last at the end, and the others in order at their first match."""
    first, *rest = pieces
    if not rest:
        return len(word) == len(first) and _fits(word, 0, first)
    *middle, last = rest
    end = len(word) - len(last)
    if end < len(first) or not _fits(word, 0, first) or not _fits(word, end, last):
        return False
    at = len(first)
    for piece in middle:
        at = _found(word, piece, at, end)
        if at < 0:
            return False
        at += len(piece)
    return True


def _fits(word: str, at: int, piece: Piece) -> bool:
    return all(char is None or word[at + i] == char for i, char in enumerate(piece))


def _found(word: str, piece: Piece, start: int, end: int) -> int:
    """The first match of a piece between two positions; −1 if there is none."""
    if None not in piece:
        return word.find("".join(char or "" for char in piece), start, end)
    return next((at for at in range(start, end - len(piece) + 1) if _fits(word, at, piece)), -1)


def _need_whole(column: Column, what: str) -> Column:
    if ar.is_null(column):
        return scalar(Kind.WHOLE, None)
    if column.kind is not Kind.WHOLE:
        raise DefinitionError(f"{what} needs a whole number, and was given {ar.say(column.kind)}")
    return column


def substring(column: Column, start: Column, size: Column | None = None) -> Column:
    """SUBSTRING(text FROM start FOR size), counted from 1; positions before the first count as in ISO/IEC 9075."""
    given = [_need_text(column, "SUBSTRING"), _need_whole(start, "SUBSTRING")]
    if size is not None:
        given.append(_need_whole(size, "SUBSTRING"))
    return _text_of(given, _cut)


def _cut(word: str, start: int, size: int | None = None) -> str:
    end = None if size is None else max(0, start - 1 + size)
    return word[max(0, start - 1) : end]


def position(column: Column, part: Column) -> Column:
    """POSITION(part IN text), from 1; 0 if it does not occur."""
    given = [_need_text(column, "POSITION"), _need_text(part, "POSITION")]
    found, codes, blank = _each(given, lambda word, sought: word.find(sought) + 1)
    return Column(Kind.WHOLE, np.array([at or 0 for at in found], dtype=np.int64)[codes], blank)


def replaced(column: Column, old: Column, new: Column | None) -> Column:
    """REPLACE(text, old, new)."""
    by = scalar(Kind.TEXT, "") if new is None else _need_text(new, "REPLACE")
    given = [_need_text(column, "REPLACE"), _need_text(old, "REPLACE"), by]
    return _text_of(given, lambda word, sought, put: word.replace(sought, put) if sought else word)


def as_text(column: Column) -> Column:
    """Any column as text: numbers with their places, dates as ISO 8601."""
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
    numbers = [_decimal(word) for word in checked(column.words)] or [None]
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


def _size(to: exp.DataType) -> tuple[int | None, int]:
    """The precision of a decimal type, None if not given, and its scale."""
    told = [part.name for part in to.expressions]
    if any(not one.isdecimal() or len(one) > 2 for one in told):
        raise DefinitionError(f"CAST: {', '.join(told)[:40]} is no size of a number; write it as DECIMAL(18, 2)")
    digits, places = int(told[0]) if told else None, int(told[1]) if len(told) > 1 else 0
    if digits is not None and places > min(digits, MOST_SCALE):
        raise DefinitionError(
            f"CAST: DECIMAL({digits}, {places}) has more places than digits, or more than {MOST_SCALE}"
        )
    return digits, places


def _fitting(column: Column, digits: int | None, places: int) -> Column:
    """The numbers themselves; an error if one exceeds the type's precision."""
    if digits is None or column.kind not in EXACT:
        return column
    if (np.abs(column.values[column.present]) >= 10 ** (digits - places + column.places)).any():
        raise DefinitionError(f"CAST: a number does not fit DECIMAL({digits}, {places})")
    return column


def cast(column: Column, to: exp.DataType) -> Column:
    """CAST to a text, whole, decimal, approximate or date type; text that cannot be read is blank."""
    name = to.this.value if hasattr(to.this, "value") else str(to.this)
    if ar.is_null(column):
        return column
    if name in {"VARCHAR", "CHAR", "TEXT", "NVARCHAR"}:
        return as_text(column)
    if name in {"DATE"}:
        if column.kind is Kind.TEXT:
            table = date_column([_date(word) for word in checked(column.words)] or [None]).take(column.values)
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
        digits, places = _size(to)
        if column.kind is Kind.TEXT:
            return _fitting(_text_to_number(column, places), digits, places)
        if column.kind in NUMERIC:
            return _fitting(ar.rounded(column, places), digits, places)
    if name in {"DOUBLE", "FLOAT", "REAL"}:
        number = _text_to_number(column, None) if column.kind is Kind.TEXT else column
        if number.kind in NUMERIC:
            return ar.approximate(number.floats(), number.blank)
    raise DefinitionError(f"CAST of {ar.say(column.kind)} to {name} is not known here")
