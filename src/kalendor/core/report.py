"""A report worked out over records: from conditions and groupings to the sheet."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kalendor.core import axes, lookups, windows
from kalendor.core.aggregate import TAKES, Additive, Groups
from kalendor.core.arrange import ByValue, Rows, beneath, ranked, rows, sibling_ranks
from kalendor.core.axes import Ground, Groupings, Memo, forget
from kalendor.core.calendars import Calendar, short_day
from kalendor.core.columns import DATED, Column, Mask, Records, day_number, day_of, days_of
from kalendor.core.compare import Bases, Era
from kalendor.core.derived import Reckoner
from kalendor.core.formulas import Scope, evaluate, holds
from kalendor.core.frame import Axis, Frame, axis
from kalendor.core.levels import BLANK, NOT_PLACED, ORDINARY, OTHER, Level, Members
from kalendor.core.sheet import Sheet, ShownFigure
from kalendor.core.tieout import Footing, Step, TieOut, footed
from kalendor.core.texts import written
from kalendor.core.views import Fold, Placer, View, column_days
from kalendor.definitions.axis import AgeEntry, ByFigure, Entry, PeriodEntry
from kalendor.definitions.figure import Compare, Figure, FormulaFigure, Running, Share, Taken
from kalendor.definitions.report import FormulaColumn, LookupColumn, Report
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
MOST_CELLS = 60_000_000


@dataclass(frozen=True, eq=False)
class Material:
    """What a report is worked out from. `stamp` names the records' revision; `refused` lines never became records."""

    records: Records
    groupings: Groupings = Groupings()
    looked_up: Mapping[str, Records] | None = None
    refused: int = 0
    stamp: str = ""


def work_out(report: Report, material: Material, today: date, as_of: date | None = None, memo: Memo = forget) -> Sheet:
    """The sheet of a report.

    Raises DefinitionError for what the report names and the material lacks, FootingError where a sheet would not foot.
    """
    _check_names(report)
    records = with_made_columns(report, material)
    day = as_of_day(report, records, today, as_of)
    ground = Ground(records, material.groupings, day, memo, material.stamp + _made_stamp(report))
    return _Working(report, material, ground).sheet()


def _made_stamp(report: Report) -> str:
    return "".join(made.model_dump_json() for made in report.columns)


def with_made_columns(report: Report, material: Material) -> Records:
    """The records with the report's made columns, in order."""
    records = material.records
    for made in report.columns:
        if isinstance(made, FormulaColumn):
            column = evaluate(made.formula, Scope(records.columns, records.count))
        else:
            assert isinstance(made, LookupColumn)
            column = lookups.looked_up(records, made.lookup, material.looked_up or {}).column
        records = records.with_column(made.name, column)
    return records


def as_of_day(report: Report, records: Records, today: date, given: date | None) -> int:
    """The as-of day: given, else the report's, else the last date of the window's or first period's column, else today."""
    if given or report.as_of:
        return day_number(given or report.as_of)  # type: ignore[arg-type]
    names = [report.window.of] if report.window else []
    names += [entry.period for entry in (*report.down, *report.across) if isinstance(entry, PeriodEntry)]
    for name in names[:1]:
        column = records.columns.get(name)
        span = column_days(column) if column is not None else None
        if span is not None:
            return span[1]
    return day_number(today)


def _check_names(report: Report) -> None:
    seen: dict[str, str] = {figure.name: "figure" for figure in report.figures}
    for entry in (*report.down, *report.across):
        for name in axes.default_names(entry) or ():
            if name in seen:
                other = "a figure" if seen[name] == "figure" else "another level"
                raise DefinitionError(f"a level and {other} are both named {name!r}; rename one")
            seen[name] = "level"


