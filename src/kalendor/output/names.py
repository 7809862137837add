"""Names of files to take away."""

import unicodedata
from collections.abc import Container


def free_name(name: str, taken: Container[str]) -> str:
    """A file's name, with a number before its ending where it is taken.

    >>> free_name("north.csv", ["north.csv", "north-2.csv"])
    'north-3.csv'
    """
    stem, _, ending = name.rpartition(".")
    found, n = name, 1
    while found in taken:
        n += 1
        found = f"{stem}-{n}.{ending}"
    return found


def file_stem(title: str) -> str:
    """A title as the stem of a file's name: letters and digits of any script, the rest as hyphens.

    >>> file_stem("Net fare, by sea area"), file_stem("///")
    ('net-fare-by-sea-area', 'sheet')
    """
    kept = "".join(c if c.isalnum() else " " for c in unicodedata.normalize("NFC", title).lower())
    return "-".join(kept.split())[:120] or "sheet"
