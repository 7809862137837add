"""Text to values: the readings a column may have, each tried on its different texts."""

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cache
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from kalendor.core.values.columns import INT64_MOST, MOST_PLACES, Column, Kind, brought_to, day_number
from kalendor.errors import DefinitionError
from kalendor.intake.arrays import as_array, most_places, units_of
from kalendor.intake.room import laid_out

CURRENCY = "£$€¥"
MOST_CHARACTERS, PERCENT_PLACES = 330, 4
_CODE, _EXPONENT = r"^[0-9]+[eE][0-9]+$", r"[0-9.][eE][+-][0-9]|\.[0-9]*[eE][0-9]"
_NUMBER = re.compile(
    r"(?=[+-]?[.,]?\d)[+-]?(\d[\d'\u00a0\u202f ]*|\d{1,3}(?:[.,]\d{3})+|\d*)(?:[.,]\d+)?(?:[eE][+-]?\d+)?"
)
YES_NO = {"yes": True, "no": False, "true": True, "false": False, "y": True, "n": False}
DATE_FORMATS: tuple[str, ...] = (
    "%Y-%m-%d",
    "%d/%m/%Y",
    "%m/%d/%Y",
    "%d.%m.%Y",
    "%d-%m-%Y",
    "%m-%d-%Y",
    "%Y/%m/%d",
    "%Y%m%d",
)
DATE_FORMATS += ("%d/%m/%y", "%m/%d/%y", "%d.%m.%y", "%d %b %Y", "%d-%b-%Y", "%d-%b-%y", "%d %B %Y", "%b %d, %Y")
MIDNIGHT = datetime(1900, 1, 1)
TIMES = ("%H:%M", "%H:%M:%S", "%H:%M:%S.%f")
_ZONE = re.compile(r"\s*(Z|[+-]\d{2}:?\d{2})$")


@dataclass(frozen=True, eq=False)
class Read:
    """A reading of different texts: values by text, and which could not be read.

    `percent`: they were written as 11%. `offsets`: how many of the texts bear an offset from universal time.
    """

    kind: Kind
    values: NDArray[Any]
    failed: NDArray[np.bool_]
    places: int = 0
    format: str | None = None
    percent: bool = False
    offsets: int = 0


def plain_number(text: str, mark: str) -> str | None:
    """A number as people write it, in the form that `float` reads; None where it is none.

    `mark` is the decimal mark. Thousands separators, currency signs, parentheses and a trailing minus are taken off.

    >>> plain_number("(1.234,56)", ","), plain_number("£45.00-", "."), plain_number("1E3", ".")
    ('-1234.56', '-45.00', '1E3')
    """
    body, minus = text.strip(), False
    if len(body) > MOST_CHARACTERS:
        return None
    if body.startswith("(") and body.endswith(")"):
        body, minus = body[1:-1].strip(), True
    body = body.strip(CURRENCY + " \u00a0")
    if body.endswith("-"):
        body, minus = body[:-1].rstrip(), not minus
    if body[:1] in "+-" and body[1:2] in CURRENCY and len(body) > 2:
        body = body[0] + body[2:].lstrip()
    if not body or not _NUMBER.fullmatch(body) or not any(c.isdigit() for c in body):
        return None
    other = "," if mark == "." else "."
    whole, found, rest = body.partition(mark)
    if other in rest or mark in rest:
        return None
    groups = re.split(r"[ '\u00a0\u202f" + re.escape(other) + "]", whole.lstrip("+-"))
    if len(groups) > 1 and (not 1 <= len(groups[0]) <= 3 or any(len(g) != 3 for g in groups[1:])):
        return None
    if len(groups) > 1 and groups[0].startswith("0"):  # 0,950 has a decimal comma; no thousands begin with a zero
        return None
    sign = "-" if body.startswith("-") != minus else ""
    return sign + "".join(groups) + ("." + rest if found else "")


def read_numbers(words: Sequence[str], mark: str, places: int | None = None) -> Read:
    """Texts as whole numbers, exact decimals, or approximate where they need more than 9 places or 64 bits."""
    clean = _clean(words) if mark == "." else np.zeros(len(words), dtype=bool)
    odd = np.flatnonzero(~clean).tolist()
    plain = {i: plain_number(words[i], mark) if words[i] else None for i in odd}
    known = [p for p in plain.values() if p is not None]
    tidy = as_array(words).filter(pa.array(clean))
    found = max([most_places(tidy), *(_places_of(p) for p in known)])
    failed = np.zeros(len(words), dtype=bool)
    failed[[i for i, p in plain.items() if p is None]] = True
    scale = found if places is None else places
    exponents = any("e" in p or "E" in p for p in known)
    if scale <= MOST_PLACES and found <= scale and not exponents:
        units = {i: 0 if p is None else _units(p, scale) for i, p in plain.items()}
        if all(abs(u) <= INT64_MOST for u in units.values()):
            values = np.zeros(len(words), dtype=np.int64)
            values[clean] = units_of(tidy, scale)
            values[list(units)] = list(units.values())
            return Read(Kind.DECIMAL if scale else Kind.WHOLE, values, failed, scale)
    return _approximately(words, clean, plain, failed, exponents)


