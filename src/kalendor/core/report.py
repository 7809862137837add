"""A report worked out over records: from conditions and groupings to the sheet, one step after another."""

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import partial

import numpy as np

from kalendor.core.figures.bases import Bases, shift_of
from kalendor.core.figures.family import kind_of
from kalendor.core.figures.reckoner import Reckoner
from kalendor.core.figures.worked_lines import idle, missing, shown_too, with_operands, with_worked, workings
from kalendor.core.groupings.entries import Grouped, grouped
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import Level
from kalendor.core.placing.beside import laid_beside
from kalendor.core.placing.frame import Axis, Frame, axis
from kalendor.core.placing.laying import Base, Laid, check_size, laid
from kalendor.core.placing.material import Material, as_of_day, with_made
from kalendor.core.placing.screening import Screening, screened
from kalendor.core.placing.views import Placer, View
from kalendor.core.placing.windows import DayMap
from kalendor.core.sheet import notes
from kalendor.core.sheet.arrange import Rows, beneath, rows, sibling_ranks
from kalendor.core.sheet.assembly import current_column, place_starts, side
from kalendor.core.sheet.folds import Folded, folded_away, hidden_rest, not_kept, other_labels, top_folded, tops
from kalendor.core.sheet.footnotes import footnotes
from kalendor.core.sheet.listing import Listing, listing
from kalendor.core.sheet.orders import orders
from kalendor.core.sheet.proof import proved
from kalendor.core.sheet.sheet import TOTAL, Sheet, ShownFigure
from kalendor.core.trail.cell import Cell
from kalendor.core.trail.trail import Trail, trail_of
from kalendor.core.values.columns import Mask
from kalendor.core.values.keys import NO_KEY, Key, Memo, forget, key, local
from kalendor.definitions.axis import Entry, default_names
from kalendor.definitions.figure import Compare, Figure, with_earlier_periods
from kalendor.definitions.report import RecordList, Report
from kalendor.errors import DefinitionError


def go_on() -> None:
    """For sheets that somebody surely waits for."""


def work_out(
    report: Report,
    material: Material,
    today: date,
    as_of: date | None = None,
    memo: Memo = forget,
    step: Callable[[], None] = go_on,
) -> Sheet:
    """The sheet of a report; `step` is called between pieces of work and may raise to end it.

    Raises DefinitionError for what the report names and the material lacks, FootingError where a sheet would not foot.
    """
    return _begun(report, material, today, as_of, memo, step).sheet()


def traced(
    report: Report,
    material: Material,
    today: date,
    sheet: Sheet,
    cell: Cell,
    as_of: date | None = None,
    memo: Memo = forget,
    step: Callable[[], None] = go_on,
    worded: bool = True,
) -> Trail:
    """The trail of a cell of a report's sheet; all as for `work_out`, by which `sheet` was made from the same material.

    `worded`: with the conditions that select the records, which are tried on them.
    """
    working = _begun(report, material, today, as_of, memo, step)
    reckoner, _ = working.settled()
    return trail_of(report, reckoner, working.screening, working.ground, sheet, cell, worded)


def _begun(
    report: Report, material: Material, today: date, as_of: date | None, memo: Memo, step: Callable[[], None]
) -> "_Working":
    _check_names(report)
    records = with_made(material.records, report.columns, material.looked_up or {})
    day = as_of_day(report, records, today, as_of)
    origin = None
    if report.beside:
        records, origin = laid_beside(records, report.beside, material.looked_up or {})
    stamp = key("records", material.stamp, report.columns, report.beside)
    ground = Ground(records, material.groupings, day, memo, stamp, origin, step)
    return _Working(report, material, ground)


def _check_names(report: Report) -> None:
    seen: dict[str, str] = {figure.name: "figure" for figure in report.figures}
    for entry in (*report.down, *report.across):
        for name in default_names(entry) or ():
            if name in seen:
                other = "a figure" if seen[name] == "figure" else "another level"
                raise DefinitionError(f"a level and {other} are both named {name!r}; rename one")
            seen[name] = "level"


def _check_levels(report: Report, down: Sequence[Level], across: Sequence[Level]) -> None:
    names = [level.name for level in (*down, *across)]
    for name in names:
        if names.count(name) > 1 or name in {f.name for f in report.figures}:
            raise DefinitionError(f"two things on the sheet are named {name!r}; give one another name")
    unknown = next((name for name in report.totals.levels if name not in names), None)
    if unknown is not None:
        raise DefinitionError(f"totals: there is no level {unknown!r}; there are {', '.join(names) or 'none'}")


@dataclass(frozen=True, eq=False)
class _Hidden:
    """Lines that are not shown, and how many of them `keep` hides that still count in totals."""

    lines: Mask
    counted: int


