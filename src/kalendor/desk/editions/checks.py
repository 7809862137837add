"""The checks before an edition is issued; each reports its result in words."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

import numpy as np

from kalendor.core.groupings.cadence_periods import Recurring, period_before, year_before
from kalendor.core.groupings.levels import LOOSE, NOT_PLACED, ORDINARY
from kalendor.core.sheet.moves import cell_value
from kalendor.core.sheet.sheet import NO_COLUMN, Sheet, ShownFigure
from kalendor.core.values.columns import NUMERIC, day_number, day_of
from kalendor.core.values.notation import grouped, noted_day
from kalendor.definitions.axis import AgeEntry
from kalendor.definitions.figure import comparisons
from kalendor.definitions.recurring import Limit
from kalendor.definitions.report import Report
from kalendor.desk.desk import Desk
from kalendor.desk.editions.coverage import date_column, filling
from kalendor.desk.editions.four_eyes import ToDo, standing_approval, to_do, waits_for
from kalendor.desk.editions.issuing import for_period, opened
from kalendor.desk.editions.owed import Recurs
from kalendor.desk.editions.source_checks import Check, covers, refused, repeated, unmatched
from kalendor.desk.editions.standing import standing
from kalendor.desk.ingredients import Ingredients, now
from kalendor.desk.records import complete
from kalendor.desk.sheets import sheet_from, trail_from
from kalendor.desk.summaries import fresh_sheet
from kalendor.errors import FootingError, KalendorError
from kalendor.output.handover import heading_of
from kalendor.output.headline.headline import has_moved, headline, latest
from kalendor.output.shown import shown_cells
from kalendor.store.approvals import Approval

SHOWN = 3
MOST_SAID = 12


@dataclass(frozen=True)
class Said:
    """A line of a future edition: its label, the first figure, and its change if the report compares it."""

    label: str
    value: str
    change: str
    total: bool = False


@dataclass(frozen=True, eq=False)
class Checked:
    """The checks of a future edition, and its content: its headline and its outermost lines; `four_eyes` is what its
    approval still needs."""

    checks: tuple[Check, ...]
    headline: tuple[str, ...] = ()
    figure: str = ""
    lines: tuple[Said, ...] = ()
    four_eyes: ToDo = ""

    @property
    def ready(self) -> bool:
        """Whether all checks pass."""
        return all(check.state == "ok" for check in self.checks)

    @property
    def reasons(self) -> list[str]:
        """Why it is not ready."""
        return [check.words for check in self.checks if check.state != "ok"]


def checked(desk: Desk, one: Recurs, period: Recurring) -> Checked:
    """The checks of a report's edition for a period; if the report cannot be computed, that is a failed check."""
    report = for_period(one.report, period)
    found: list[Check] = []
    try:
        fresh_sheet(desk, report)
        with desk.workspace.snapshot():
            ingredients = now(desk, report)
            found += covers(desk, one, report, period)
            sheet = sheet_from(desk, ingredients)
            found += [*_foots(sheet), *_agrees(sheet), *_unplaced(sheet), *refused(desk, report, period)]
            found += [*unmatched(desk, report, ingredients, period), *repeated(desk, report, period)]
            found += [*_limits(desk, one, sheet, period)]
            found += [*_stale_window(desk, report, period), *_headline_moved(desk, report, ingredients, sheet)]
            known = standing_approval(desk, one.id, report, period, ingredients)
            said = heading_of(report, sheet, lambda cell: trail_from(desk, ingredients, sheet, cell))
    except FootingError as error:
        return Checked((*found, Check("foots", "stop", f"The sheet does not foot: {error}")))
    except KalendorError as error:
        return Checked((*found, Check("worked_out", "stop", f"It cannot be worked out: {error}")))
    found += [*_earlier(desk, one, period), *(_approval(known) if one.cadence.four_eyes else ())]
    accepted = set(one.cadence.accept)
    checks = [replace(c, state="ok") if c.kind in accepted else c for c in found]
    eyes = to_do(known) if one.cadence.four_eyes else ""
    return Checked(tuple(checks), said.sentences, *_will_say(report, sheet), four_eyes=eyes)


