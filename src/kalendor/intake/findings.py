"""Detects the kind of a column from its distinct texts and how often each occurs."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import pyarrow.compute as pc

from kalendor.core.values.columns import Column, Kind, Mask, days_of
from kalendor.core.values.notation import noted_day
from kalendor.core.values.occurrences import occurring
from kalendor.core.values.words import Words
from kalendor.definitions.recipe import ColumnReading
from kalendor.intake import values
from kalendor.intake.arrays import as_array
from kalendor.intake.loose import Loose, RawColumn, Uncoded, coded
from kalendor.intake.numbers import Dates
from kalendor.intake.room import laid_out
from kalendor.intake.values import Read

ENOUGH = 0.9
ISO = "%Y-%m-%d"
SAMPLE = 400
LOOKED_AT = 500  # words looked at to decide which readings to try
MOST_YES_NO = 20
SHOWN_EXAMPLES, MOST_TEXT = 4, 1_000_000


@dataclass(frozen=True)
class Rival:
    """Another date order that fits as well. `examples` are texts that the two orders read as different days, with both
    readings in words."""

    format: str
    examples: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, eq=False)
class Finding:
    """A column as read: `reading` is its recipe, `note` a remark in words."""

    column: Column
    failed: Mask | None
    reading: ColumnReading
    rival: Rival | None = None
    note: str = ""


def find(raw: RawColumn, told: ColumnReading, strict: bool = False, mark: str | None = None) -> Finding | None:
    """The texts read as told, or as a kind that at least nine tenths of its records can be read as.

    `failed`, shape (n,), marks records whose text is not blank and cannot be read; None if there is none. If `strict`
    and fewer can be read as told, or more in another date order, None: the column has changed. `mark` is the file's
    decimal mark, if known and not told for the column.
    """
    mark = told.decimal_mark or mark
    if isinstance(raw, Loose):
        straight = _straight(raw, told, mark) or _still_text(raw, told, mark)
        if straight is not None and (not strict or is_as_told(straight.column.kind, told)):
            return straight
    text = _folded(coded(raw)) if told.fold_case else coded(raw)
    counts = occurring(text.values, len(text.words))
    filled = np.asarray(pc.not_equal(as_array(text.words), "").to_numpy(zero_copy_only=False), dtype=bool)
    total = int(counts[filled].sum())
    if told.type == "text" or (told.type is None and total == 0):
        return _as_text(text, told)
    fits: list[tuple[float, Read]] = []
    for read in _readings(text.words, told, mark):
        good = int(counts[filled & ~read.failed].sum())
        if told.type is not None or (total and good >= ENOUGH * total):
            if strict and told.type is not None and total and not _fits(read, told, good, total):
                continue
            fits.append((good / total if total else 1.0, read))
            if told.type is None and (read.format is None or good == total) and not _may_have_rival(read):
                break
    if not fits:
        return None if strict and told.type is not None else _as_text(text, told)
    best = max(fits, key=lambda pair: pair[0])
    if strict and best[0] < 1 and _other_order_is_better(text.words, counts * filled, best[1], told):
        return None
    rivals = [r for share, r in fits if share == best[0] and r is not best[1] and r.kind is best[1].kind and r.format]
    return _finding(text, best[1], told, _rival(text.words, best[1], rivals[0]) if rivals else None)


def _fits(read: Read, told: ColumnReading, good: int, total: int) -> bool:
    return good >= ENOUGH * total and is_as_told(read.kind, told)


def is_as_told(kind: Kind, told: ColumnReading) -> bool:
    """Whether a column of a kind is acceptable where another was told; a whole number is a decimal without places."""
    return told.type in (None, kind.value) or (told.type == "decimal" and kind is Kind.WHOLE)


def _other_order_is_better(words: Sequence[str], counts: np.ndarray, read: Read, told: ColumnReading) -> bool:
    """Whether more records can be read with day and month swapped; `counts` are those of each word."""
    if told.format is None or not _may_have_rival(read):
        return False
    turned = told.format.replace("%d", "%_").replace("%m", "%d").replace("%_", "%m")
    is_date = read.kind is Kind.DATE
    other = values.read_dates(words, turned) if is_date else values.read_moments(words, turned, told.zone)
    return int(counts[~other.failed].sum()) > int(counts[~read.failed].sum())


def _straight(raw: Loose, told: ColumnReading, mark: str | None) -> Finding | None:
    """Plainly written amounts and dates, read without a dictionary of texts; None for others."""
    if isinstance(raw, Dates):
        return _straight_dates(raw, told)
    if told.type not in (None, "whole", "decimal") or told.fold_case or mark == ",":
        return None
    sample = raw.first_different(SAMPLE)
    if not sample or (told.type is None and (_likely_formats(sample) or not _may_be_numbers(sample, mark))):
        return None
    column = raw.numbers()
    if column is None or told.places not in (None, column.places):
        return None
    places = column.places or None
    reading = ColumnReading(type=column.kind.value, places=places, decimal_mark=told.decimal_mark)
    return Finding(column, None, reading)


def _straight_dates(raw: Dates, told: ColumnReading) -> Finding | None:
    if told.type not in (None, "date") or told.format not in (None, ISO) or told.fold_case:
        return None
    column = raw.dates()
    return None if column is None else Finding(column, None, ColumnReading(type="date", format=ISO))


def _still_text(raw: Loose, told: ColumnReading, mark: str | None) -> Finding | None:
    """Texts that the first of them show to be just text, not coded yet; None if all must be examined."""
    first = raw.first_words(LOOKED_AT)
    if told.type not in (None, "text") or told.fold_case or raw.longest > MOST_TEXT or len(first) < LOOKED_AT:
        return None
    if told.type is None and next(_readings(first, told, mark), None) is not None:
        return None
    return Finding(Uncoded(raw), None, ColumnReading(type="text"))


def _rival(words: Sequence[str], best: Read, other: Read) -> Rival:
    apart = np.flatnonzero((best.values != other.values) & ~best.failed & ~other.failed)[:SHOWN_EXAMPLES]
    days = [days_of(Column(read.kind, read.values[apart])) for read in (best, other)]
    shown = zip(apart.tolist(), days[0].tolist(), days[1].tolist(), strict=True)
    return Rival(other.format or "", tuple((words[i], noted_day(now), noted_day(then)) for i, now, then in shown))


def _may_have_rival(read: Read) -> bool:
    return read.format is not None and any(part in read.format for part in ("%d/%m", "%m/%d", "%d-%m", "%m-%d"))


def _folded(text: Column) -> Column:
    index: dict[str, int] = {}
    first: dict[str, str] = {}
    table = []
    for word in text.words:
        key = word.casefold()
        first.setdefault(key, word)
        table.append(index.setdefault(key, len(index)))
    return Column(
        Kind.TEXT, laid_out(np.array(table, dtype=np.int32), text.values), text.blank, words=tuple(first.values())
    )


def _readings(words: Sequence[str], told: ColumnReading, mark: str | None) -> Iterator[Read]:
    """The readings to try, likeliest first; determined by the first LOOKED_AT words, and by all only if they are few or
    half of them are numbers."""
    wanted = told.type
    if wanted in (None, "date"):
        formats = [told.format] if told.format else _likely_formats(words)
        yield from (values.read_dates(words, form) for form in formats)
    if wanted in (None, "datetime") and (wanted or any(":" in word for word in words[:50])):
        formats = (
            [told.format]
            if told.format
            else [
                "iso",
                *(f"{d} {t}" for d in _likely_formats([w.split(" ")[0] for w in words[:200]]) for t in values.TIMES),
            ]
        )
        yield from (values.read_moments(words, form, told.zone) for form in formats)
    if wanted in (None, "time") and (wanted or any(":" in word for word in words[:50])):
        formats = [told.format] if told.format else list(values.TIMES)
        yield from (values.read_times(words, form) for form in formats)
    if told.percent or (wanted in (None, "decimal", "approximate") and _may_be_percentages(words)):
        yield values.read_percentages(words, mark or values.decimal_mark([w.rstrip("%") for w in words[:500]]))
        return
    if wanted in ("whole", "decimal", "approximate") or (wanted is None and _may_be_numbers(words, mark)):
        yield _as_told(values.read_numbers(words, mark or values.decimal_mark(words), told.places), wanted)
    if wanted == "yes_no" or (wanted is None and len(words) <= MOST_YES_NO):
        yield values.read_yes_no(words)


def _may_be_numbers(words: Sequence[str], mark: str | None) -> bool:
    """Whether half of the first distinct texts can be read as numbers, and none has leading zeros."""
    sample = [word for word in words[:SAMPLE] if word]
    mark = mark or values.decimal_mark(sample)
    good = sum(values.plain_number(word, mark) is not None for word in sample)
    return 2 * good >= len(sample) and not values.has_codes(words)


def _may_be_percentages(words: Sequence[str]) -> bool:
    """Whether nine tenths of the first different texts end in a percent sign."""
    sample = [word for word in words[:SAMPLE] if word]
    return bool(sample) and sum(word.endswith("%") for word in sample) >= ENOUGH * len(sample)


def _as_told(read: Read, wanted: str | None) -> Read:
    if wanted == "approximate" and read.kind is not Kind.APPROXIMATE:
        return Read(Kind.APPROXIMATE, read.values / 10.0**read.places, read.failed)
    return read


def _likely_formats(words: Sequence[str]) -> list[str]:
    """Formats that the first different texts allow."""
    sample = [word for word in words[:200] if word]
    needed = ENOUGH * len(sample)
    fits = [
        f
        for f in values.DATE_FORMATS
        if sample and sum(values.date_reader(f)(w) is not None for w in sample) >= needed / 2
    ]
    return [f for f in fits if f != "%Y%m%d" or all(len(w) == 8 for w in sample)]


def _as_text(text: Column, told: ColumnReading) -> Finding:
    """The texts unchanged; those that are too long cannot be read."""
    sizes = text.words.sizes if isinstance(text.words, Words) else np.array([len(word) for word in text.words] or [0])
    too_long = sizes > MOST_TEXT
    return Finding(text, _where(too_long, text), ColumnReading(type="text", fold_case=told.fold_case))


def _finding(text: Column, read: Read, told: ColumnReading, rival: Rival | None = None) -> Finding:
    column = values.as_column(read, text)
    places = read.places if read.kind is Kind.DECIMAL and not read.percent else None
    reading = ColumnReading(
        type=read.kind.value,
        format=read.format,
        places=places,
        decimal_mark=told.decimal_mark,
        percent=read.percent,
        zone=told.zone,
    )
    return Finding(column, _where(read.failed, text), reading, rival, _offsets_said(read, told))


def _where(failed: Mask, text: Column) -> Mask | None:
    """The records that are not blank and have one of the texts that failed; None for none."""
    if not failed.any():
        return None
    found = laid_out(failed, text.values)
    if text.blank is not None:
        found &= ~text.blank
    return found if found.any() else None


def _offsets_said(read: Read, told: ColumnReading) -> str:
    if not read.offsets:
        return ""
    if told.zone is not None:
        return f"times with an offset are converted to {told.zone}"
    return "times bear an offset from universal time; the local time written is kept"
