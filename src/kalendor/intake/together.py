"""Combines several files with the same columns into one table of texts."""

import unicodedata
from collections.abc import Sequence

import numpy as np

from kalendor.core.values.columns import concat
from kalendor.errors import IntakeError
from kalendor.intake.loose import RawColumn, coded
from kalendor.intake.numbers import Numbers
from kalendor.intake.raw import RawTable


def heading_key(heading: str) -> str:
    """The key for matching headings, ignoring case, spaces, underscores, and how accents are composed.

    >>> heading_key("Sold on") == heading_key("sold_ON")
    True
    """
    return unicodedata.normalize("NFC", heading).casefold().replace(" ", "").replace("_", "")


def together(parts: Sequence[tuple[str, RawTable]]) -> RawTable:
    """Named tables concatenated, in the columns of the first; a column that one file declares as text is text.

    Raises IntakeError if a table's columns differ from those of the first.
    """
    first_name, first = parts[0]
    wanted = [heading_key(heading) for heading in first.headings]
    places: list[list[int]] = []
    for name, raw in parts:
        here = {heading_key(heading): k for k, heading in enumerate(raw.headings)}
        odd = sorted(set(here) ^ set(wanted))
        if odd:
            heading = next(h for h in (*first.headings, *raw.headings) if heading_key(h) == odd[0])
            raise IntakeError(f"{name}: its columns are not those of {first_name}; they differ in {heading!r}")
        places.append([here[key] for key in wanted])
    texts = {heading_key(heading) for _, raw in parts for heading in raw.texts}
    return RawTable(
        first.headings,
        [_under([raw.columns[at[k]] for (_, raw), at in zip(parts, places, strict=True)]) for k in range(len(wanted))],
        np.concatenate([raw.lines for _, raw in parts]),
        [line for _, raw in parts for line in raw.refused],
        frozenset(heading for heading in first.headings if heading_key(heading) in texts),
        empty=sum(raw.empty for _, raw in parts),
        files=np.repeat(np.arange(len(parts), dtype=np.int32), [len(raw.lines) for _, raw in parts]),
    )


def _under(columns: Sequence[RawColumn]) -> RawColumn:
    """Columns concatenated as texts; numbers stay numbers."""
    numbers = [one for one in columns if isinstance(one, Numbers)]
    if len(numbers) == len(columns) and len({type(one) for one in numbers}) == 1:
        return type(numbers[0])([part for one in numbers for part in one.parts])
    return concat([coded(one) for one in columns])