class _Working:
    """One report on its way to a sheet."""

    def __init__(self, report: Report, material: Material, ground: Ground) -> None:
        self.report, self.material, self.ground = report, material, ground
        self.sides: Grouped = grouped(ground, report.down, report.across)
        self.screening: Screening = screened(report, ground, self.sides.open_items)
        down = with_worked(self.sides.down, report.lines)
        _check_levels(report, down, self.sides.across)
        self.folded = Folded(down, self.sides.across)
        self.unshown = 0

    def sheet(self) -> Sheet:
        return self._assembled(*self.settled())

    def settled(self) -> tuple[Reckoner, _Hidden]:
        """What works the figures out on the lines as they are after tops and `keep`, and the lines that are not shown."""
        for down in (True, False):
            for depth, entry in self._tops(down):
                self.folded = top_folded(self.folded, self._reckoner(), down, depth, entry)
        reckoner = self._reckoner()
        hidden = self._hidden(reckoner)
        if self.report.keep and self.report.totals.totals == "kept":
            self.folded = folded_away(self.folded, self.report.keep, reckoner.frame.lines, hidden.lines)
            reckoner = self._reckoner()
            hidden = _Hidden(self._unseen(reckoner), 0)
        return reckoner, hidden

    def _tops(self, down: bool) -> list[tuple[int, Entry]]:
        entries = self.report.down if down else self.report.across
        return tops(self.folded, entries, down)

    def _reckoner(self) -> Reckoner:
        """What works the figures out, on the frame of the levels as they are folded so far."""
        era, shifted = self.screening.era, self.screening.shifted
        folded = self.folded
        placer = Placer(self.ground, folded.down, folded.across, shifted if era else None, folded.folds)
        own, memo = self._frame_key(), self.ground.memo if not folded.folds else local()
        found: Laid = memo(own, lambda: self._laid(placer))
        check_size(found.frame, len(self.report.figures))
        self.unshown = found.unshown
        main = View(own, found.frame, placer, self.screening.main_rows, None, memo)
        bases = Bases(placer, self.screening.rows, main, era, shifted is not None and era is None)
        made = workings(folded.down, self.report.lines)
        return Reckoner(self.report.figures, main, bases, self.sides.signs, made, found.propped)

    def _frame_key(self) -> Key:
        """What the lines, the columns and the records on them rest on, unless lines are folded, which rests on figures."""
        compared = [(f.with_, f.to_date) for f in self._compared()]
        return key(
            "frame",
            self.screening.key,
            self.sides.key,
            self.report.lines,
            compared,
            compared and self.report.totals,
            self._reaches_back(),
        )

    def _reaches_back(self) -> bool:
        """Whether lines are made from others whose figures have values where no record of theirs stands."""
        return bool(self.report.lines) and any(kind_of(f).reaches_back(f) for f in self.report.figures)

    def _compared(self) -> list[Compare]:
        """Figures that compare with an earlier period, and so may bring lines of their own."""
        return [] if self.screening.era is None else with_earlier_periods(self.report.figures)

    def _laid(self, placer: Placer) -> Laid:
        bases = [base for figure in self._compared() for base in self._bases(figure, placer)]
        levels_key = key("levels", self.sides.key, self.report.lines)
        made = workings(placer.down, self.report.lines)
        return laid(
            placer,
            self.screening.main_rows,
            bases,
            self._figures_at(placer),
            lambda always: shown_too(always, placer.down),
            (lambda always: with_operands(always, made, placer.folds)) if self._reaches_back() else None,
            levels_key,
        )

    def _bases(self, figure: Compare, placer: Placer) -> list[Base]:
        """A comparison's base, once for all crossings at which its days are the same."""
        empty = Frame(axis(placer.down, []), axis(placer.across, []))
        probe = Bases(placer, self.screening.rows, View(NO_KEY, empty, placer, None, None, local()), self.screening.era)
        view = probe.base_view(shift_of(figure, self.screening.era, placer), figure.to_date)
        assert view.days is not None
        found: list[tuple[DayMap, Base]] = []
        for crossing in itertools.product(range(len(placer.down) + 1), range(len(placer.across) + 1)):
            grain = placer.grain_at(crossing)
            days = view.days(grain)
            base = next((base for other, base in found if other.same(days)), None)
            if base is None:
                base = Base(partial(view.fall, grain), [])
                found.append((days, base))
            base.crossings.append(crossing)
        return [base for _, base in found]

    def _figures_at(self, placer: Placer) -> tuple[Mask, Mask]:
        """At which depths down and across figures are shown: the innermost, and those that have totals."""
        totals = self.report.totals
        down = _places(placer.down, totals.down, totals.grand_down, totals.levels)
        across = _places(placer.across, totals.across, totals.grand_across, totals.levels)
        sides = ((down, len(placer.down)), (across, len(placer.across)))
        shown = [
            np.array([depth == last or place(depth) != "none" for depth in range(last + 1)]) for place, last in sides
        ]
        return shown[0], shown[1]

    def _hidden(self, reckoner: Reckoner) -> _Hidden:
        return _Hidden(*not_kept(self.report.keep, reckoner, self._unseen(reckoner), self.ground.as_of))

    def _unseen(self, reckoner: Reckoner) -> Mask:
        """Lines that are not shown whatever `keep` says."""
        lines = reckoner.frame.lines
        return hidden_rest(lines, self._tops(True)) | idle(lines, reckoner.worked, reckoner.propped)

    def _assembled(self, reckoner: Reckoner, hidden: _Hidden) -> Sheet:
        report, frame, totals = self.report, reckoner.frame, self.report.totals
        others = other_labels(self.folded, frame.lines, True), other_labels(self.folded, frame.columns, False)
        aside = _aside(frame.lines, report.out_of_sight.lines), _aside(frame.columns, report.out_of_sight.columns)
        out_of_sight = hidden.lines | beneath(frame.lines, aside[0])
        line_rows = rows(
            frame.lines,
            sibling_ranks(frame.lines, orders(reckoner, report.down, down=True)),
            out_of_sight,
            _places(frame.lines.levels, totals.down, totals.grand_down, totals.levels),
            report.records is not None and bool(frame.lines.levels),
        )
        column_rows = rows(
            frame.columns,
            sibling_ranks(frame.columns, orders(reckoner, report.across, down=False)),
            hidden_rest(frame.columns, self._tops(False)) | beneath(frame.columns, aside[1]),
            _places(frame.columns.levels, totals.across, totals.grand_across, totals.levels),
        )
        figures = tuple(self._shown(reckoner, figure, line_rows) for figure in report.figures if not figure.hide)
        said = (
            *self._notes(reckoner, hidden),
            *missing(reckoner.worked),
            *notes.out_of_sight(*(int(a.sum()) for a in aside)),
        )
        lines = side(frame.lines, line_rows, others[0], self._cut_notes(frame.lines), report.layout.grand or TOTAL)
        columns = side(frame.columns, column_rows, others[1], self._cut_notes(frame.columns))
        return Sheet(
            report.title,
            self.ground.as_of,
            lines,
            columns,
            reckoner.main.held(),
            figures,
            proved(report, self.material, self.screening, reckoner, hidden.counted, said),
            said,
            place_starts(frame),
            report.layout,
            None if report.records is None else self._listed(report.records, reckoner),
            footnotes(report.notes, self.ground.as_of, lines, columns, [f.name for f in figures]),
            current=current_column(frame.columns, self._last_day()),
        )

    def _last_day(self) -> int:
        era = self.screening.era
        ends = [self.ground.as_of] if era is None or era.span is None else [self.ground.as_of, era.span.last]
        return min(ends)

    def _listed(self, asked: RecordList, reckoner: Reckoner) -> Listing:
        return listing(asked, reckoner.main, self.ground, list(self.material.records.columns))

    def _notes(self, reckoner: Reckoner, hidden: _Hidden) -> list[str]:
        kept = bool(self.report.keep) and self.report.totals.totals == "kept"
        return [
            *self.screening.notes,
            *notes.negative(self.sides.negative),
            *notes.hidden(hidden.counted, kept),
            *notes.compared(self.screening.era, self._compared(), self.unshown),
            *notes.without_counterpart(reckoner.bases.lacking(self._compared())),
        ]

    def _cut_notes(self, axis_: Axis) -> dict[int, str]:
        era, shifted = self.screening.era, self.screening.shifted
        if era is None or shifted is None:
            return {}
        compared = self._compared()
        return notes.cut(axis_, shifted, era, any(f.to_date for f in compared) if compared else None)

    def _shown(self, reckoner: Reckoner, figure: Figure, line_rows: Rows) -> ShownFigure:
        found, kind = reckoner.figure(figure.name), kind_of(figure)
        cells = kind.as_shown(figure, reckoner, found.cells, line_rows.filled())
        percent = reckoner.percent(figure.name)
        cut = reckoner.bases.cut_cells() if figure in self._compared() and figure.to_date else None
        inexact = reckoner.approximate(figure.name)
        return ShownFigure(
            figure.name,
            cells,
            figure.format,
            found.marks,
            found.zero_is_none,
            percent,
            kind.signed(figure),
            inexact,
            cut,
        )


def _aside(axis_: Axis, paths: Sequence[Sequence[str]]) -> Mask:
    """Shape (lines,): True for the lines (or columns) of those labels, from the outermost in; what is not there is passed over."""
    result = np.zeros(axis_.count, dtype=bool)
    for path in paths:
        at = np.zeros(1, dtype=np.int64)
        for k, label in enumerate(path[: len(axis_.levels)]):
            here = np.arange(axis_.offsets[k + 1], axis_.offsets[k + 2])
            codes = [i for i, name in enumerate(axis_.levels[k].members.labels) if name == label]
            at = here[np.isin(axis_.parent[here], at) & np.isin(axis_.path[here, k], codes)]
        result[at] = len(path) > 0 and len(path) <= len(axis_.levels)
    result[0] = False
    return result


def _places(levels: Sequence[Level], inner: str, grand: str, by_name: Mapping[str, str]) -> Callable[[int], str]:
    return lambda depth: grand if depth == 0 else by_name.get(levels[depth - 1].name, inner)