def _approval(known: Approval | None) -> Iterator[Check]:
    """Whether another account approved what one prepared."""
    if known is not None and known.approved_by is not None:
        yield Check("approval", "ok", f"Prepared by {known.prepared_by}, approved by {known.approved_by}")
    else:
        words = waits_for(known)
        yield Check("approval", "stop", words[:1].upper() + words[1:])


def _foots(sheet: Sheet) -> Iterator[Check]:
    dropped = "nothing dropped" if not sheet.tie_out.hidden_lines else "hidden lines counted"
    yield Check("foots", "ok", f"The sheet adds up to the source, {dropped}")


def _agrees(sheet: Sheet) -> Iterator[Check]:
    for control in sheet.tie_out.controls:
        expected, found = (
            f"{Decimal(control.expected):,f}",
            f"{Decimal(control.found):,f}" if control.found else "blank",
        )
        if control.agrees:
            yield Check("expected", "ok", f"{control.figure} agrees with the expected total, {expected}")
        else:
            yield Check("expected", "stop", f"{control.figure} is {found}, and {expected} is expected")


def _unplaced(sheet: Sheet) -> Iterator[Check]:
    if not sheet.tie_out.not_placed:
        return
    for side in (sheet.lines, sheet.columns):
        loose = [at for at in range(side.count) if side.special[at] in (LOOSE, NOT_PLACED) and side.depth[at]]
        upper = [at for at in loose if side.special[at] == NOT_PLACED]
        if not upper:
            continue
        names = list(dict.fromkeys(str(side.labels[at]) for at in loose if side.special[at] == LOOSE))
        outer = side.levels[int(side.depth[upper[0]]) - 1].name
        amount = _first_amount(sheet, upper[0]) if side is sheet.lines and len(upper) == 1 else ""  # of all, or none
        shown = ", ".join(names[:SHOWN]) + (f" and {len(names) - SHOWN} more" if len(names) > SHOWN else "")
        what = f"{len(names)} value{'s have' if len(names) > 1 else ' has'} no {outer} yet: {shown}"
        said = what if names else f"{grouped(sheet.tie_out.not_placed)} records have no {outer} yet"
        yield Check("not_placed", "look", f"{said}{f', {amount}' if amount else ''}")
        return
    yield Check("not_placed", "look", f"{grouped(sheet.tie_out.not_placed)} records are not placed in a tree yet")


def _first_amount(sheet: Sheet, line: int) -> str:
    figure = None if sheet.current == NO_COLUMN else _first_figure(sheet)
    at = line * sheet.columns.count + latest(sheet)
    return "" if figure is None else shown_cells(figure, np.array([at]))[0]


def _first_figure(sheet: Sheet) -> ShownFigure | None:
    return next((f for f in sheet.figures if f.cells.kind in NUMERIC), None)


def _limits(desk: Desk, one: Recurs, sheet: Sheet, period: Recurring) -> Iterator[Check]:
    for limit in one.cadence.limits:
        step = period_before if limit.against == "period_before" else year_before
        earlier = step(one.calendar, period)
        base = None if earlier is None else _sheet_then(desk, one, earlier)
        check = _limit(limit, sheet, base, earlier)
        if check is not None:
            yield check


def _sheet_then(desk: Desk, one: Recurs, period: Recurring) -> Sheet | None:
    """A period's sheet: of its edition if there is one, else as it would be issued now."""
    editions = desk.editions.of(one.id, *period.days)
    try:
        return (
            opened(desk, editions[-1].id).sheet
            if editions
            else sheet_from(desk, now(desk, for_period(one.report, period)))
        )
    except KalendorError:
        return None


def _limit(limit: Limit, sheet: Sheet, base: Sheet | None, earlier: Recurring | None) -> Check | None:
    if sheet.current == NO_COLUMN:
        return Check("limit", "look", f"the period has no records, so {limit.figure} cannot be held against its limit")
    value, before = _total(sheet, limit.figure), None if base is None else _total(base, limit.figure)
    if value is None and not any(f.name == limit.figure for f in sheet.figures):
        return Check("limit", "look", f"there is no figure {limit.figure} any more, whose moves are limited")
    if before is None or earlier is None or before <= 0 or value is None:
        return Check("limit", "ok", f"{limit.figure} has nothing before to be compared with")
    moved = (value - before) / before * 100
    within = abs(moved) <= Decimal(repr(limit.percent))
    shown = _told_apart(abs(moved), Decimal(repr(limit.percent)))
    said = f"{limit.figure} is {shown}% {'below' if moved < 0 else 'above'} {earlier.label}"
    return Check("limit", "ok" if within else "look", f"{said}, {'within' if within else 'beyond'} {limit.percent:g}%")


