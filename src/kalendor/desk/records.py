"""A source's records with its made columns, current or as of an edition."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from kalendor.core.formulas.expressions import names_in
from kalendor.core.formulas.formulas import evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.lookups import looked_up
from kalendor.core.placing.made_columns import with_made
from kalendor.core.placing.material import Material
from kalendor.core.values.columns import NUMERIC, Records
from kalendor.core.values.keys import Key, key
from kalendor.definitions.report import LookupColumn, MadeColumn
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import HeldSource, Ingredients, held_source, looked_up_by, sources_of
from kalendor.errors import DefinitionError
from kalendor.store.column_cache import Kept
from kalendor.store.sources import Source

Find = Callable[[str], HeldSource | None]


@dataclass(frozen=True, eq=False)
class Complete:
    """Records with made columns; `stamp` is the key of everything they depend on."""

    records: Records
    stamp: Key


@dataclass(frozen=True)
class MadeNote:
    """Notes on a made column: the number of records that a look-up left unmatched, of repeated keys, and of blank
    results although one of the formula's amounts is not blank."""

    unmatched: int = 0
    repeated: int = 0
    blank_amounts: int = 0


def material(desk: Desk, found: Ingredients) -> Material:
    """The material from which the sheet of the ingredients is computed.

    Raises DefinitionError for a source that does not exist, and for circular look-ups.
    """
    with desk.workspace.snapshot():
        own = found.source(found.report.source)
        if own is None:
            raise DefinitionError(f"there is no source named {found.report.source!r}")
        others = others_of(desk, found)
        made = _completed(desk, own, found.source)
        return Material(
            made.records,
            groupings([held.body for held in found.groupings]),
            {name: other.records for name, other in others.items()},
            own.refused,
            own.mended,
            key("material", made.stamp, {name: other.stamp for name, other in others.items()}),
            own.empty,
            own.by_hand,
        )


def others_of(desk: Desk, found: Ingredients, own: HeldSource | None = None) -> dict[str, Complete]:
    """The sources beside a report's own: those that its columns look up from and, if given, those that its own source's
    columns do, each with its made columns; sources that do not exist are left out.

    Raises DefinitionError for a linked one.
    """
    names = [*sources_of(found.report)[1:], *(looked_up_by(own.made) if own is not None else ())]
    return {
        name: _as_other(desk, other, found.source)
        for name in dict.fromkeys(names)
        if (other := found.source(name)) is not None
    }


def inputs(made: MadeColumn) -> list[str]:
    """The columns of its own source that a made column is computed from."""
    if isinstance(made, LookupColumn):
        return [*made.lookup.match, *(made.lookup.as_at or {})]
    return names_in(made.formula)


def _as_other(desk: Desk, other: HeldSource, find: Find, under: tuple[str, ...] = ()) -> Complete:
    """A source to look up from, or beside the report's own.

    Raises DefinitionError if it is linked: only a specimen of its records is stored.
    """
    if desk.linked.of(other.id) is not None:
        raise DefinitionError(
            f"{other.name} is linked to a folder, which can be a report's own source alone: columns cannot be looked up from it,"
            " and it cannot stand beside; bring its files in instead"
        )
    return _completed(desk, other, find, under)


def complete(desk: Desk, source: Source) -> Complete:
    """A source's current records with its made columns.

    Raises DefinitionError for a made column that cannot be computed, and for circular look-ups.
    """
    with desk.workspace.snapshot():
        return _completed(desk, held_source(desk, desk.sources.one(source.id)), _standing(desk))


def stamp_of(desk: Desk, source: Source) -> Key:
    """The key of a source's records with its made columns. Call within the snapshot in which they are read."""
    return _stamp(held_source(desk, source), _standing(desk), ())


def looked_up_from(desk: Desk, made: Sequence[MadeColumn], under: str) -> dict[str, Records]:
    """The records of the sources from which a source's made columns look up, by name, with made columns."""
    find = _standing(desk)
    return {said: _as_other(desk, held, find, (under,)).records for said, held in _beneath(made, find)}


def rows_of(desk: Desk, source: HeldSource) -> Kept:
    """A source's records as imported, with their row ids.

    Raises MissingError if they no longer exist.
    """
    here = _as_it_stands(desk, source)
    if here is not None:
        return desk.sources.kept(here)
    own = key("rows", replace(source, made=()).key())
    return desk.memory(own, lambda: desk.sources.rows.kept_of(source, source.intakes))


def _standing(desk: Desk) -> Find:
    def found(name: str) -> HeldSource | None:
        source = desk.sources.named(name)
        return None if source is None else held_source(desk, source)

    return found


def _as_it_stands(desk: Desk, source: HeldSource) -> Source | None:
    """The workspace's source, if its columns and intakes are still the same; else None."""
    here = desk.sources.at(source.id)
    same = here is not None and here.columns == source.columns and desk.intakes.standing(here) == source.intakes
    return here if same else None


def _completed(desk: Desk, source: HeldSource, find: Find, under: tuple[str, ...] = ()) -> Complete:
    if source.name in under:
        raise DefinitionError(f"look-ups go in a circle: {' → '.join([*under, source.name])}")
    stamp = _stamp(source, find, under)
    here = _as_it_stands(desk, source)
    if here is not None:
        desk.sources.whole(here)  # drops cached values of files that were truncated
    return Complete(desk.memory(stamp, lambda: _made(desk, source, find, under)), stamp)


def _made(desk: Desk, source: HeldSource, find: Find, under: tuple[str, ...]) -> Records:
    there = (*under, source.name)
    others = {said: _as_other(desk, other, find, there).records for said, other in _beneath(source.made, find)}
    return with_made(rows_of(desk, source).records, source.made, others)


def _stamp(source: HeldSource, find: Find, under: tuple[str, ...]) -> Key:
    there = (*under, source.name)
    beneath = {said: _stamp(o, find, there) for said, o in _beneath(source.made, find) if o.name not in there}
    return key("complete", source.key(), beneath)


def _beneath(made: Sequence[MadeColumn], find: Find) -> list[tuple[str, HeldSource]]:
    """The existing sources from which made columns look up, by the name used in the columns."""
    return [(name, other) for name in sorted(looked_up_by(made)) if (other := find(name)) is not None]


def note_on(desk: Desk, records: Records, made: MadeColumn) -> MadeNote:
    """The notes on a made column, over records that have all columns it needs."""
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
