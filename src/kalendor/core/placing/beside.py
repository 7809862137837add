"""A second source beside the first on the same axes, such as a plan: its records laid under the first one's columns."""

from collections.abc import Mapping, Sequence

import numpy as np

from kalendor.core.values.arithmetic import alike, say
from kalendor.core.values.columns import DAY_MICROSECONDS, Column, Kind, Records, concat
from kalendor.core.values.origin import Origin
from kalendor.definitions.report import Beside
from kalendor.errors import DefinitionError


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
