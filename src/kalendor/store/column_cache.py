"""Each column of a source revision as arrays in files that are memory-mapped; deleted, they are made again."""

import json
import shutil
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from uuid import uuid4

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Column, Kind, Records
from kalendor.core.values.words import Words

MANIFEST = "columns.json"
ROWS = "rows.npy"
FEW_WORDS = 4096


@dataclass(frozen=True, eq=False)
class Kept:
    """Records, and the row in the records table that each stands in, shape (n,)."""

    records: Records
    rows: NDArray[np.int64]


def kept_records(folder: Path) -> Kept | None:
    """The records kept in a folder; None where there are none that can be read."""
    try:
        manifest = json.loads((folder / MANIFEST).read_text("utf-8"))
        columns = {c["name"]: _column(folder, i, c) for i, c in enumerate(manifest["columns"])}
        rows = np.load(folder / ROWS, mmap_mode="r", allow_pickle=False)
    except (OSError, ValueError, KeyError):
        return None
    if any(len(column) != manifest["count"] for column in columns.values()):
        return None
    return Kept(Records(columns, manifest["count"]), rows)


def _column(folder: Path, i: int, told: dict[str, object]) -> Column:
    values = np.load(folder / f"{i}.npy", mmap_mode="r", allow_pickle=False)
    blank = np.load(folder / f"{i}.blank.npy", mmap_mode="r", allow_pickle=False) if told["blank"] else None
    words = _words(folder, i) if told["kind"] == Kind.TEXT else ()
    return Column(Kind(str(told["kind"])), values, blank, int(str(told["places"])), words)


def _words(folder: Path, i: int) -> Sequence[str]:
    data = np.load(folder / f"{i}.words.npy", mmap_mode="r", allow_pickle=False)
    found = Words(data, np.load(folder / f"{i}.offsets.npy", mmap_mode="r", allow_pickle=False))
    return tuple(found) if len(found) <= FEW_WORDS else found


def keep_records(folder: Path, kept: Kept) -> None:
    """Keep records in a folder, whole or not at all."""
    part = folder.with_name(f".{folder.name}.{uuid4().hex}")
    part.mkdir(parents=True)
    columns = []
    np.save(part / ROWS, kept.rows, allow_pickle=False)
    for i, (name, column) in enumerate(kept.records.columns.items()):
        np.save(part / f"{i}.npy", column.values, allow_pickle=False)
        if column.blank is not None:
            np.save(part / f"{i}.blank.npy", column.blank, allow_pickle=False)
        if column.kind is Kind.TEXT:
            words = Words.of(column.words)
            np.save(part / f"{i}.words.npy", words.data, allow_pickle=False)
            np.save(part / f"{i}.offsets.npy", words.offsets, allow_pickle=False)
        columns.append({"name": name, "kind": column.kind, "places": column.places, "blank": column.blank is not None})
    (part / MANIFEST).write_text(json.dumps({"count": kept.records.count, "columns": columns}), "utf-8")
    shutil.rmtree(folder, ignore_errors=True)
    part.rename(folder)


def drop(cache: Path, prefix: str, but: str) -> None:
    """Remove what is kept of a source's other revisions."""
    for folder in cache.glob(f"{prefix}*"):
        if folder.name != but:
            shutil.rmtree(folder, ignore_errors=True)
