"""Sets a second source beside the first on the same axes, such as a plan: its records are appended under the first
one's columns."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from kalendor.core.takes.units import units_in, unsaid
from kalendor.core.values.arithmetic import alike, say
from kalendor.core.values.columns import DAY_MICROSECONDS, Column, Kind, Records, concat
from kalendor.core.values.origin import Origin
from kalendor.definitions.report import Beside as Other
from kalendor.errors import DefinitionError


@dataclass(frozen=True, eq=False)
class Beside:
    """Records of several sources, concatenated, the source of each, and the units of their amounts (see `units_in`)."""

    records: Records
    origin: Origin
    units: dict[str, Column]


def laid_beside(own: Records, beside: Sequence[Other], sources: Mapping[str, Records]) -> Beside:
    """The report's own records with those of other sources appended.

    A column that a source is not matched to is blank for its records. Raises DefinitionError for anything that does not
    exist and for incompatible kinds.
    """
    parts, units, counts = [dict(own.columns)], [units_in(own)], [own.count]
    for other in beside:
        theirs = _theirs(other, sources)
        parts.append(_renamed(theirs.columns, other, own))
        units.append(_renamed(units_in(theirs), other, own))
        counts.append(theirs.count)
    names, with_units = ({name: None for part in some for name in part} for some in (parts, units))
    columns = {name: _under(name, [part.get(name) for part in parts], counts) for name in names}
    of = np.repeat(np.arange(len(parts), dtype=np.int8), counts)
    origin = Origin(of, tuple(o.source for o in beside), tuple(frozenset(part) for part in parts[1:]))
    found = {name: concat([u.get(name, unsaid(n)) for u, n in zip(units, counts, strict=True)]) for name in with_units}
    return Beside(Records(columns, int(sum(counts))), origin, found)


def _theirs(other: Other, sources: Mapping[str, Records]) -> Records:
    if other.source not in sources:
        raise DefinitionError(f"there is no source named {other.source!r} (known: {', '.join(sources) or 'none'})")
    theirs = sources[other.source]
    missing = next((c for c in other.match.values() if c not in theirs.columns), None)
    if missing is not None:
        raise DefinitionError(f"{other.source} has no column {missing!r}; it has {', '.join(theirs.columns)}")
    return theirs


def _renamed(columns: Mapping[str, Column], other: Other, own: Records) -> dict[str, Column]:
    """A source's columns under the names that they have beside the report's own."""
    named = {name: columns[c] for name, c in other.match.items() if c in columns}
    return {**{n: c for n, c in columns.items() if n not in own.columns}, **named}


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
    known = next(c for c in (first, *rest) if c is not None)
    return concat([c if c is not None else _blank(known, n) for c, n in zip((first, *rest), counts, strict=True)])


def _moment(column: Column) -> Column:
    return Column(Kind.DATETIME, column.values.astype(np.int64) * DAY_MICROSECONDS, column.blank)


def _blank(like: Column, count: int) -> Column:
    values = np.zeros(count, dtype=like.values.dtype)
    return Column(like.kind, values, np.ones(count, dtype=bool), like.places, like.words[:1])
