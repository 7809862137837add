"""Builds the response model of an intake."""

from kalendor.api.strict import BaseModel
from kalendor.desk.adjusting import reversal_of
from kalendor.desk.desk import Desk
from kalendor.store.bringing import Origin
from kalendor.store.intakes import Intake


class IntakeView(BaseModel):
    """An intake: a file, a file pushed by a program, the result of a look at a linked folder, or lines entered by hand
    (`by`, for a `reason`). `reversed_by` is the intake that reverses its amounts, `reverses` the one whose amounts it
    reverses."""

    id: int
    origin: Origin
    by: str
    reason: str
    reverses: int | None
    reversed_by: int | None
    mended: int
    mends: int | None
    file_name: str
    brought_at: str
    joined_by: str
    records: int
    refused: int
    replaced: int
    first_day: str | None
    last_day: str | None
    undone: bool


def intake_view(desk: Desk, intake: Intake) -> IntakeView:
    """A file as the page shows it."""
    mended = sum(line.mended_by is not None for line in desk.intakes.refused(intake.id)) if intake.refused else 0
    reversal = reversal_of(desk, intake) if intake.origin == "hand" else None
    return IntakeView(
        origin=intake.origin, by=intake.brought_by, reason=intake.reason, reverses=intake.reverses,
        reversed_by=reversal.id if reversal else None, id=intake.id, file_name=intake.file_name, brought_at=intake.brought_at, joined_by=intake.joined_by,
        records=desk.linked.counted(intake.id)[1] if intake.origin == "link" else intake.records, refused=intake.refused, replaced=intake.replaced, mended=mended, mends=intake.mends,
        first_day=intake.first_day, last_day=intake.last_day, undone=intake.undone_at is not None,
    )  # fmt: skip