class _Working:
    """One report on its way to a sheet."""

    def __init__(self, report: Report, material: Material, ground: Ground) -> None:
        self.report, self.material, self.ground = report, material, ground
        self.down = tuple(axes.axis_levels(ground, report.down, report.across))
        self.across = tuple(axes.axis_levels(ground, report.across, report.down))
        names = [level.name for level in (*self.down, *self.across)]
        for name in names:
            if names.count(name) > 1 or name in {f.name for f in report.figures}:
                raise DefinitionError(f"two things on the sheet are named {name!r}; give one another name")
        self.steps: list[Step] = []
        self.notes: list[str] = []
        passing = self._passing()
        self.window_column, self.shifted = self._dated()
        passing = self._static_window(passing)
        self.rows = _positions(passing)
        self.era = self._era()
        self.other_labels: dict[tuple[int, int], str] = {}
        self.folds: list[Fold] = []

    def _passing(self) -> Mask | None:
        """Records that pass every `only` and are open items where ages ask for it; each step is counted."""
        records, ground = self.ground.records, self.ground
        scope = Scope(records.columns, records.count, ground.as_of)
        passing: Mask | None = None
        for condition in self.report.only:
            met = holds(condition, scope)
            passing = self._narrowed(passing, met, condition, "only")
        for entry in (*self.report.down, *self.report.across):
            if isinstance(entry, AgeEntry) and (still_open := axes.open_items(ground, entry)) is not None:
                passing = self._narrowed(passing, still_open, f"not open on {short_day(ground.as_of)}", "open")
        return passing

    def _narrowed(self, passing: Mask | None, met: Mask, why: str, kind: str) -> Mask:
        before = self.ground.records.count if passing is None else int(passing.sum())
        left = met.copy() if passing is None else passing & met
        self.steps.append(Step(why, kind, before - int(left.sum())))
        return left

    def _dated(self) -> tuple[str | None, str | None]:
        """The window's column, and the column that comparisons shift: the first period's, else the window's."""
        window = self.report.window.of if self.report.window else None
        if window is not None and self.ground.column(window).kind not in DATED:
            raise DefinitionError(f"window: {window!r} is not a date column")
        period = next((e.period for e in (*self.report.down, *self.report.across) if isinstance(e, PeriodEntry)), None)
        if period is not None and self.ground.column(period).kind not in DATED:
            period = None
        return window, period or window

    def _calendar(self) -> Calendar:
        entries = [e for e in (*self.report.down, *self.report.across) if isinstance(e, PeriodEntry) and e.period == self.shifted]
        name = entries[0].calendar if entries else self.report.window.calendar if self.report.window else None
        return self.ground.groupings.calendar(name)

    def _window_map(self, column: Column) -> windows.DayMap | None:
        window = self.report.window
        span = column_days(column)
        if window is None or span is None:
            return None
        return windows.within_window(window, self.ground.groupings.calendar(window.calendar), self.ground.as_of, *span)

    def _inside_window(self) -> Mask | None:
        if self.window_column is None:
            return None
        column = self.ground.column(self.window_column)
        days = self._window_map(column)
        if days is None:
            return np.zeros(len(column), dtype=bool)
        return (days.of(days_of(column)) != windows.NONE) & column.present

    def _static_window(self, passing: Mask | None) -> Mask | None:
        """A window on another column than the one that is shifted is a plain condition."""
        if self.window_column is None or self.window_column == self.shifted:
            return passing
        inside = self._inside_window()
        assert inside is not None
        return self._narrowed(passing, inside, "outside the window", "window")

    def _era(self) -> Era | None:
        if self.shifted is None:
            return None
        column = self.ground.column(self.shifted)
        span = column_days(column if self.rows is None else column.take(self.rows))
        if span is None:
            return None
        calendar = self._calendar()
        window = self.report.window if self.window_column == self.shifted else None
        shown = self._window_map(column) if window else None
        reach = windows.window_span(window, self.ground.groupings.calendar(window.calendar), self.ground.as_of) if window else None
        return Era(calendar, *span, self.ground.as_of, shown, reach, windows.window_grain(window) if window else None)

    def sheet(self) -> Sheet:
        main_rows = self._main_rows()
        for depth, entry in self._folding():
            self._fold_top(depth, entry, main_rows)
        reckoner = self._reckoner(main_rows)
        hidden, hidden_lines = self._kept(reckoner)
        if hidden_lines and self.report.totals.totals == "kept":
            self._fold_away(reckoner.frame.lines, hidden)
            reckoner = self._reckoner(main_rows)
            hidden = self._hidden_rest(reckoner.frame.lines)
            self.notes.append("totals are of the lines kept alone")
        return self._assembled(reckoner, hidden, hidden_lines)

    def _main_rows(self) -> Index | None:
        """Records on the sheet: those that pass and lie in the window."""
        if self.window_column is None or self.window_column != self.shifted:
            return self.rows
        inside = self._inside_window()
        assert inside is not None
        passed = self.ground.records.count if self.rows is None else len(self.rows)
        chosen = np.flatnonzero(inside) if self.rows is None else self.rows[inside[self.rows]]
        self.steps.append(Step("outside the window", "window", passed - len(chosen)))
        return chosen

    def _placer(self) -> Placer:
        return Placer(self.ground, self.down, self.across, self.shifted if self.era else None, tuple(self.folds))

    def _reckoner(self, main_rows: Index | None) -> Reckoner:
        placer = self._placer()
        main_fall = placer.fall(main_rows)
        sets_down: list[Any] = [(main_fall.down, main_fall.count)]
        sets_across: list[Any] = [(main_fall.across, main_fall.count)]
        empty = Frame(axis(self.down, []), axis(self.across, []))
        probe = Bases(empty, placer, self.rows, View("sheet", empty, placer, main_rows, None), self.era)
        held = [_held(level, fall) for levels, falls in ((self.down, main_fall.down), (self.across, main_fall.across)) for level, fall in zip(levels, falls, strict=True)]
        for figure in self.report.figures:
            if isinstance(figure, Compare) and self.era is not None and not hasattr(figure.with_, "figure") and not hasattr(figure.with_, "member"):
                view = probe.base_view(probe.shift_of(figure), figure.to_date)
                fall = view.fall(placer.grain_at((len(self.down), len(self.across))))
                there = _on_sheet_periods(held, [*self.down, *self.across], [*fall.down, *fall.across], fall.count)
                sets_down.append(([c[there] for c in fall.down], len(there)))
                sets_across.append(([c[there] for c in fall.across], len(there)))
        frame = Frame(
            axis(self.down, sets_down, _always(self.down, held[: len(self.down)])),
            axis(self.across, sets_across, _always(self.across, held[len(self.down) :])),
        )
        cells = frame.lines.count * frame.columns.count
        if cells > MOST_CELLS:
            raise DefinitionError(
                f"the sheet would have {frame.lines.count:,} lines and {frame.columns.count:,} columns; "
                "take a coarser level, or narrow it by a condition"
            )
        main = View("sheet", frame, placer, main_rows, None)
        bases = Bases(frame, placer, self.rows, main, self.era)
        return Reckoner(self.report.figures, frame, bases, main)

    def _folding(self) -> list[tuple[int, Entry]]:
        found = []
        for position, entry in enumerate(self.report.down):
            if entry.top is not None:
                found.append((_depth_of(self.down, position, None), entry))
        return found

    def _fold_top(self, depth: int, entry: Entry, main_rows: Index | None) -> None:
        """Members beyond the first n within their parent become one."""
        reckoner = self._reckoner(main_rows)
        lines = reckoner.frame.lines
        assert entry.by is not None and entry.top is not None
        values, blank = _at_total(reckoner, entry.by, depth)
        place = ranked(lines, ByValue(depth, values, blank, descending=True))
        here = lines.lines_at(depth)
        special = lines.levels[depth - 1].members.special[lines.path[here, depth - 1]] != ORDINARY
        parent = lines.parent[here]
        order = np.lexsort((place, special, parent))
        turns = np.ones(len(order), dtype=bool)
        turns[1:] = parent[order][1:] != parent[order][:-1]
        start = np.maximum.accumulate(np.where(turns, np.arange(len(order)), 0)) if len(order) else order
        within = np.empty(len(order), dtype=np.int64)
        within[order] = np.arange(len(order)) - start
        folded = (within >= entry.top) & ~special
        if not folded.any():
            return
        self._add_other(depth, lines, folded, entry)

    def _add_other(self, depth: int, lines: Axis, folded: Mask, entry: Entry) -> None:
        level = self.down[depth - 1]
        ordinary = int((level.members.special == ORDINARY).sum())
        members = _with_other(level.members, ordinary, entry.rest or "Other")
        shift = np.arange(level.size + 1, dtype=np.int32)
        shift[ordinary:-1] += 1
        shift[-1] = -1
        codes = shift[level.codes]
        self.down = (*self.down[: depth - 1], replace(level, codes=codes, members=members), *self.down[depth:])
        moved = axis(self.down[:depth], [([shift[c] for c in [lines.path[lines.lines_at(depth), depth - 1]]] if depth == 1 else _moved_paths(lines, depth, shift), int(folded.size))])
        below = tuple(_first_of_label(x.members) for x in self.down[depth:] if x.entry == level.entry)
        self.folds.append(Fold(moved, depth, folded, ordinary, below))
        parents = lines.parent[lines.lines_at(depth)][folded] - lines.offsets[depth - 1]
        for parent, count in zip(*np.unique(parents, return_counts=True), strict=True):
            self.other_labels[(depth, int(parent))] = f"{entry.rest or 'Other'} ({count})"

    def _fold_away(self, lines: Axis, hidden: Mask) -> None:
        for keep in self.report.keep:
            depth = [level.name for level in self.down].index(keep.level) + 1
            self.folds.append(Fold(lines, depth, hidden[lines.lines_at(depth)], -1))

    def _hidden_rest(self, lines: Axis) -> Mask:
        """Lines of a top's rest that the report asks to hide."""
        hidden = np.zeros(lines.count, dtype=bool)
        for depth, entry in self._folding():
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
                raise DefinitionError(f"keep: there is no level {keep.level!r} among the lines; there are {', '.join(names) or 'none'}")
            depth = names.index(keep.level) + 1
            here = lines.lines_at(depth)
            columns = {f.name: _column_at_total(reckoner, f.name, here) for f in self.report.figures if f.name in keep.where}
            met = holds(keep.where, Scope(columns or {"": Column.__new__(Column)}, here.stop - here.start, self.ground.as_of))
            flagged = np.zeros(lines.count, dtype=bool)
            flagged[here] = ~met
            count += int((flagged & ~hidden).sum())
            hidden = hidden | beneath(lines, flagged)
        if count:
            self.notes.append(f"{count} {'line is' if count == 1 else 'lines are'} hidden and still counted in totals")
        return hidden, count

    def _assembled(self, reckoner: Reckoner, hidden: Mask, hidden_lines: int) -> Sheet:
        frame = reckoner.frame
        totals = self.report.totals
        line_rows = rows(frame.lines, sibling_ranks(frame.lines, self._orders(reckoner)), hidden, _places(self.down, totals.down, totals.grand_down, totals.levels))
        all_columns = np.zeros(frame.columns.count, dtype=bool)
        column_rows = rows(frame.columns, sibling_ranks(frame.columns, []), all_columns, _places(self.across, totals.across, totals.grand_across, totals.levels))
        figures = tuple(self._shown(reckoner, figure, line_rows) for figure in self.report.figures if not figure.hide)
        others = self._other_lines(frame.lines)
        tie_out = self._tie_out(reckoner, hidden_lines)
        return Sheet(self.report.title, self.ground.as_of, frame, line_rows, column_rows, figures, tie_out, others, tuple(self.notes))

    def _orders(self, reckoner: Reckoner) -> list[ByValue]:
        orders = []
        for position, entry in enumerate(self.report.down):
            by = entry.order if isinstance(entry.order, ByFigure) else None
            if by is None and entry.top is not None and entry.order is None:
                by = ByFigure(by=entry.by or "", desc=True)
            if by is not None:
                depth = _depth_of(self.down, position, by.level)
                column = _named_column(reckoner.frame.columns, by.column)
                orders.append(ByValue(depth, *_at_total(reckoner, by.by, depth, column), by.desc))
        return orders

    def _other_lines(self, lines: Axis) -> dict[int, str]:
        found = {}
        for (depth, parent), label in self.other_labels.items():
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

    def _tie_out(self, reckoner: Reckoner, hidden_lines: int) -> TieOut:
        frame, main = reckoner.frame, reckoner.main
        deepest = frame.crossings[-1]
        groups = main.groups(deepest)
        on_sheet = len(groups.ids)
        steps = list(self.steps)
        fallen = main.fall(None)
        if on_sheet != fallen.count:
            steps.append(Step("on lines that are not kept", "keep", fallen.count - on_sheet))
        special = [_special_records(level, codes) for level, codes in zip((*self.down, *self.across), (*fallen.down, *fallen.across), strict=True)]
        footings = []
        for figure in self.report.figures:
            if isinstance(figure, Taken) and figure.take in ("sum", "count", "count_values"):
                footings.append(self._footing(reckoner, figure))
        return TieOut(
            self.report.source,
            self.material.records.count,
            self.material.refused,
            tuple(steps),
            on_sheet,
            int(np.logical_or.reduce([s[0] for s in special]).sum()) if special else 0,
            int(np.logical_or.reduce([s[1] for s in special]).sum()) if special else 0,
            tuple(footings),
            hidden_lines=hidden_lines,
            notes=tuple(self.notes),
        ).check()

    def _footing(self, reckoner: Reckoner, figure: Taken) -> Footing:
        """The figure's grand total taken at once, not by rolling up, and held against every depth."""
        take = TAKES[figure.take]
        assert isinstance(take, Additive)
        of, where = reckoner.taking(figure)
        groups = reckoner.main.groups(reckoner.frame.crossings[-1])
        once = Groups(np.zeros(len(groups.ids), dtype=np.int64), 1, groups.rows).where(where)
        direct = take.finish(take.parts(once, of), of)
        footed(figure.name, reckoner.cells(figure.name), reckoner.frame, direct)
        return Footing(figure.name, written(direct.item(0)) if direct.item(0) is not None else "")


