"""Typed columns: exact decimals as units at a scale, text as codes into a dictionary, dates as days."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from decimal import Context, Decimal
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.words import Words, merged

Array = NDArray[Any]
Mask = NDArray[np.bool_]

EPOCH = date(1970, 1, 1)
DAY_MICROSECONDS = 86_400_000_000
MOST_PLACES = 9
WIDE = Context(prec=400)  # digits enough for the largest float64 with all its places; a Decimal has 28 by itself
INT64_MOST = 2**63 - 1
MANY_WORDS = 1 << 14


class Kind(StrEnum):
    """What a column's values are."""

    TEXT = "text"
    WHOLE = "whole"
    DECIMAL = "decimal"
    APPROXIMATE = "approximate"
    DATE = "date"
    DATETIME = "datetime"
    TIME = "time"
    YES_NO = "yes_no"


NUMERIC = frozenset({Kind.WHOLE, Kind.DECIMAL, Kind.APPROXIMATE})
EXACT = frozenset({Kind.WHOLE, Kind.DECIMAL})
DATED = frozenset({Kind.DATE, Kind.DATETIME})
DTYPES: dict[Kind, Any] = {Kind.TEXT: np.int32, Kind.DATE: np.int32, Kind.APPROXIMATE: np.float64, Kind.YES_NO: bool}


@dataclass(frozen=True, eq=False)
class Column:
    """One value a record, or blank.

    `values`, shape (n,): TEXT int32 codes into `words`; WHOLE int64; DECIMAL int64 units of 10**-places; APPROXIMATE
    float64; DATE int32 days since 1970-01-01; DATETIME int64 microseconds since then; TIME int64 microseconds since
    midnight; YES_NO bool. Whole and decimal values that may exceed 64 bits are Python integers (dtype object).
    `percent` says that numbers are best shown as percentages. `blank`, shape (n,) bool, or None if no value is blank;
    the value at a blank is undefined. `unrounded`, shape (n,) float64, or None: the true value where the units of an
    exact column are rounded to its places, as for a ratio among amounts; NaN where the units are exact. `unit` lists
    the columns that hold the unit of each amount, such as its currency; `found_by` the columns by which a looked-up
    column was found, as a rate is by a currency. `rest`, arrays of shape (n,), is the part of approximate exact sums
    that float64 cannot hold: the exact amount is the sum of the value and all of these.
    """

    kind: Kind
    values: Array
    blank: Mask | None = None
    places: int = 0
    words: Sequence[str] = ()
    percent: bool = False
    unrounded: NDArray[np.float64] | None = None
    unit: tuple[str, ...] = ()
    found_by: tuple[str, ...] = ()
    rest: tuple[NDArray[np.float64], ...] = ()

    def __post_init__(self) -> None:
        self.values.setflags(write=False)
        if self.unrounded is not None:
            if np.isnan(self.unrounded).all():
                object.__setattr__(self, "unrounded", None)
            else:
                self.unrounded.setflags(write=False)
        if self.blank is not None:
            if not self.blank.any():
                object.__setattr__(self, "blank", None)
            else:
                self.blank.setflags(write=False)

    def __len__(self) -> int:
        return len(self.values)

    @property
    def present(self) -> Mask:
        """Shape (n,): True where there is a value."""
        return np.ones(len(self), dtype=bool) if self.blank is None else ~self.blank

    @property
    def blanks(self) -> Mask:
        """Shape (n,): True where there is none."""
        return np.zeros(len(self), dtype=bool) if self.blank is None else self.blank

    def take(self, index: Array) -> "Column":
        """The values at `index` (int positions or a bool mask)."""
        blank = None if self.blank is None else self.blank[index]
        unrounded = None if self.unrounded is None else self.unrounded[index]
        rest = tuple(part[index] for part in self.rest)
        return replace(self, values=self.values[index], blank=blank, unrounded=unrounded, rest=rest)

    def broadcast(self, n: int) -> "Column":
        """This column with `n` values; a single value is repeated."""
        if len(self) == n:
            return self
        blank = None if self.blank is None else np.broadcast_to(self.blank, n).copy()
        unrounded = None if self.unrounded is None else np.broadcast_to(self.unrounded, n).copy()
        return replace(self, values=np.broadcast_to(self.values, n).copy(), blank=blank, unrounded=unrounded)

    @property
    def rounded(self) -> Mask:
        """Shape (n,): True where the units are rounded, and `unrounded` has the true value."""
        return np.zeros(len(self), dtype=bool) if self.unrounded is None else ~np.isnan(self.unrounded)

    def floats(self) -> NDArray[np.float64]:
        """Numeric values as float64, correctly rounded; undefined at blanks."""
        values = self.values.astype(np.float64)
        values = values / 10.0**self.places if self.places else values
        return values if self.unrounded is None else np.where(self.rounded, self.unrounded, values)

    def item(self, i: int) -> Any:
        """The value at `i` as a Python value, or None."""
        if self.blank is not None and self.blank[i]:
            return None
        if self.unrounded is not None and not np.isnan(self.unrounded[i]):
            return float(self.unrounded[i])
        value = self.values[i]
        match self.kind:
            case Kind.TEXT:
                return self.words[value]
            case Kind.WHOLE:
                return int(value)
            case Kind.DECIMAL:
                return Decimal(int(value)).scaleb(-self.places, WIDE)
            case Kind.APPROXIMATE:
                return float(value)
            case Kind.DATE:
                return EPOCH + timedelta(days=int(value))
            case Kind.DATETIME:
                return datetime(1970, 1, 1) + timedelta(microseconds=int(value))
            case Kind.TIME:
                return (datetime(1970, 1, 1) + timedelta(microseconds=int(value))).time()
            case Kind.YES_NO:
                return bool(value)


