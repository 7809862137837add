"""Working reports out over the workspace, and the pieces of a sheet that a screen asks for."""

import hashlib
from datetime import date
from typing import cast

from kalendor.core.groupings.axes import Groupings, groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import LookupColumn, Report
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.errors import DefinitionError


def all_groupings(desk: Desk) -> Groupings:
    """The groupings of the workspace by name."""
    return groupings([cast(Grouping, stored.body) for stored in desk.definitions.all("tree", "calendar", "buckets")])


def sheet_key(desk: Desk, report: Report, as_of: date | None) -> str:
    """A key that names all that a sheet rests on."""
    rests_on = [report.model_dump_json(by_alias=True), str(as_of), desk.today().isoformat()]
    rests_on += [f"{s.id}/{s.revision}" for s in desk.sources.all()]
    rests_on += [f"{d.id}/{d.revision}" for d in desk.definitions.all("tree", "calendar", "buckets")]
    return hashlib.sha256("\x1f".join(rests_on).encode()).hexdigest()[:32]


def sheet_of(desk: Desk, report: Report, as_of: date | None = None) -> tuple[str, Sheet]:
    """A report's sheet and its key.

    Raises DefinitionError for a source that is not there, and whatever working the report out raises.
    """
    key = sheet_key(desk, report, as_of)
    return key, desk.sheets(key, lambda: worked_out(desk, report, as_of))


def worked_out(desk: Desk, report: Report, as_of: date | None, found_groupings: Groupings | None = None) -> Sheet:
    """A report worked out over the workspace's groupings, or over others, nothing of the sheet kept."""
    source = desk.sources.named(report.source)
    if source is None:
        known = ", ".join(s.name for s in desk.sources.all()) or "none yet"
        raise DefinitionError(f"there is no source named {report.source!r} (known: {known})")
    found = complete(desk, source)
    stamp_beside: list[str] = []
    looked_up = {}
    for other_name in [other.source for other in report.beside]:
        if (beside := desk.sources.named(other_name)) is not None:
            laid = complete(desk, beside)
            looked_up[other_name] = laid.records
            stamp_beside.append(laid.stamp)
    stamp = found.stamp
    for made in report.columns:
        if isinstance(made, LookupColumn) and (other := desk.sources.named(made.lookup.source)) is not None:
            from_other = complete(desk, other)
            looked_up[other.name] = from_other.records
            stamp += f"|{from_other.stamp}"
    stamp = "&".join([stamp, *stamp_beside])
    refused, mended = desk.intakes.refused_count(source)
    material = Material(found.records, found_groupings or all_groupings(desk), looked_up, refused, mended, stamp)
    return work_out(report, material, desk.today(), as_of, desk.memory)