def down_the_lines(reckoner: Reckoner, figure: Running, shown: Rows) -> Column:
    """A running figure down the lines as they are shown; a subtotal shows the value reached."""
    cells = reckoner.cells(figure.running)
    frame = reckoner.frame
    values, blank = cells.values.reshape(frame.shape), cells.blanks.reshape(frame.shape)
    result, none = np.zeros_like(values), np.ones(frame.shape, dtype=bool)
    lines = frame.lines
    depth = 0 if figure.restart == "never" else [level.name for level in lines.levels].index(figure.restart) + 1
    deepest = len(lines.levels)
    reached: dict[int, Any] = {}
    for line in shown.filled().tolist():
        if lines.depth[line] < deepest:
            continue
        above = [line]
        while lines.depth[above[-1]] > 0:
            above.append(int(lines.parent[above[-1]]))
        home = next(i for i in above if lines.depth[i] == depth)
        reached[home] = reached.get(home, 0) + np.where(blank[line], 0, values[line])
        for i in above:
            if lines.depth[i] >= depth:
                result[i], none[i] = reached[home], False
    return Column(cells.kind, result.reshape(-1), none.reshape(-1), cells.places)


def _positions(passing: Mask | None) -> Index | None:
    return None if passing is None else np.flatnonzero(passing)


