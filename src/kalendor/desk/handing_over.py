"""Reports handed over as files: sheets with the words that go along, and their names."""

from dataclasses import dataclass

from kalendor.core.report import traced
from kalendor.core.values.days import day_label
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.sheets import go_on, material_of
from kalendor.desk.summaries import fresh_sheet
from kalendor.output.handover import Handover, handed
from kalendor.output.writers import form_of, write


@dataclass(frozen=True)
class TakenAway:
    """A file to take away: its name, as `Net fare by sea area 2026-07.xlsx`, its media type and its bytes."""

    name: str
    media: str
    content: bytes


def handover(desk: Desk, report: Report, worded: bool) -> Handover:
    """A report's sheet as it is now, with its words where they go along."""
    _, sheet = fresh_sheet(desk, report)
    if not worded:
        return Handover(sheet, report.export)
    with desk.workspace.snapshot():
        material = material_of(desk, report)
        today = desk.today()
        return handed(
            report, sheet,
            lambda cell: traced(report, material, today, sheet, cell, None, desk.memory, go_on, worded=False),
        )  # fmt: skip


def taken_away(desk: Desk, report: Report, form: str, shape: str | None) -> TakenAway:
    """A report's file in a format and shape.

    Raises DefinitionError for a format that there is not, and whatever working the report out raises.
    """
    found = form_of(form)
    given = handover(desk, report, found.worded)
    name = f"{report.title} {day_label(given.sheet.as_of)[:7]}.{found.ending}"
    return TakenAway(name, found.media, write(given, form, shape))
