"""What an analyst should know of a report before trusting it, each said once where it arises."""

from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk


def warnings(desk: Desk, report: Report, sheet: Sheet) -> list[str]:
    """The warnings of a report and its sheet."""
    return []
