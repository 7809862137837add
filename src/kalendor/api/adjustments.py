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
    """Lines as they would be kept, with their sums; nothing is kept."""
    return read_lines(desk.sources.one(id), body.lines)


@router.post("/sources/{id}/adjustments", status_code=201)
def keep_lines(desk: AtDesk, id: int, body: Adjustment) -> IntakeView:
    """Keep lines entered by hand beside what stands, as an intake that can be undone; no file replaces them."""
    return intake_view(desk, adjust(desk, desk.sources.one(id), body.lines, body.reason))


@router.post("/intakes/{id}/reverse", status_code=201)
def reverse_lines(desk: AtDesk, id: int) -> IntakeView:
    """Take an adjustment back in the next month: its lines on the first day of it, with their amounts turned round."""
    return intake_view(desk, reverse(desk, desk.intakes.one(id)))
