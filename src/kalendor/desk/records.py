"""A source's records with its made columns, and what they rest on."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kalendor.core.formulas.expressions import names_in
from kalendor.core.formulas.formulas import Scope, evaluate
from kalendor.core.placing.lookups import looked_up
from kalendor.core.placing.material import with_made
from kalendor.core.values.columns import NUMERIC, Records
from kalendor.core.values.keys import Key, key
from kalendor.definitions.report import LookupColumn, MadeColumn
from kalendor.desk.desk import Desk
from kalendor.errors import DefinitionError
from kalendor.store.sources import Source


@dataclass(frozen=True, eq=False)
class Complete:
    """Records with made columns; `stamp` names the revisions of all sources that they rest on."""

    records: Records
    stamp: Key


@dataclass(frozen=True)
class MadeNote:
    """What is to be known of a made column: how many records a look-up left without a match, how many of its keys stand
    more than once, and how many results are blank where one of the formula's amounts is not."""

    unmatched: int = 0
    repeated: int = 0
    blank_amounts: int = 0


def complete(desk: Desk, source: Source, under: tuple[str, ...] = ()) -> Complete:
    """A source's records with its made columns.

    Raises DefinitionError for a made column that cannot be worked out, and for look-ups that go in a circle.
    """
    if source.name in under:
        raise DefinitionError(f"look-ups go in a circle: {' → '.join([*under, source.name])}")
    with desk.workspace.snapshot():
        source = desk.sources.one(source.id)
        stamp = stamp_of(desk, source)
        others = looked_up_from(desk, source.made, (*under, source.name))
        tables = {name: found.records for name, found in others.items()}
        desk.sources.whole(source)  # forgets what is remembered of files that were made shorter
        records = desk.memory(stamp, lambda: with_made(desk.sources.records(source), source.made, tables))
        return Complete(records, stamp)


def stamp_of(desk: Desk, source: Source, under: tuple[int, ...] = ()) -> Key:
    """The key of a source's records with its made columns: its revision, and those of all that it looks up from.

    To be asked for within the snapshot in which the records are read.
    """
    others = {name: desk.sources.named(name) for name in sorted(looked_up_by(source.made))}
    looked = {
        name: stamp_of(desk, other, (*under, source.id))
        for name, other in others.items()
        if other is not None and other.id not in (*under, source.id)
    }
    return key("source", source.id, source.revision, looked)


def looked_up_by(made: Sequence[MadeColumn]) -> list[str]:
    """The names of the sources that made columns look up from, each once."""
    return list(dict.fromkeys(column.lookup.source for column in made if isinstance(column, LookupColumn)))


def looked_up_from(desk: Desk, made: Sequence[MadeColumn], under: tuple[str, ...]) -> dict[str, Complete]:
    """The sources that made columns look up from, by name, with their own made columns."""
    found: dict[str, Complete] = {}
    for name in looked_up_by(made):
        if (other := desk.sources.named(name)) is not None:
            found[other.name] = found.get(other.name) or complete(desk, other, under)
    return found


def note_on(desk: Desk, records: Records, made: MadeColumn) -> MadeNote:
    """What is to be known of a made column over records that hold all it needs."""
    if isinstance(made, LookupColumn):
        other = desk.sources.named(made.lookup.source)
        found = looked_up(records, made.lookup, {other.name: complete(desk, other).records} if other else {})
        return MadeNote(found.unmatched, found.repeated)
    result = evaluate(made.formula, Scope(records.columns, records.count))
    amounts = [
        records.columns[n]
        for n in names_in(made.formula)
        if n in records.columns and records.columns[n].kind in NUMERIC
    ]
    if not amounts or result.blank is None:
        return MadeNote()
    some = np.logical_or.reduce([a.present for a in amounts])
    return MadeNote(blank_amounts=int((result.blank & some).sum()))