def _held(level: Level, codes: NDArray[np.int32]) -> Mask:
    """Which members the sheet's records have."""
    found = np.zeros(level.size + 1, dtype=bool)
    found[codes] = True
    return found[:-1]


def _on_sheet_periods(held: Sequence[Mask], levels: Sequence[Level], codes: Sequence[NDArray[np.int32]], count: int) -> Index:
    """Positions of base records whose periods are among those that the sheet shows."""
    there = np.ones(count, dtype=bool)
    for mask, level, of_record in zip(held, levels, codes, strict=True):
        if level.period is not None and len(mask):
            there &= (of_record >= 0) & mask[np.maximum(of_record, 0)]
    return np.flatnonzero(there)


def _always(levels: Sequence[Level], held: Sequence[Mask]) -> Any:
    """Names the members shown though empty under each line: inner ranges, and gaps between periods that are held."""
    if all(level.members.always is None for level in levels):
        return None
    shown: list[Index] = []
    for level, mask in zip(levels, held, strict=True):
        codes = np.flatnonzero(level.members.always) if level.members.always is not None else np.zeros(0, dtype=np.int64)
        if level.period is not None and len(codes):
            there = np.flatnonzero(mask & level.members.always)
            codes = codes[(codes >= there[0]) & (codes <= there[-1])] if len(there) else codes[:0]
        shown.append(codes)

    def always(paths: NDArray[np.int32], k: int) -> tuple[Index, Index]:
        codes = shown[k]
        above = np.repeat(np.arange(len(paths)), len(codes))
        member = np.tile(codes, len(paths))
        fits = np.ones(len(member), dtype=bool)
        if levels[k].period is not None and levels[k].period.grouper.mode == "own":
            starts = levels[k].members.starts[member] if len(member) else member
            for j in range(k):
                if levels[j].period is not None and levels[j].entry == levels[k].entry:
                    fits &= levels[j].period.codes(starts, None) == paths[above, j]
        return above[fits], member[fits]

    return always


