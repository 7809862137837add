"""A report worked out over records: from conditions and groupings to the sheet."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.compare import Bases
from kalendor.core.figures.derived import Reckoner
from kalendor.core.figures.worked_lines import idle, missing, shown_too, with_worked, workings
from kalendor.core.formulas.formulas import Scope, holds
from kalendor.core.groupings import axes
from kalendor.core.groupings.axes import Ground, Memo, forget
from kalendor.core.groupings.levels import ORDINARY, OTHER, WORKED, Level
from kalendor.core.placing.beside import laid_beside
from kalendor.core.placing.folding import beyond_top, first_of_label, made_room, moved_paths, with_member
from kalendor.core.placing.frame import Axis, Frame, axis
from kalendor.core.placing.leaves import Narrowed, leaves, narrowed
from kalendor.core.placing.material import Material, as_of_day, made_stamp, with_made
from kalendor.core.placing.presence import held, on_sheet_periods, shown_though_empty
from kalendor.core.placing.screening import screened
from kalendor.core.placing.views import Fold, Placer, View
from kalendor.core.sheet.arrange import ByValue, Rows, beneath, ranked, rows, sibling_ranks
from kalendor.core.sheet.cut_notes import cut_notes
from kalendor.core.sheet.orders import at_total, depth_of, orders, side_of
from kalendor.core.sheet.proof import proved
from kalendor.core.sheet.running_lines import down_the_lines
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.values.columns import Column, Mask
from kalendor.definitions.axis import Entry, default_names
from kalendor.definitions.figure import Compare, Figure, Running, Share, WithFigure, WithMember
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
MOST_CELLS = 60_000_000


def work_out(report: Report, material: Material, today: date, as_of: date | None = None, memo: Memo = forget) -> Sheet:
    """The sheet of a report.

    Raises DefinitionError for what the report names and the material lacks, FootingError where a sheet would not foot.
    """
    _check_names(report)
    _check_asked(report)
    records = with_made(material.records, report.columns, material.looked_up or {})
    day = as_of_day(report, records, today, as_of)
    origin = None
    if report.beside:
        records, origin = laid_beside(records, report.beside, material.looked_up or {})
    stamp = material.stamp + made_stamp(report)
    ground = Ground(records, material.groupings, day, memo, stamp, origin)
    return _Working(report, material, ground).sheet()


def _check_names(report: Report) -> None:
    seen: dict[str, str] = {figure.name: "figure" for figure in report.figures}
    for entry in (*report.down, *report.across):
        for name in default_names(entry) or ():
            if name in seen:
                other = "a figure" if seen[name] == "figure" else "another level"
                raise DefinitionError(f"a level and {other} are both named {name!r}; rename one")
            seen[name] = "level"


def _check_asked(report: Report) -> None:
    """Raises DefinitionError for what a report may say and this engine does not do, so that nothing is passed over."""
    if report.records is not None:
        raise DefinitionError("records: listing the records under the lines is not done yet; leave it out")


class _Working:
    """One report on its way to a sheet."""

    def __init__(self, report: Report, material: Material, ground: Ground) -> None:
        self.report, self.material, self.ground = report, material, ground
        self.down = with_worked(axes.axis_levels(ground, report.down, report.across), report.lines)
        self.across = tuple(axes.axis_levels(ground, report.across, report.down))
        names = [level.name for level in (*self.down, *self.across)]
        for name in names:
            if names.count(name) > 1 or name in {f.name for f in report.figures}:
                raise DefinitionError(f"two things on the sheet are named {name!r}; give one another name")
        unknown = next((name for name in report.totals.levels if name not in names), None)
        if unknown is not None:
            raise DefinitionError(f"totals: there is no level {unknown!r}; there are {', '.join(names) or 'none'}")
        self.screening = screened(report, ground)
        self.rows, self.era, self.shifted = self.screening.rows, self.screening.era, self.screening.shifted
        self.notes: list[str] = list(self.screening.notes)
        turned = axes.counted_negative(ground, (*report.down, *report.across))
        if turned:
            self.notes.append(f"{', '.join(turned)} {'counts' if len(turned) == 1 else 'count'} negative")
        self.other_labels: dict[tuple[bool, int, int], str] = {}
        self.folds: list[Fold] = []

    def sheet(self) -> Sheet:
        main_rows = self.screening.main_rows
        for down in (True, False):
            for depth, entry in self._folding(down):
                self._fold_top(down, depth, entry, main_rows)
        reckoner = self._reckoner(main_rows)
        hidden, hidden_lines = self._kept(reckoner)
        if hidden_lines and self.report.totals.totals == "kept":
            self._fold_away(reckoner.frame.lines, hidden)
            reckoner = self._reckoner(main_rows)
            hidden = self._hidden_rest(reckoner.frame.lines)
            self.notes.append("totals are of the lines kept alone")
        return self._assembled(reckoner, hidden, hidden_lines)

    def _placer(self) -> Placer:
        return Placer(self.ground, self.down, self.across, self.shifted if self.era else None, tuple(self.folds))

    def _reckoner(self, main_rows: Index | None) -> Reckoner:
        placer = self._placer()
        key = self._frame_key()
        if key is not None:
            main = self.ground.memo(key, lambda: self._laid(placer, main_rows))
        else:
            main = self._laid(placer, main_rows)
        bases = Bases(main.frame, placer, self.rows, main, self.era)
        made = workings(self.down, self.report.lines)
        return Reckoner(self.report.figures, main.frame, bases, main, made)

    def _frame_key(self) -> str | None:
        """What the lines, the columns and the records on them rest on; None where lines are folded, which rests on figures."""
        if self.folds:
            return None
        compared = [f.model_dump_json(include={"with_", "to_date"}) for f in self._compared()]
        entries = axes.axes_key(self.ground, self.report.down, self.report.across)
        entries += "".join(line.model_dump_json() for line in self.report.lines)
        return "\x1f".join(("frame", self.screening.key, entries, *sorted(set(compared))))

    def _compared(self) -> list[Compare]:
        """Figures that compare with an earlier period, and so may bring lines of their own."""
        if self.era is None:
            return []
        return [
            f
            for f in self.report.figures
            if isinstance(f, Compare) and not isinstance(f.with_, WithFigure | WithMember)
        ]

    def _laid(self, placer: Placer, main_rows: Index | None) -> View:
        """The sheet's own view of the records on its frame."""
        stand, lie = self._standing(placer, main_rows)
        sets_down: list[Any] = [(stand.codes, stand.count)]
        sets_across: list[Any] = [(lie.codes, lie.count)]
        empty = Frame(axis(self.down, []), axis(self.across, []))
        probe = Bases(empty, placer, self.rows, View("sheet", empty, placer, main_rows, None), self.era)
        had = [
            held(level, codes)
            for side, levels in ((stand, self.down), (lie, self.across))
            for level, codes in zip(levels, side.codes, strict=True)
        ]
        for figure in self._compared():
            view = probe.base_view(probe.shift_of(figure), figure.to_date)
            fall = view.fall(placer.grain_at((len(self.down), len(self.across))))
            there = on_sheet_periods(had, [*self.down, *self.across], [*fall.down, *fall.across], fall.count)
            sets_down.append(([c[there] for c in fall.down], len(there)))
            sets_across.append(([c[there] for c in fall.across], len(there)))
        frame = Frame(
            stand.found_on(
                axis(self.down, sets_down, shown_too(shown_though_empty(self.down, had[: len(self.down)]), self.down))
            ),
            lie.found_on(axis(self.across, sets_across, shown_though_empty(self.across, had[len(self.down) :]))),
        )
        cells = frame.lines.count * frame.columns.count
        if cells > MOST_CELLS:
            raise DefinitionError(
                f"the sheet would have {frame.lines.count:,} lines and {frame.columns.count:,} columns; "
                "take a coarser level, or narrow it by a condition"
            )
        return View("sheet", frame, placer, main_rows, None)

    def _standing(self, placer: Placer, main_rows: Index | None) -> tuple[Narrowed, Narrowed]:
        """The paths of the sheet's records down and across; those of all records are kept, unless lines are folded."""
        if self.folds:
            fall = placer.fall(main_rows)
            folded = (leaves(self.down, fall.count, fall.down), leaves(self.across, fall.count, fall.across))
            return narrowed(folded[0], None), narrowed(folded[1], None)
        key = axes.axes_key(self.ground, self.report.down, self.report.across)
        key += "".join(line.model_dump_json() for line in self.report.lines)
        count = self.ground.records.count
        down = self.ground.memo(f"{key}/lines", lambda: leaves(self.down, count))
        across = self.ground.memo(f"{key}/columns", lambda: leaves(self.across, count))
        return narrowed(down, main_rows), narrowed(across, main_rows)

    def _levels(self, down: bool) -> tuple[Level, ...]:
        return self.down if down else self.across

    def _folding(self, down: bool) -> list[tuple[int, Entry]]:
        """The entries of which a top is shown, and the depth that it works on."""
        entries = self.report.down if down else self.report.across
        return [
            (depth_of(self._levels(down), position, None), entry)
            for position, entry in enumerate(entries)
            if entry.top is not None
        ]

    def _fold_top(self, down: bool, depth: int, entry: Entry, main_rows: Index | None) -> None:
        """Members beyond the first n within their parent become one."""
        reckoner = self._reckoner(main_rows)
        lines = side_of(reckoner, down)
        assert entry.by is not None
        assert entry.top is not None
        values, blank = at_total(reckoner, down, entry.by, depth)
        place = ranked(lines, ByValue(depth, values, blank, descending=True))
        here = lines.lines_at(depth)
        special = lines.levels[depth - 1].members.special[lines.path[here, depth - 1]] != ORDINARY
        folded = beyond_top(lines.parent[here], place, special, entry.top)
        if folded.any():
            self._add_other(down, depth, lines, folded, entry)

    def _add_other(self, down: bool, depth: int, lines: Axis, folded: Mask, entry: Entry) -> None:
        levels = self._levels(down)
        level = levels[depth - 1]
        at = int(np.isin(level.members.special, (ORDINARY, WORKED)).sum())
        members = with_member(level.members, at, entry.rest or "Other", OTHER)
        shift = made_room(level.size, at)
        levels = (*levels[: depth - 1], replace(level, codes=shift[level.codes], members=members), *levels[depth:])
        if down:
            self.down = levels
        else:
            self.across = levels
        moved = axis(levels[:depth], [(moved_paths(lines, depth, shift), int(folded.size))])
        below = tuple(first_of_label(x.members) for x in levels[depth:] if x.entry == level.entry)
        self.folds.append(Fold(moved, depth, folded, at, below, down))
        parents = lines.parent[lines.lines_at(depth)][folded] - lines.offsets[depth - 1]
        for parent, count in zip(*np.unique(parents, return_counts=True), strict=True):
            self.other_labels[(down, depth, int(parent))] = f"{entry.rest or 'Other'} ({count})"

    def _fold_away(self, lines: Axis, hidden: Mask) -> None:
        for keep in self.report.keep:
            depth = [level.name for level in self.down].index(keep.level) + 1
            self.folds.append(Fold(lines, depth, hidden[lines.lines_at(depth)], -1))

    def _hidden_rest(self, lines: Axis, down: bool = True) -> Mask:
        """Lines (or columns) of a top's rest that the report asks to hide."""
        hidden = np.zeros(lines.count, dtype=bool)
        for depth, entry in self._folding(down):
            if entry.rest is None:
                here = lines.lines_at(depth)
                hidden[here] |= lines.levels[depth - 1].members.special[lines.path[here, depth - 1]] == OTHER
        return beneath(lines, hidden)

    def _kept(self, reckoner: Reckoner) -> tuple[Mask, int]:
        """Lines that are hidden, and how many of them `keep` hides at its own level."""
        lines = reckoner.frame.lines
        hidden = self._hidden_rest(lines)
        count = 0
        for keep in self.report.keep:
            names = [level.name for level in self.down]
            if keep.level not in names:
                raise DefinitionError(
                    f"keep: there is no level {keep.level!r} among the lines; there are {', '.join(names) or 'none'}"
                )
            depth = names.index(keep.level) + 1
            here = lines.lines_at(depth)
            columns = {
                f.name: _column_at_total(reckoner, f.name, here) for f in self.report.figures if f.name in keep.where
            }
            met = holds(keep.where, Scope(columns, here.stop - here.start, self.ground.as_of))
            flagged = np.zeros(lines.count, dtype=bool)
            flagged[here] = ~met
            count += int((flagged & ~hidden).sum())
            hidden = hidden | beneath(lines, flagged)
        if count:
            self.notes.append(f"{count} {'line is' if count == 1 else 'lines are'} hidden and still counted in totals")
        return hidden, count

    def _assembled(self, reckoner: Reckoner, hidden: Mask, hidden_lines: int) -> Sheet:
        frame = reckoner.frame
        hidden = hidden | idle(frame.lines, reckoner.worked)
        self.notes += missing(reckoner.worked)
        totals = self.report.totals
        line_rows = rows(
            frame.lines,
            sibling_ranks(frame.lines, orders(reckoner, self.report.down, down=True)),
            hidden,
            _places(self.down, totals.down, totals.grand_down, totals.levels),
        )
        column_rows = rows(
            frame.columns,
            sibling_ranks(frame.columns, orders(reckoner, self.report.across, down=False)),
            self._hidden_rest(frame.columns, down=False),
            _places(self.across, totals.across, totals.grand_across, totals.levels),
        )
        figures = tuple(self._shown(reckoner, figure, line_rows) for figure in self.report.figures if not figure.hide)
        tie_out = proved(self.report, self.material, self.screening, reckoner, hidden_lines, tuple(self.notes))
        return Sheet(
            self.report.title,
            self.ground.as_of,
            frame,
            reckoner.main.held(),
            line_rows,
            column_rows,
            figures,
            tie_out,
            self._others(frame.lines, down=True),
            self._others(frame.columns, down=False),
            tuple(self.notes),
            self._cut_notes(frame.lines),
            self._cut_notes(frame.columns),
        )

    def _cut_notes(self, axis_: Axis) -> dict[int, str]:
        if self.era is None or self.shifted is None:
            return {}
        compared = self._compared()
        return cut_notes(axis_, self.shifted, self.era, any(f.to_date for f in compared) if compared else None)

    def _others(self, lines: Axis, down: bool) -> dict[int, str]:
        """The label of each line (or column) that stands for what falls beyond a top, with how many it stands for."""
        found = {}
        for (side, depth, parent), label in self.other_labels.items():
            if side == down:
                here = np.arange(lines.offsets[depth], lines.offsets[depth + 1])
                special = lines.levels[depth - 1].members.special[lines.path[here, depth - 1]] == OTHER
                at = here[special & (lines.parent[here] == parent + lines.offsets[depth - 1])]
                found.update({int(i): label for i in at})
        return found

    def _shown(self, reckoner: Reckoner, figure: Figure, line_rows: Rows) -> ShownFigure:
        found = reckoner.figure(figure.name)
        cells = found.cells
        if isinstance(figure, Running) and figure.along == "lines":
            cells = down_the_lines(reckoner, figure, line_rows)
        percent = isinstance(figure, Share) or (isinstance(figure, Compare) and figure.as_ == "percent")
        return ShownFigure(figure.name, cells, figure.format, found.marks, found.zero_is_none, percent)


def _column_at_total(reckoner: Reckoner, name: str, lines: slice) -> Column:
    cells = reckoner.cells(name)
    at = np.arange(lines.start, lines.stop) * reckoner.frame.columns.count
    return cells.take(at)


def _places(levels: Sequence[Level], inner: str, grand: str, by_name: Mapping[str, str]) -> Any:
    return lambda depth: grand if depth == 0 else by_name.get(levels[depth - 1].name, inner)