def day_number(day: date) -> int:
    """Days since 1970-01-01."""
    return (day - EPOCH).days


def day_of(number: int) -> date:
    """The date `number` days after 1970-01-01."""
    return EPOCH + timedelta(days=int(number))


def days_of(column: Column) -> NDArray[np.int64]:
    """A date or date-time column as whole days since 1970-01-01, shape (n,)."""
    values = column.values.astype(np.int64)
    return values // DAY_MICROSECONDS if column.kind is Kind.DATETIME else values


def column_days(column: Column) -> tuple[int, int] | None:
    """The first and last day of a date column; None if it has no date."""
    if column.kind not in (Kind.DATE, Kind.DATETIME):
        return None
    days = days_of(column) if column.blank is None else days_of(column)[column.present]
    return (int(days.min()), int(days.max())) if len(days) else None


def as_kind(column: Column, *kinds: Kind) -> Column:
    """A column without any value, converted to the first of the requested kinds; any other column unchanged."""
    if column.kind in kinds or (len(column) and (column.blank is None or not column.blank.all())):
        return column
    return blank_column(kinds[0], len(column))


def array_type(kind: Kind) -> Any:
    """The dtype of a kind's values."""
    return DTYPES.get(kind, np.int64)


def blank_column(kind: Kind, count: int, places: int = 0) -> Column:
    """A column of `count` blanks."""
    words = ("",) if kind is Kind.TEXT else ()
    return Column(kind, np.zeros(count, array_type(kind)), np.ones(count, dtype=bool), places, words)


def text_column(values: Sequence[str | None]) -> Column:
    """Text as given, None for blank; codes in order of first appearance."""
    codes: dict[str, int] = {}
    coded = np.fromiter((-1 if v is None else codes.setdefault(v, len(codes)) for v in values), np.int32, len(values))
    blank = coded < 0
    coded[blank] = 0
    return Column(Kind.TEXT, coded, blank, words=tuple(codes) or ("",))


def number_column(values: Iterable[int | Decimal | None], places: int = 0) -> Column:
    """Exact numbers at a scale; whole where `places` is 0. Values are Python integers or Decimals that fit the scale."""
    units = [None if v is None else int(Decimal(v).scaleb(places)) for v in values]
    blank = np.array([u is None for u in units], dtype=bool)
    wide = any(u is not None and abs(u) > INT64_MOST for u in units)
    array = np.array([u or 0 for u in units], dtype=object if wide else np.int64)
    return Column(Kind.DECIMAL if places else Kind.WHOLE, array, blank, places)


