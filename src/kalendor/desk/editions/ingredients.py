"""What a sheet is made from, so fixed that it can be made again years later: the report with its as-of date, the groupings,
and of each source its columns, its made columns and the files that stood."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, cast

from pydantic import TypeAdapter

from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material, with_made
from kalendor.core.report import traced, work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import Kind, Records
from kalendor.core.values.keys import Key, key
from kalendor.definitions.kinds import Grouping, definition
from kalendor.definitions.report import MadeColumn, Report
from kalendor.desk.desk import Desk
from kalendor.desk.groupings import entries_on
from kalendor.desk.records import looked_up_by
from kalendor.desk.sheets import go_on, sources_of
from kalendor.errors import DefinitionError
from kalendor.store.column_cache import Kept
from kalendor.store.definitions import dumped
from kalendor.store.sources import Source, SourceColumn

_MADE: TypeAdapter[list[MadeColumn]] = TypeAdapter(list[MadeColumn])


@dataclass(frozen=True)
class HeldSource:
    """A source as it stood: `intakes` are the files that counted, by their ids, `refused` the lines that never became records,
    `mended` those of them that did later, `empty` lines of nothing but separators."""

    id: int
    name: str
    columns: tuple[SourceColumn, ...]
    made: tuple[MadeColumn, ...]
    intakes: tuple[int, ...]
    refused: int
    mended: int
    empty: int = 0

    def key(self) -> Key:
        """Names its records: what was refused is no part of them."""
        columns = [[c.name, c.sql_name, c.kind.value, c.places, c.percent] for c in self.columns]
        return key("held", self.id, self.name, columns, list(self.made), list(self.intakes))


@dataclass(frozen=True)
class HeldGrouping:
    """A grouping at a revision."""

    id: int
    revision: int
    body: Grouping


@dataclass(frozen=True)
class Ingredients:
    """All that a sheet is made from; the report's own source first."""

    report: Report
    groupings: tuple[HeldGrouping, ...]
    sources: tuple[HeldSource, ...]

    @property
    def rests(self) -> Key:
        """Names what the sheet's numbers rest on."""
        return rests(self.report, key("rests", *self._parts()))

    def _parts(self) -> tuple[list[Grouping], list[Key]]:
        return [g.body for g in self.groupings], [s.key() for s in self.sources]

    def source(self, name: str) -> HeldSource | None:
        """The source of that name, capital letters or not."""
        return next((s for s in self.sources if s.name.casefold() == name.casefold()), None)


def rests(report: Report, around: Key) -> Key:
    """The key of a report's numbers, from that of the groupings and sources around it."""
    return key("edition rests", report.worked_part().model_copy(update={"notes": [], "title": "-"}), around)


def around(found: Ingredients) -> Key:
    """The key of the groupings and sources around a report."""
    return key("rests", *found._parts())


def now(desk: Desk, report: Report) -> Ingredients:
    """What a report would be made from now. To be asked for within a snapshot.

    Raises DefinitionError for a source that is not there.
    """
    stored = desk.definitions.all("tree", "calendar", "buckets")
    used = [HeldGrouping(d.id, d.revision, body) for d in stored if entries_on(report, body := cast(Grouping, d.body))]
    names, held = list(sources_of(report)), dict[int, HeldSource]()
    for name in names:
        source = desk.sources.named(name)
        if source is None:
            if name == report.source:
                raise DefinitionError(f"there is no source named {name!r}; bring its file in first")
            continue
        if source.id not in held:
            held[source.id] = held_source(desk, source)
            names += [other for other in looked_up_by(source.made) if other not in names]
    return Ingredients(report, tuple(used), tuple(held.values()))


def held_source(desk: Desk, source: Source) -> HeldSource:
    """A source as it stands."""
    standing = tuple(sorted(i.id for i in desk.intakes.of(source) if i.undone_at is None))
    return HeldSource(
        source.id, source.name, source.columns, source.made, standing, *desk.intakes.refused_count(source)
    )


def sheet_of(desk: Desk, found: Ingredients) -> Sheet:
    """The sheet of the ingredients; whatever working it out raises."""
    return desk.sheets(
        key("made from", found.report.worked_part(), found.rests),
        lambda: work_out(found.report, material(desk, found), desk.today(), found.report.as_of, desk.memory, go_on),
    )