def _with_other(members: Members, at: int, label: str) -> Members:
    return Members(
        (*members.labels[:at], label, *members.labels[at:]),
        np.insert(members.special, at, OTHER),
        None if members.starts is None else np.insert(members.starts, at, np.iinfo(np.int64).min),
        None if members.always is None else np.insert(members.always, at, False),
        None if members.codes is None else (*members.codes[:at], label, *members.codes[at:]),
    )


def _moved_paths(lines: Axis, depth: int, shift: NDArray[np.int32]) -> list[NDArray[np.int32]]:
    paths = lines.path[lines.lines_at(depth)]
    return [*(paths[:, k] for k in range(depth - 1)), shift[paths[:, depth - 1]]]


def _first_of_label(members: Members) -> NDArray[np.int32]:
    """Each member's first namesake, so that lines under a merged line merge by label."""
    first: dict[str, int] = {}
    table = [first.setdefault(label, i) for i, label in enumerate(members.labels)]
    return np.array([*table, -1], dtype=np.int32)


def _depth_of(levels: Sequence[Level], entry: int, name: str | None) -> int:
    own = [k for k, level in enumerate(levels) if level.entry == entry and (name is None or level.name == name)]
    if not own:
        raise DefinitionError(f"order: the entry has no level {name!r}")
    return own[-1] + 1


