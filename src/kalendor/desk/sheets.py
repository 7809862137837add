"""Working reports out over the workspace, and the pieces of a sheet that a screen asks for."""

from contextvars import ContextVar
from datetime import date
from threading import Event
from typing import cast

from kalendor.core.groupings.ground import Groupings, groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.keys import Key, key
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.records import Complete, complete, looked_up_by, stamp_of
from kalendor.errors import DefinitionError, LeftError

LEFT: ContextVar[Event | None] = ContextVar("left", default=None)


def go_on() -> None:
    """Raises LeftError where the request that this work is done for was left."""
    left = LEFT.get()
    if left is not None and left.is_set():
        raise LeftError("the request was left")


def all_groupings(desk: Desk) -> Groupings:
    """The groupings of the workspace by name."""
    return groupings([cast(Grouping, stored.body) for stored in desk.definitions.all("tree", "calendar", "buckets")])


def sheet_key(desk: Desk, report: Report, as_of: date | None) -> Key:
    """A key that names all that a sheet rests on; to be asked for within the snapshot in which it is worked out."""
    return key(
        "sheet",
        report.worked_part(),
        as_of,
        desk.today(),
        {name: stamp_of(desk, found) for name in sources_of(report) if (found := desk.sources.named(name)) is not None},
        [desk.intakes.refused_count(found) for found in [desk.sources.named(report.source)] if found is not None],
        [(d.id, d.revision) for d in desk.definitions.all("tree", "calendar", "buckets")],
    )


def sources_of(report: Report) -> list[str]:
    """The sources that a report names, its own first."""
    beside = [other.source for other in report.beside]
    return list(dict.fromkeys([report.source, *beside, *looked_up_by(report.columns)]))


def sheet_of(desk: Desk, report: Report, as_of: date | None = None) -> tuple[Key, Sheet]:
    """A report's sheet and its key, all of it read at one moment.

    Raises DefinitionError for a source that is not there, and whatever working the report out raises.
    """
    with desk.workspace.snapshot():
        own = sheet_key(desk, report, as_of)
        return own, desk.sheets(own, lambda: worked_out(desk, report, as_of))


def worked_out(desk: Desk, report: Report, as_of: date | None, found_groupings: Groupings | None = None) -> Sheet:
    """A report worked out over the workspace's groupings, or over others, nothing of the sheet kept."""
    with desk.workspace.snapshot():
        return work_out(report, material_of(desk, report, found_groupings), desk.today(), as_of, desk.memory, go_on)


def material_of(desk: Desk, report: Report, found_groupings: Groupings | None = None) -> Material:
    """What a report is worked out from, as the workspace has it.

    Raises DefinitionError for a source that is not there.
    """
    source = desk.sources.named(report.source)
    if source is None:
        known = ", ".join(s.name for s in desk.sources.all()) or "none yet"
        raise DefinitionError(f"there is no source named {report.source!r} (known: {known})")
    own = complete(desk, source)
    others: dict[str, Complete] = {}
    for name in sources_of(report)[1:]:
        if (other := desk.sources.named(name)) is not None:
            others[name] = complete(desk, other)
    stamp = key("material", own.stamp, {name: found.stamp for name, found in others.items()})
    refused, mended, empty = desk.intakes.refused_count(source)
    return Material(
        own.records,
        found_groupings or all_groupings(desk),
        {name: found.records for name, found in others.items()},
        refused,
        mended,
        stamp,
        empty,
    )
