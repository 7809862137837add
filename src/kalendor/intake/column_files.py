"""Columns as array files in a folder, to be memory-mapped, so that one process can use what another read or computed."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Column, Kind, Records
from kalendor.core.values.syntax_trees import CONVERSION
from kalendor.core.values.words import Words

FEW_WORDS = 4096


def write_columns(folder: Path, records: Records) -> dict[str, Any]:
    """Write records into a folder; returns the metadata needed to read them.

    Raises OSError if the disk refuses.
    """
    return {
        "count": records.count,
        "columns": [
            {"name": name, **_written(folder, i, column)} for i, (name, column) in enumerate(records.columns.items())
        ],
    }


def _written(folder: Path, i: int, column: Column) -> dict[str, Any]:
    save(folder / f"{i}.npy", column.values)
    if column.blank is not None:
        save(folder / f"{i}.blank.npy", column.blank)
    if column.kind is Kind.TEXT:
        words = Words.of(column.words)
        save(folder / f"{i}.words.npy", words.data)
        save(folder / f"{i}.offsets.npy", words.offsets)
    told = {"kind": column.kind.value, "places": column.places, "blank": column.blank is not None}
    return {**told, "percent": column.percent, "unit": list(column.unit), "found_by": list(column.found_by)}


def save(path: Path, array: NDArray[Any]) -> None:
    """Write one array."""
    np.save(path, array, allow_pickle=False)


def mapped_array(path: Path) -> NDArray[Any]:
    """One array, mapped from its file."""
    with CONVERSION:
        found: NDArray[Any] = np.load(path, mmap_mode="r", allow_pickle=False)
    return found


def read_columns(folder: Path, told: dict[str, Any]) -> Records:
    """The records that `write_columns` wrote.

    Raises OSError, ValueError, KeyError or TypeError if they are incomplete.
    """
    columns = {c["name"]: _column(folder, i, c) for i, c in enumerate(told["columns"])}
    if any(len(column) != told["count"] for column in columns.values()):
        raise ValueError("a column is of another length than the rest")
    return Records(columns, told["count"])


def _column(folder: Path, i: int, told: dict[str, Any]) -> Column:
    blank = mapped_array(folder / f"{i}.blank.npy") if told["blank"] else None
    words = _words(folder, i) if told["kind"] == Kind.TEXT else ()
    values = mapped_array(folder / f"{i}.npy")
    unit, found_by = (tuple(told.get(name, ())) for name in ("unit", "found_by"))
    return Column(
        Kind(str(told["kind"])), values, blank, int(told["places"]), words, bool(told["percent"]),
        unit=unit, found_by=found_by,
    )  # fmt: skip


def _words(folder: Path, i: int) -> Sequence[str]:
    found = Words(mapped_array(folder / f"{i}.words.npy"), mapped_array(folder / f"{i}.offsets.npy"))
    return tuple(found) if len(found) <= FEW_WORDS else found
