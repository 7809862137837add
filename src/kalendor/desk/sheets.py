"""Computes sheets and trails from ingredients, of the workspace or of an edition."""

from datetime import date
from typing import cast

from kalendor.core.groupings.ground import Groupings, groupings
from kalendor.core.plan import Plan, planned
from kalendor.core.report import sheet_of, traced
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.trail import Trail
from kalendor.core.values.interruption import go_on
from kalendor.core.values.keys import Key, key
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import Ingredients, now
from kalendor.desk.linked.sheets import over
from kalendor.desk.records import material


def all_groupings(desk: Desk) -> Groupings:
    """The groupings of the workspace by name."""
    return groupings([cast(Grouping, stored.body) for stored in desk.definitions.all("tree", "calendar", "buckets")])


def sheet_now(desk: Desk, report: Report, as_of: date | None = None) -> tuple[Key, Sheet]:
    """A report's current sheet and its key, computed from one snapshot.

    Raises DefinitionError for a source that does not exist, and whatever computing the report raises.
    """
    with desk.workspace.snapshot():
        found = now(desk, report, as_of)
        return found.key, sheet_from(desk, found)


def sheet_from(desk: Desk, found: Ingredients) -> Sheet:
    """The sheet of ingredients, cached; raises what computing it raises."""
    return desk.sheets(found.key, lambda: sheet_of(plan_of(desk, found)))


def trail_from(desk: Desk, found: Ingredients, sheet: Sheet, cell: Cell, worded: bool = False) -> Trail:
    """The trail of a cell of the ingredients' sheet; `worded` adds the conditions that select its records."""
    return traced(plan_of(desk, found), sheet, cell, worded)


def plan_of(desk: Desk, found: Ingredients) -> Plan:
    """The plan of ingredients, cached for the trails of its sheet."""

    def made() -> Plan:
        report = found.report
        linked = over(desk, found, reading)
        if linked is not None:
            return planned(report, linked.material(reading), found.today, linked.work.as_of, desk.memory)
        as_of = found.as_of or report.as_of
        return planned(report, material(desk, found), found.today, as_of, desk.memory)

    def reading(done: int, total: int) -> None:
        go_on()

    return desk.plans(key("plan", found.key), made)
