"""File names of exports."""

import unicodedata
from collections.abc import Container

MOST_BYTES = 180  # of the 255 bytes that file systems allow, leaving room for a period, a number and an extension


def free_name(name: str, taken: Container[str]) -> str:
    """A file's name, numbered before its extension if it is taken.

    >>> free_name("north.csv", ["north.csv", "north-2.csv"])
    'north-3.csv'
    """
    stem, _, ending = name.rpartition(".")
    found, n = name, 1
    while found in taken:
        n += 1
        found = f"{stem}-{n}.{ending}"
    return found


def file_stem(title: str, after: str = "") -> str:
    """A title as the stem of a file's name: letters and digits of any script, hyphens for the rest; long ones are
    shortened, but not what comes `after`.

    >>> file_stem("Net fare, by sea area"), file_stem("///"), file_stem("Net", "2026-07")
    ('net-fare-by-sea-area', 'sheet', 'net-2026-07')
    """
    end = _hyphened(after)
    stem = _cut(_hyphened(title), MOST_BYTES - len(end.encode())) or ("" if end else "sheet")
    return "-".join(part for part in (stem, end) if part)


def _hyphened(text: str) -> str:
    kept = "".join(c if c.isalnum() else " " for c in unicodedata.normalize("NFC", text).lower())
    return "-".join(kept.split())


def _cut(text: str, most: int) -> str:
    """As many whole characters as fit into `most` bytes."""
    return text.encode()[:most].decode("utf-8", "ignore").rstrip("-")
