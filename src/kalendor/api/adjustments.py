"""Adjustments over HTTP: records entered by hand, and their reversals."""

from fastapi import APIRouter
from pydantic import Field

from kalendor.api.desk import AtDesk
from kalendor.api.intake_view import IntakeView, intake_view
from kalendor.api.strict import BaseModel
from kalendor.desk.adjusting import LONGEST_REASON, MOST_LINES, LinesRead, adjust, read_lines, reverse

router = APIRouter(prefix="/api", tags=["sources"])
Lines = list[dict[str, str]]


class LinesToRead(BaseModel):
    """Lines entered by hand: each a text by column."""

    lines: Lines = Field(max_length=MOST_LINES)


class Adjustment(LinesToRead):
    """Lines to be kept, and why."""

    reason: str = Field(max_length=LONGEST_REASON)


@router.post("/sources/{id}/adjustments/try")
def try_lines(desk: AtDesk, id: int, body: LinesToRead) -> LinesRead:
    """Preview lines entered by hand, with their sums. Saves nothing."""
    return read_lines(desk.sources.one(id), body.lines)


@router.post("/sources/{id}/adjustments", status_code=201)
def keep_lines(desk: AtDesk, id: int, body: Adjustment) -> IntakeView:
    """Add lines entered by hand as an intake, which can be undone; no file replaces them."""
    return intake_view(desk, adjust(desk, desk.sources.one(id), body.lines, body.reason))


@router.post("/intakes/{id}/reverse", status_code=201)
def reverse_lines(desk: AtDesk, id: int) -> IntakeView:
    """Reverse an adjustment in the next month: its lines on that month's first day, with opposite signs."""
    return intake_view(desk, reverse(desk, desk.intakes.one(id)))