def _told_apart(moved: Decimal, limit: Decimal) -> str:
    """A change in percent with one place, with more if it would otherwise read as equal to its limit or on the other
    side of it."""
    for places in range(1, 8):
        said = f"{moved:.{places}f}"
        if (Decimal(said) > limit) == (moved > limit) and (Decimal(said) == limit) == (moved == limit):
            break
    return said


def _total(sheet: Sheet, name: str) -> Any:
    figure = next((f for f in sheet.figures if f.name == name and f.cells.kind in NUMERIC), None)
    return None if figure is None or sheet.current == NO_COLUMN else cell_value(figure, latest(sheet))


def _stale_window(desk: Desk, report: Report, period: Recurring) -> Iterator[Check]:
    """Whether the window does not follow the period, or there is none, so that later records are on the sheet too."""
    show = report.window.show if report.window is not None else None
    if show is not None:
        if show.from_ is not None and show.to is not None and show.to != day_of(period.last):
            words = f"The window runs from {_said(show.from_)} to {_said(show.to)} in every edition"
            yield Check("window", "look", f"{words}; it does not follow the period")
        return
    source = desk.sources.named(report.source)
    open_items = any(entry.opened for entry in report.entries_of(AgeEntry))
    if source is None or open_items:
        return
    name = date_column(report, complete(desk, source).records)
    known = None if name is None else filling(desk, source, name)
    if known is not None and known.last > period.last:
        words = f"It has no window, so records after {noted_day(period.last)} are on the sheet, too"
        yield Check("window", "look", words)


def _said(day: date) -> str:
    return noted_day(day_number(day))


def _headline_moved(desk: Desk, report: Report, found: Ingredients, sheet: Sheet) -> Iterator[Check]:
    own = report.headline
    if own is None or not own.sentences or not report.export.headline:
        return
    said = headline(report, sheet, lambda cell: trail_from(desk, found, sheet, cell))
    if has_moved(own.given, said.sentences):
        yield Check("headline", "look", "The headline is in your own words, and was written for other numbers")


def _earlier(desk: Desk, one: Recurs, period: Recurring) -> Iterator[Check]:
    earlier = period_before(one.calendar, period)
    editions = [] if earlier is None else desk.editions.of(one.id, *earlier.days)
    if not editions or earlier is None:
        return
    now_ = standing(desk, editions[-1:])[editions[-1].id]
    if now_.needs:
        yield Check("moved", "look", f"{earlier.label} has moved since it was issued")
    elif now_.left is not None:
        yield Check("moved", "ok", f"{earlier.label} has moved and was left as it is: {now_.left.why}")
    elif now_.moved is False:
        yield Check("moved", "ok", f"{earlier.label} is unchanged since it was issued")


def _will_say(report: Report, sheet: Sheet) -> tuple[str, tuple[Said, ...]]:
    """The first figure of the outermost lines in the latest column, with its change, the total first."""
    figure = _first_figure(sheet)
    if figure is None or sheet.current == NO_COLUMN:
        return "", ()
    asked = next((f for f in comparisons(report.figures, figure.name) if not f.hide), None)
    change = next((f for f in sheet.figures if asked is not None and f.name == asked.name), None)
    at = latest(sheet)
    outer = [line for line in dict.fromkeys(sheet.lines.shown.lines.tolist()) if sheet.lines.depth[line] == 1]
    lines = [0, *(line for line in outer if sheet.lines.special[line] in (ORDINARY, NOT_PLACED))][:MOST_SAID]
    found = []
    for line in lines:
        cell = np.array([line * sheet.columns.count + at])
        label = sheet.lines.heading(line) if line else sheet.lines.total
        moved = "" if change is None else shown_cells(change, cell)[0]
        found.append(Said(label, shown_cells(figure, cell)[0], moved, line == 0))
    return figure.name, tuple(found)