def date_column(values: Iterable[date | None]) -> Column:
    """Dates, None for blank."""
    days = [None if v is None else day_number(v) for v in values]
    return Column(
        Kind.DATE, np.array([d or 0 for d in days], dtype=np.int32), np.array([d is None for d in days], dtype=bool)
    )


def scalar(kind: Kind, value: Any, places: int = 0) -> Column:
    """A column of one value, to be broadcast as needed; None is blank."""
    blank = np.array([value is None])
    if kind is Kind.TEXT:
        return Column(kind, np.zeros(1, dtype=np.int32), blank, words=("",) if value is None else (value,))
    dtype = array_type(kind)
    if kind in EXACT and value is not None and abs(value) > INT64_MOST:
        dtype = object
    return Column(kind, np.array([0 if value is None else value], dtype=dtype), blank, places)


def merge_words(columns: Sequence[Column]) -> tuple[list[Array], Sequence[str]]:
    """Text columns recoded into one dictionary: their new codes, and the words."""
    if len(columns) == 2 and max(len(c.words) for c in columns) > MANY_WORDS:
        both = merged(Words.of(columns[0].words), Words.of(columns[1].words))
        if both is not None:
            words, numbers = both
            return [columns[0].values, numbers[columns[1].values]], words
    index: dict[str, int] = {}
    recoded: list[Array] = []
    for column in columns:
        table = np.fromiter((index.setdefault(w, len(index)) for w in column.words), np.int32, len(column.words))
        recoded.append(table[column.values] if len(table) else np.zeros(len(column), dtype=np.int32))
    return recoded, tuple(index) or ("",)


def magnitude(values: Array) -> int:
    """The largest absolute value, as a Python integer."""
    return max(abs(int(values.min())), abs(int(values.max()))) if len(values) else 0


def room_to_add(values: Array) -> Array:
    """Amounts as Python integers, which do not overflow, if their sums could exceed 64 bits."""
    if values.dtype == np.int64 and values.size and magnitude(values) * values.size > INT64_MOST:
        return values.astype(object)
    return values


def brought_to(column: Column, places: int) -> Array | None:
    """The units of an exact column at the same number of places or more; None if they would exceed 64 bits.

    Every change of scale goes through here, so that none overflows. Python integers (dtype object) always fit.
    """
    factor = 10 ** (places - column.places)
    if factor == 1 or column.values.dtype == object:
        return column.values if factor == 1 else column.values * factor
    values = column.values
    if magnitude(values) * factor > INT64_MOST:
        values = np.where(column.blanks, 0, values)  # values at blanks may overflow
        if magnitude(values) * factor > INT64_MOST:
            return None
    return values * factor


def concat(columns: Sequence[Column]) -> Column:
    """Columns of one kind, one after another; decimals take the most places among them, and become approximate if units
    at these would exceed 64 bits."""
    if len(columns) == 1:
        return columns[0]
    kind = columns[0].kind
    blank = np.concatenate([c.blanks for c in columns])
    if kind is Kind.TEXT:
        recoded, words = merge_words(columns)
        return Column(kind, np.concatenate(recoded), blank, words=words)
    places = max(c.places for c in columns)
    percent = all(c.percent for c in columns)
    unit = next((c.unit for c in columns if c.unit), ())
    units = [brought_to(c, places) if c.kind in EXACT else c.values for c in columns]
    values = [u for u in units if u is not None]
    if len(values) < len(columns):
        return Column(
            Kind.APPROXIMATE, np.concatenate([c.floats() for c in columns]), blank, percent=percent, unit=unit
        )
    return Column(kind, np.concatenate(values), blank, places, percent=percent, unit=unit)


@dataclass(frozen=True, eq=False)
class Records:
    """Columns of one length, by name, in order."""

    columns: dict[str, Column]
    count: int

    def column(self, name: str) -> Column:
        """The column of that name; KeyError if there is none."""
        return self.columns[name]

    def take(self, index: Array) -> "Records":
        """The records at `index` (int positions)."""
        return Records({name: column.take(index) for name, column in self.columns.items()}, len(index))

    def with_column(self, name: str, column: Column) -> "Records":
        """These records with one more column, or with the column of that name replaced."""
        return Records({**self.columns, name: column}, self.count)