def trail_of(desk: Desk, found: Ingredients, sheet: Sheet, cell: Cell, worded: bool = False) -> Trail:
    """The trail of a cell of the ingredients' sheet."""
    asked = found.report
    return traced(asked, material(desk, found), desk.today(), sheet, cell, asked.as_of, desk.memory, go_on, worded)


def material(desk: Desk, found: Ingredients) -> Material:
    """The records and groupings.

    Raises DefinitionError for a source that is not held, and for look-ups that go in a circle.
    """
    with desk.workspace.snapshot():
        own = found.source(found.report.source)
        if own is None:
            raise DefinitionError(f"there is no source named {found.report.source!r}")
        others = {
            name: _complete(desk, found, other)
            for name in sources_of(found.report)[1:]
            if (other := found.source(name)) is not None
        }
        records, stamp = _complete(desk, found, own)
        return Material(
            records,
            groupings([g.body for g in found.groupings]),
            {name: other for name, (other, _) in others.items()},
            own.refused,
            own.mended,
            key("material", stamp, {name: theirs for name, (_, theirs) in others.items()}),
            own.empty,
        )


def _complete(desk: Desk, found: Ingredients, source: HeldSource, under: tuple[int, ...] = ()) -> tuple[Records, Key]:
    """A source's records with its made columns, and their key."""
    if source.id in under:
        raise DefinitionError(f"look-ups go in a circle at {source.name!r}")
    others = {
        name: _complete(desk, found, other, (*under, source.id))
        for name in looked_up_by(source.made)
        if (other := found.source(name)) is not None
    }
    stamp = key("complete", source.key(), {name: theirs for name, (_, theirs) in others.items()})
    tables = {name: records for name, (records, _) in others.items()}
    return desk.memory(stamp, lambda: with_made(rows_of(desk, source).records, source.made, tables)), stamp


def rows_of(desk: Desk, source: HeldSource) -> Kept:
    """A held source's records as they came, and the rows that they stand in.

    Raises MissingError where they are no longer there.
    """

    def brought_back() -> Kept:
        here = next((s for s in desk.sources.all() if s.id == source.id), None)
        if here is not None and here.columns == source.columns and held_source(desk, here).intakes == source.intakes:
            return desk.sources.kept(here)
        then = Source(source.id, source.name, _NO_RECIPE, (), -1, source.columns)
        return desk.sources.kept_of(then, source.intakes)

    own = key("rows", replace(source, made=()).key())
    return desk.memory(own, brought_back)


_NO_RECIPE = cast(Any, None)


def told(found: Ingredients) -> dict[str, Any]:
    """The ingredients as they are kept with an edition."""
    return {
        "report": _document(found.report),
        "groupings": [{"id": g.id, "revision": g.revision, "document": _document(g.body)} for g in found.groupings],
        "sources": [
            {
                "id": s.id,
                "name": s.name,
                "columns": [[c.name, c.sql_name, c.kind.value, c.places, c.percent] for c in s.columns],
                "made": _MADE.dump_python(list(s.made), mode="json", by_alias=True, exclude_none=True),
                "intakes": list(s.intakes),
                "refused": s.refused,
                "mended": s.mended,
                **({"empty": s.empty} if s.empty else {}),
            }
            for s in found.sources
        ],
    }


def _document(body: Report | Grouping) -> dict[str, Any]:
    return cast(dict[str, Any], _JSON.validate_json(dumped(body)))


_JSON: TypeAdapter[Any] = TypeAdapter(Any)


def from_told(document: Mapping[str, Any]) -> Ingredients:
    """The ingredients that an edition was made from."""
    report = definition(document["report"], "edition", ("report",))
    assert isinstance(report, Report)
    return Ingredients(
        report,
        tuple(
            HeldGrouping(g["id"], g["revision"], cast(Grouping, definition(g["document"], "edition")))
            for g in document["groupings"]
        ),
        tuple(_source_of(one) for one in document["sources"]),
    )


def _source_of(one: Mapping[str, Any]) -> HeldSource:
    columns: Sequence[Sequence[Any]] = one["columns"]
    return HeldSource(
        one["id"],
        one["name"],
        tuple(SourceColumn(c[0], c[1], Kind(c[2]), c[3], c[4]) for c in columns),
        tuple(_MADE.validate_python(one["made"])),
        tuple(one["intakes"]),
        one["refused"],
        one["mended"],
        one.get("empty", 0),
    )