def _clean(words: Sequence[str]) -> NDArray[np.bool_]:
    """Which texts are plain digits with at most one point, few enough to fit 64 bits at any scale allowed."""
    if not len(words):
        return np.zeros(0, dtype=bool)
    matched = pc.match_substring_regex(as_array(words), r"^-?[0-9]{1,9}(\.[0-9]{1,9})?$")
    return np.asarray(matched.to_numpy(zero_copy_only=False), dtype=bool)


def _approximately(
    words: Sequence[str],
    clean: NDArray[np.bool_],
    plain: dict[int, str | None],
    failed: NDArray[np.bool_],
    exponents: bool,
) -> Read:
    values = np.array([float(words[i]) if clean[i] else float(plain[i] or 0) for i in range(len(words))])
    failed = failed | ~np.isfinite(values)
    if exponents and len(values) and np.all(values == np.round(values)) and np.abs(values).max() < 2**53:
        return Read(Kind.WHOLE, np.where(failed, 0, values).astype(np.int64), failed)
    return Read(Kind.APPROXIMATE, np.where(failed, 0.0, values), failed)


def _places_of(plain: str) -> int:
    return len(plain.partition(".")[2]) if "e" not in plain.lower() else 0


def _units(plain: str, places: int) -> int:
    whole, _, rest = plain.partition(".")
    return int(whole + rest.ljust(places, "0")) if whole not in ("", "-") or rest else 0


def has_codes(words: Sequence[str]) -> bool:
    """True where some text is a code that a number would lose: 007, or 1E3 where nothing else is written with an
    exponent that can be nothing but one."""
    texts = as_array(words)
    if pc.any(pc.match_substring_regex(texts, r"^0[0-9]+$")).as_py():
        return True
    exponents = pc.any(pc.match_substring_regex(texts, _CODE)).as_py()
    return bool(exponents) and not pc.any(pc.match_substring_regex(texts, _EXPONENT)).as_py()


def read_percentages(words: Sequence[str], mark: str) -> Read:
    """Texts such as 11% as a hundredth of what stands there; what bears no percent sign cannot be read."""
    bare = [word[:-1].rstrip() if word.endswith("%") else "" for word in words]
    read = read_numbers(bare, mark)
    failed = read.failed | np.array([not b for b in bare], dtype=bool)
    fewest = read.places + 2
    if read.kind is Kind.APPROXIMATE or fewest > MOST_PLACES:
        values = read.values / 10.0**read.places / 100.0
        return Read(Kind.APPROXIMATE, values, failed, percent=True)
    hundredths = Column(Kind.DECIMAL, read.values, None, fewest)
    units = brought_to(hundredths, max(fewest, PERCENT_PLACES))
    if units is None:
        return Read(Kind.DECIMAL, read.values, failed, fewest, percent=True)
    return Read(Kind.DECIMAL, units, failed, max(fewest, PERCENT_PLACES), percent=True)


def decimal_mark(words: Sequence[str]) -> str:
    """Which decimal mark reads more of the texts; the point where both do."""
    sample = [word for word in words[:500] if word]
    points = sum(plain_number(word, ".") is not None for word in sample)
    commas = sum(plain_number(word, ",") is not None for word in sample)
    return "," if commas > points else "."


def file_mark(columns: Iterable[Sequence[str]]) -> str | None:
    """The decimal mark of a file, from some texts of each of its columns: that by which alone numbers of it can be read;
    None where there are none such, or of both kinds.

    >>> file_mark([["12,50", "1.234"], ["1.234"]]), file_mark([["1.234"]])
    (',', None)
    """
    marked = {word for words in columns for word in words if "," in word or "." in word}
    read = {mark: {word for word in marked if plain_number(word, mark) is not None} for mark in ".,"}
    points, commas = read["."] - read[","], read[","] - read["."]
    return None if bool(points) == bool(commas) else "." if points else ","


def open_mark(words: Iterable[str]) -> str:
    """The first text with a comma or a point, where each such text can be read with it as the decimal mark and as one between
    thousands; else empty.

    >>> open_mark(["950", "1,234"]), open_mark(["1,234", "12,5"]), open_mark(["1,234", "0,950"])
    ('1,234', '', '')
    """
    marked = [word for word in words if "," in word or "." in word]
    read = [[plain_number(word, mark) for mark in ".,"] for word in marked]
    return marked[0] if read and all(point and comma and point != comma for point, comma in read) else ""


