"""Narrows a report from its sheet: the condition that keeps or leaves out the records of some lines or columns."""

from collections.abc import Sequence

from kalendor.core.report import narrowing
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import now
from kalendor.desk.sheets import plan_of
from kalendor.errors import ConflictError, DefinitionError


def narrowed(desk: Desk, report: Report, own: str, down: bool, places: Sequence[int], depth: int, keep: bool) -> str:
    """The condition, in SQL, for the members at `depth` above some lines (or columns) of the sheet with the key `own`.

    Raises ConflictError if the report or its data changed since, DefinitionError if no condition selects them.
    """
    with desk.workspace.snapshot():
        found = now(desk, report)
        if found.key != own:
            raise ConflictError("the report or its data changed since this sheet was shown; ask for the sheet again")
        plan = plan_of(desk, found)
        axis = plan.reckoner.frame.lines if down else plan.reckoner.frame.columns
        if not all(0 <= place < axis.count for place in places):
            raise DefinitionError("there is no such line or column on the sheet")
        condition = narrowing(plan, down, places, depth, keep)
    if condition is None:
        raise DefinitionError("no condition says which records stand here; write one under only where")
    return condition
