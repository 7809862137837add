"""Partials as bytes, to be stored or sent: metadata as JSON, then the arrays one after another, with a checksum. They
contain no code."""

import json
import struct
import zlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeVar

import numpy as np

from kalendor.core.placing.material import Material
from kalendor.core.takes.aggregate import Of
from kalendor.core.takes.condensed import Condensed, DaySpans
from kalendor.core.values.columns import Array, Column, Kind, Records
from kalendor.core.values.keys import Key
from kalendor.core.values.origin import Origin
from kalendor.core.values.words import Words
from kalendor.errors import DamagedError

V = TypeVar("V")
FORM = 1
HEAD = struct.Struct("<QI")  # length of the JSON, and the CRC-32 of all that follows
FEW_WORDS = 4096


def to_bytes(partial: Material) -> bytes:
    """A partial as bytes, without its groupings."""
    known = partial.condensed
    assert known is not None
    into = _Into()
    told = {
        "form": FORM,
        "counts": [partial.refused, partial.mended, partial.empty, partial.by_hand],
        "count": partial.records.count,
        "columns": into.columns(partial.records.columns),
        "times": into.array(known.times),
        "places": into.array(known.places),
        "taken": {key: into.of(of) for key, of in known.taken.items()},
        "units": into.columns(known.units),
        "origin": None if known.origin is None else into.origin(known.origin),
        "own": list(known.columns),
        "worded": known.worded,
        "days": None
        if known.days is None
        else [known.days.of, into.array(known.days.first), into.array(known.days.last)],
    }
    return into.bytes(told)


def from_bytes(content: bytes) -> Material:
    """Inverse of `to_bytes`.

    Raises DamagedError if it is incomplete, or of another version.
    """
    return _read(content, _From.material)


def columns_to_bytes(columns: Mapping[str, Column], beside: Any) -> bytes:
    """Columns as bytes, with further metadata as JSON."""
    into = _Into()
    return into.bytes({"form": FORM, "columns": into.columns(columns), "beside": beside})


def columns_from_bytes(content: bytes) -> tuple[dict[str, Column], Any]:
    """Inverse of `columns_to_bytes`.

    Raises DamagedError as `from_bytes` does.
    """
    return _read(content, lambda found, told: (found.columns(told["columns"]), told["beside"]))


def _read(content: bytes, made: "Callable[[_From, dict[str, Any]], V]") -> V:
    try:
        size, check = HEAD.unpack_from(content)
        if check != zlib.crc32(content[HEAD.size :]):
            raise DamagedError("a kept partial is not what was written")
        told = json.loads(content[HEAD.size : HEAD.size + size])
        if told["form"] != FORM:
            raise DamagedError("a kept partial has another form")
        return made(_From(content, HEAD.size + size, told["arrays"]), told)
    except (ValueError, KeyError, TypeError, struct.error) as error:
        raise DamagedError(f"a kept partial is not whole ({type(error).__name__})") from None


class _Into:
    """Collects arrays to be written, numbered in order."""

    def __init__(self) -> None:
        self.arrays: list[Array] = []

    def bytes(self, told: dict[str, Any]) -> bytes:
        told["arrays"] = [[array.dtype.str, len(array)] for array in self.arrays]
        header = json.dumps(told).encode()
        body = b"".join([header, *(array.tobytes() for array in self.arrays)])
        return HEAD.pack(len(header), zlib.crc32(body)) + body

    def array(self, array: Array | None) -> int | None:
        """The number of an array; Python integers, which may exceed 64 bits, are written as text."""
        if array is None:
            return None
        if array.dtype == object:
            array = np.array([str(v) for v in array.tolist()], dtype="U") if len(array) else np.zeros(0, dtype="U1")
        self.arrays.append(array)
        return len(self.arrays) - 1

    def columns(self, columns: Any) -> list[Any]:
        return [[name, self.column(column)] for name, column in columns.items()]

    def column(self, column: Column | None) -> dict[str, Any] | None:
        if column is None:
            return None
        words = Words.of(column.words) if column.kind is Kind.TEXT else None
        return {
            "kind": column.kind.value,
            "values": self.array(column.values),
            "blank": self.array(column.blank),
            "places": column.places,
            "words": None if words is None else [self.array(words.data), self.array(words.offsets)],
            "percent": column.percent,
            "unrounded": self.array(column.unrounded),
            "unit": list(column.unit),
            "found_by": list(column.found_by),
            "rest": [self.array(part) for part in column.rest],
        }

    def of(self, of: Of) -> dict[str, Any]:
        columns = {name: self.column(getattr(of, name)) for name in ("column", "weight", "by", "products", "squares")}
        return {**columns, "p": of.p, "n": of.n, "times": self.array(of.times), "places": self.array(of.places)}

    def origin(self, origin: Origin) -> dict[str, Any]:
        return {
            "of": self.array(origin.of),
            "names": list(origin.names),
            "columns": [sorted(c) for c in origin.columns],
        }


class _From:
    """Arrays by their numbers, and the values built from them."""

    def __init__(self, content: bytes, start: int, told: Sequence[Any]) -> None:
        self.arrays: list[Array] = []
        for kind, count in told:
            self.arrays.append(np.frombuffer(content, np.dtype(kind), count, start))
            start += self.arrays[-1].nbytes

    def array(self, number: int | None) -> Any:
        if number is None:
            return None
        found = self.arrays[number]
        return np.array([int(text) for text in found.tolist()], dtype=object) if found.dtype.kind == "U" else found

    def material(self, told: dict[str, Any]) -> Material:
        origin = told["origin"]
        refused, mended, empty, by_hand = told["counts"]
        records = Records(self.columns(told["columns"]), told["count"])
        known = Condensed(
            self.array(told["times"]),
            self.array(told["places"]),
            {Key(key): self.of(one) for key, one in told["taken"].items()},
            self.columns(told["units"]),
            None if origin is None else self.origin(origin),
            tuple(told["own"]),
            told["worded"],
            None if told["days"] is None else DaySpans(told["days"][0], *map(self.array, told["days"][1:])),
        )
        found = Material(records, refused=refused, mended=mended, empty=empty, by_hand=by_hand)
        return replace(found, condensed=known)

    def columns(self, told: Sequence[Any]) -> dict[str, Column]:
        return {name: self.column(one) for name, one in told}

    def column(self, told: dict[str, Any]) -> Column:
        return Column(
            Kind(told["kind"]), self.array(told["values"]), self.array(told["blank"]), told["places"],
            self.words(told["words"]), told["percent"], self.array(told["unrounded"]), tuple(told["unit"]),
            tuple(told["found_by"]), tuple(self.array(part) for part in told["rest"]),
        )  # fmt: skip

    def words(self, told: list[int] | None) -> Sequence[str]:
        if told is None:
            return ()
        found = Words(self.array(told[0]), self.array(told[1]))
        return tuple(found) if len(found) <= FEW_WORDS else found

    def of(self, told: dict[str, Any]) -> Of:
        column, weight, by, products, squares = (
            None if told[name] is None else self.column(told[name])
            for name in ("column", "weight", "by", "products", "squares")
        )
        return Of(
            column, weight, by, told["p"], told["n"], times=self.array(told["times"]), products=products, squares=squares,
            places=self.array(told["places"]),
        )  # fmt: skip

    def origin(self, told: dict[str, Any]) -> Origin:
        return Origin(self.array(told["of"]), tuple(told["names"]), tuple(frozenset(c) for c in told["columns"]))