def date_reader(form: str) -> Callable[[str], date | None]:
    """Reads one text by a strptime format; None where it does not fit."""
    if form == "%Y-%m-%d":
        return _iso_date

    marks = set(re.sub("%.", "", form))

    def read(word: str) -> date | None:
        if not marks.issubset(word) or (not marks and not word.isdigit()):
            return None
        try:
            return datetime.strptime(word, form).date()
        except ValueError:
            return None

    return read


def _iso_date(word: str) -> date | None:
    if len(word) != 10:
        return None
    try:
        return date.fromisoformat(word)
    except ValueError:
        return None


def read_dates(words: Sequence[str], form: str) -> Read:
    """Texts as dates by a format."""
    read = date_reader(form)
    days = [read(word) for word in words]
    values = np.array([0 if d is None else day_number(d) for d in days], dtype=np.int32)
    return Read(Kind.DATE, values, np.array([d is None for d in days], dtype=bool), format=form)


def _moment_reader(form: str, zone: ZoneInfo | None = None) -> Callable[[str], datetime | None]:
    """Reads one text as a moment; days and times that come again are read once. A text with an offset is converted to
    the zone, where one is given; else its local time stands."""
    day_form, _, time_form = form.rpartition(" ")

    @cache
    def part(text: str, form: str) -> datetime | None:
        try:
            return datetime.strptime(text, form)
        except ValueError:
            return None

    def plain(body: str) -> datetime | None:
        if form == "iso":
            try:
                return datetime.fromisoformat(body)
            except ValueError:
                return None
        day_text, _, time_text = body.rpartition(" ")
        day, time = part(day_text, day_form) if day_form else MIDNIGHT, part(time_text, time_form)
        return None if day is None or time is None else day + (time - MIDNIGHT)

    def read(word: str) -> datetime | None:
        offset = offset_of(word)
        moment = plain(word[: offset.start()] if offset else word)
        if moment is None or offset is None or zone is None:
            return moment
        try:
            return datetime.fromisoformat(f"{moment.isoformat()}{_colon(offset.group(1))}").astimezone(zone)
        except (ValueError, OverflowError):
            return None

    return read


def offset_of(word: str) -> re.Match[str] | None:
    """The offset from universal time at a text's end, such as Z or +02:00, where it bears a time of day."""
    found = _ZONE.search(word)
    return found if found and ":" in word[: found.start()] else None


def _colon(offset: str) -> str:
    if offset == "Z":
        return "+00:00"
    return offset if ":" in offset else f"{offset[:3]}:{offset[3:]}"


def read_moments(words: Sequence[str], form: str, zone: str | None = None) -> Read:
    """Texts as date-times by a format ("iso" is ISO 8601); times with an offset are converted to `zone`, an IANA name, or
    where none is given the local time written stands.

    Raises DefinitionError for a zone that is not known.
    """
    read = _moment_reader(form, _zone(zone))
    moments = [read(word) if word else None for word in words]
    moments = [m.replace(tzinfo=None) if m is not None else None for m in moments]
    epoch = datetime(1970, 1, 1)
    values = np.array([0 if m is None else (m - epoch) // timedelta(microseconds=1) for m in moments], dtype=np.int64)
    failed = np.array([m is None for m in moments], dtype=bool)
    offsets = sum(offset_of(w) is not None for w in words)
    return Read(Kind.DATETIME, values, failed, format=form, offsets=offsets)


def _zone(name: str | None) -> ZoneInfo | None:
    if name is None:
        return None
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise DefinitionError(f"{name!r} is no time zone that is known; write it as Europe/Oslo") from None


def read_times(words: Sequence[str], form: str) -> Read:
    """Texts as times of day by a format."""
    read = _moment_reader(form)
    moments = [read(word) if word else None for word in words]
    values = [
        0 if m is None else ((m.hour * 60 + m.minute) * 60 + m.second) * 1_000_000 + m.microsecond for m in moments
    ]
    return Read(
        Kind.TIME, np.array(values, dtype=np.int64), np.array([m is None for m in moments], dtype=bool), format=form
    )


def read_yes_no(words: Sequence[str]) -> Read:
    """Texts as yes or no."""
    known = [YES_NO.get(word.casefold()) for word in words]
    return Read(Kind.YES_NO, np.array([bool(k) for k in known]), np.array([k is None for k in known], dtype=bool))


def as_column(read: Read, text: Column) -> Column:
    """The reading of each different text, laid out over the records; blank where the text is."""
    values = laid_out(read.values, text.values) if len(read.values) else np.zeros(len(text), read.values.dtype)
    return Column(read.kind, values, text.blank, read.places, percent=read.percent)
