"""The headings over one block of a sheet's columns."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from kalendor.output.typeset import SetHeading


@dataclass(frozen=True)
class Span:
    """A heading over `columns` columns of a block, gaps included, that begins with its column `first`; whether there is
    a gap before it."""

    head: SetHeading
    first: int
    columns: int
    gap: bool


def spans(row: Sequence[SetHeading], block: Sequence[int], gaps: Sequence[bool]) -> Iterator[Span]:
    """A row of headings over the columns of a block; `gaps`, whether there is one before each of these. A gap within a
    heading's span belongs to it."""
    owner = [n for n, head in enumerate(row) for _ in range(head.columns)]
    first, columns = 0, 0
    for i, k in enumerate(block):
        if i and owner[k] != owner[block[first]]:
            yield Span(row[owner[block[first]]], first, columns, gaps[first])
            first, columns = i, 0
        columns += 1 + (gaps[i] if i != first else 0)
    if block:
        yield Span(row[owner[block[first]]], first, columns, gaps[first])
