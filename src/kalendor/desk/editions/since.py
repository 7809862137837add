"""The changes of several reports since each was issued for an earlier period."""

from collections.abc import Sequence

from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.days import day_label
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import opened
from kalendor.errors import KalendorError
from kalendor.output.headline.headline import in_full
from kalendor.output.moves import Moved, moved_since


def moves_since_editions(desk: Desk, reports: Sequence[tuple[int, int, Sheet]]) -> list[Moved]:
    """A line for each report with an edition of a period that ended before a day, given its id, that day and its sheet.
    A report whose edition cannot be read, or has no number in common, has none."""
    latest = desk.editions.latest().values()
    found = []
    for id, day, sheet in reports:
        earlier = max(
            (e for e in latest if e.report_id == id and e.last_day < day_label(day)),
            key=lambda e: e.last_day,
            default=None,
        )
        if earlier is None:
            continue
        try:
            line = moved_since(sheet, opened(desk, earlier.id).sheet, in_full(earlier.label))
        except KalendorError:
            continue
        found += [line] if line is not None else []
    return found
