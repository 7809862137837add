"""The records behind a number, as delimited text."""

from collections.abc import Callable, Iterator

from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import NUMERIC
from kalendor.intake.guarding import harmless
from kalendor.output.delimited import delimited
from kalendor.output.numbers import texts

AT_ONCE = 50_000
LEADING = ["file", "line", "part", "amount"]


def records_csv(trail: Trail, origin: Callable[[list[int]], list[tuple[str, int]]], columns: list[str]) -> bytes:
    """Each record of each part with its file and line, its contribution, and the source's `columns`, in source order.
    `origin` gives the file and line of records by their positions."""
    return delimited([*LEADING, *columns], _rows(trail, origin, columns))


def _rows(
    trail: Trail, origin: Callable[[list[int]], list[tuple[str, int]]], columns: list[str]
) -> Iterator[list[str]]:
    for name, part in trail.operand.parts():
        assert part.rows is not None
        for start in range(0, len(part.rows), AT_ONCE):
            here = part.rows[start : start + AT_ONCE]
            amounts = [""] * len(here)
            if part.amounts is not None:
                cut = slice(start, start + AT_ONCE)
                picked = part.amounts
                amounts = texts(type(picked)(picked.kind, picked.values[cut], picked.blanks[cut], picked.places))
            fields = []
            for column in columns:
                found = trail.records.columns[column]
                written = texts(found.take(here))
                fields.append(written if found.kind in NUMERIC else [harmless(one) for one in written])
            places = origin(here.tolist())
            for i, (file, line) in enumerate(places):
                yield [harmless(file), str(line) if line else "", harmless(name), amounts[i], *(f[i] for f in fields)]