def _at_total(reckoner: Reckoner, name: str, depth: int, column: int = 0) -> tuple[NDArray[Any], Mask]:
    values, blank = reckoner.matrix(name)
    here = reckoner.frame.lines.lines_at(depth)
    return values[here, column], blank[here, column]


def _column_at_total(reckoner: Reckoner, name: str, lines: slice) -> Column:
    cells = reckoner.cells(name)
    at = np.arange(lines.start, lines.stop) * reckoner.frame.columns.count
    return cells.take(at)


def _named_column(columns: Axis, labels: list[str] | None) -> int:
    if not labels:
        return 0
    for i in range(columns.count):
        path = [columns.levels[k].members.labels[columns.path[i, k]] for k in range(int(columns.depth[i]))]
        if path == labels:
            return i
    raise DefinitionError(f"order: there is no column {' › '.join(labels)}")


def _places(levels: Sequence[Level], inner: str, grand: str, by_name: Mapping[str, str]) -> Any:
    return lambda depth: grand if depth == 0 else by_name.get(levels[depth - 1].name, inner)


def _special_records(level: Level, codes: NDArray[np.int32]) -> tuple[Mask, Mask]:
    special = np.append(level.members.special, ORDINARY)[codes]
    return special == NOT_PLACED, special == BLANK


__all__ = ["FormulaFigure", "Material", "as_of_day", "day_of", "with_made_columns", "work_out"]
