"""A second source beside the first on the same axes, such as a plan: its records laid under the first one's columns."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.arithmetic import alike, say
from kalendor.core.columns import DAY_MICROSECONDS, Column, Kind, Mask, Records, concat
from kalendor.core.expressions import names_in
from kalendor.definitions.report import Beside
from kalendor.errors import DefinitionError


@dataclass(frozen=True, eq=False)
class Origin:
    """Which source each record is of: `of`, shape (n,), is 0 for the report's own and k for the k-th beside it.

    `columns[k - 1]` are the names under which the k-th has values.
    """

    of: NDArray[np.int8]
    names: tuple[str, ...]
    columns: tuple[frozenset[str], ...]

    @property
    def own(self) -> Mask:
        """Shape (n,): True for the report's own records."""
        return self.of == 0

    def taken_from(self, source: str | None) -> Mask:
        """Shape (n,): True for the records that a figure of that source takes; None is the report's own.

        Raises DefinitionError for a source that does not stand beside.
        """
        if source is None:
            return self.own
        if source not in self.names:
            raise DefinitionError(
                f'the source {source!r} does not stand beside the report\'s own; name it under "beside"'
            )
        return self.of == self.names.index(source) + 1

    def spared(self, condition: str) -> Mask:
        """Shape (n,): True for records beside that lack a column the condition names, and so are not judged by it."""
        named = set(names_in(condition))
        spared = np.zeros(len(self.of), dtype=bool)
        for k, columns in enumerate(self.columns, start=1):
            if not named <= columns:
                spared |= self.of == k
        return spared


def laid_beside(own: Records, beside: Sequence[Beside], sources: Mapping[str, Records]) -> tuple[Records, Origin]:
    """The report's own records with those of other sources under them, and where each is from.

    A column that a source is not matched to is blank for its records. Raises DefinitionError for what is not there and
    for kinds that do not go together.
    """
    parts: list[dict[str, Column]] = [dict(own.columns)]
    counts = [own.count]
    for other in beside:
        if other.source not in sources:
            raise DefinitionError(f"there is no source named {other.source!r} (known: {', '.join(sources) or 'none'})")
        theirs = sources[other.source]
        missing = next((c for c in other.match.values() if c not in theirs.columns), None)
        if missing is not None:
            raise DefinitionError(f"{other.source} has no column {missing!r}; it has {', '.join(theirs.columns)}")
        named = {name: theirs.columns[c] for name, c in other.match.items()}
        parts.append({**{n: c for n, c in theirs.columns.items() if n not in own.columns}, **named})
        counts.append(theirs.count)
    names = list(dict.fromkeys(name for part in parts for name in part))
    columns = {name: _under(name, [part.get(name) for part in parts], counts) for name in names}
    of = np.repeat(np.arange(len(parts), dtype=np.int8), counts)
    origin = Origin(of, tuple(o.source for o in beside), tuple(frozenset(part) for part in parts[1:]))
    return Records(columns, int(sum(counts))), origin


def _under(name: str, parts: Sequence[Column | None], counts: Sequence[int]) -> Column:
    there = [c for c in parts if c is not None]
    if {c.kind for c in there} == {Kind.DATE, Kind.DATETIME}:
        parts = [_moment(c) if c is not None and c.kind is Kind.DATE else c for c in parts]
        there = [c for c in parts if c is not None]
    try:
        brought = iter(alike(there))
    except DefinitionError:
        kinds = " and ".join(say(c.kind) for c in there)
        raise DefinitionError(f"{name!r} is {kinds} in the sources that stand beside each other") from None
    first, *rest = [next(brought) if c is not None else None for c in parts]
    known = first or next(c for c in rest if c is not None)
    return concat([c if c is not None else _blank(known, n) for c, n in zip((first, *rest), counts, strict=True)])


def _moment(column: Column) -> Column:
    return Column(Kind.DATETIME, column.values.astype(np.int64) * DAY_MICROSECONDS, column.blank)


def _blank(like: Column, count: int) -> Column:
    values = np.zeros(count, dtype=like.values.dtype)
    return Column(like.kind, values, np.ones(count, dtype=bool), like.places, like.words[:1])
