"""A plan: a report resolved once against its material into levels, screening, lines and columns, and figures.

Plans are cached; a sheet and the trails of its numbers are computed from the same plan.
"""

import itertools
import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import partial

import numpy as np

from kalendor.core.figures.bases import Bases, shift_of
from kalendor.core.figures.family import kind_of
from kalendor.core.figures.reckoner import Reckoner
from kalendor.core.figures.worked_lines import idle, shown_too, with_operands, with_worked, workings
from kalendor.core.groupings.entries import Grouped, grouped
from kalendor.core.groupings.ground import Ground
from kalendor.core.groupings.levels import Level
from kalendor.core.placing.beside import laid_beside
from kalendor.core.placing.frame import Frame, axis
from kalendor.core.placing.laying import Base, Laid, check_size, laid
from kalendor.core.placing.made_columns import with_made
from kalendor.core.placing.material import Material, as_of_day
from kalendor.core.placing.placer import Placer
from kalendor.core.placing.screening import Screening, screened
from kalendor.core.placing.views import View
from kalendor.core.placing.windows import DayMap
from kalendor.core.sheet.folds import Folded, folded_away, hidden_rest, not_kept, top_folded, tops
from kalendor.core.takes.units import Coded, coded, units_in
from kalendor.core.values.columns import Column, Mask, Records
from kalendor.core.values.keys import NO_KEY, Key, Memo, forget, key, local
from kalendor.core.values.origin import Origin
from kalendor.definitions.axis import Entry
from kalendor.definitions.figure import Compare, with_earlier_periods
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError


@dataclass(frozen=True)
class Hidden:
    """Lines that are not shown, and how many of those hidden by `keep` still count in totals."""

    lines: Mask
    counted: int


@dataclass(frozen=True, eq=False)
class Plan:
    """A report on its lines and columns: `folded` are its levels after tops and `keep`, `reckoner` computes each figure
    once; `unshown` members of bases have no line of their own; `compared` are the figures that compare with an earlier
    period.

    `lock` must be held while a sheet or a trail is computed from the plan, which caches intermediate results.
    """

    report: Report
    material: Material
    ground: Ground
    sides: Grouped
    screening: Screening
    folded: Folded
    reckoner: Reckoner
    hidden: Hidden
    unshown: int
    compared: list[Compare]
    lock: threading.RLock = field(default_factory=threading.RLock)

    def tops(self, down: bool) -> list[tuple[int, Entry]]:
        """The entries of an axis that keep the first few, with the depth of each."""
        return _tops(self.report, self.folded, down)


def planned(
    report: Report,
    material: Material,
    today: date,
    as_of: date | None = None,
    memo: Memo = forget,
) -> Plan:
    """The plan of a report.

    Raises DefinitionError for anything that the report refers to and the material lacks.
    """
    return _Planning(report, material, grounded(report, material, today, as_of, memo)).settled()


def grounded(
    report: Report,
    material: Material,
    today: date,
    as_of: date | None = None,
    memo: Memo = forget,
) -> Ground:
    """What the levels of a report are computed from: the records with made columns, and those of sources beside
    appended."""
    _check_names(report)
    made = _made(report, material)
    day = as_of_day(report, made.own, today, as_of)
    stamp = key("records", material.stamp, report.columns, report.beside)
    several = _of_several(made.records, made.units, lambda name, make: memo(key("units", stamp, name), make))
    return Ground(
        made.records, material.groupings, day, memo, stamp, made.origin, several, material.condensed, made.units
    )


@dataclass(frozen=True, eq=False)
class _Made:
    """The records with made columns and those of sources beside, the report's own alone, their origin and units."""

    records: Records
    own: Records
    origin: Origin | None
    units: Mapping[str, Column]


def _made(report: Report, material: Material) -> _Made:
    condensed, others = material.condensed, material.looked_up or {}
    if condensed is not None:
        return _Made(material.records, material.records, condensed.origin, condensed.units)
    records = with_made(material.records, report.columns, others)
    if not report.beside:
        return _Made(records, records, None, units_in(records))
    if material.part:  # names and kinds of their columns, without a record
        nothing = np.zeros(0, dtype=np.int64)
        others = {name: other.take(nothing) for name, other in others.items()}
    beside = laid_beside(records, report.beside, others)
    return _Made(beside.records, records, beside.origin, beside.units)


def _of_several(
    records: Records, units: Mapping[str, Column], memo: Callable[[str, Callable[[], Coded | None]], Coded | None]
) -> dict[str, Coded]:
    """The units of those amount columns that have more than one, each cached."""
    found = {name: memo(name, partial(coded, records.columns[name], own)) for name, own in units.items()}
    return {name: one for name, one in found.items() if one is not None}


def _check_names(report: Report) -> None:
    seen: dict[str, str] = {figure.name: "figure" for figure in report.figures}
    for entry in report.entries:
        for name in entry.default_names() or ():
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


class _Planning:
    """The resolution of one report into a plan."""

    def __init__(self, report: Report, material: Material, ground: Ground) -> None:
        self.report, self.material, self.ground = report, material, ground
        self.sides: Grouped = grouped(ground, report.down, report.across)
        self.screening: Screening = screened(report, ground, self.sides.open_items)
        down = with_worked(self.sides.down, report.lines)
        _check_levels(report, down, self.sides.across)
        self.folded = Folded(down, self.sides.across)
        self.compared = [] if self.screening.era is None else with_earlier_periods(report.figures)
        self.unshown = 0

    def settled(self) -> Plan:
        """The plan with the lines as they are after tops and `keep`."""
        for down in (True, False):
            for depth, entry in _tops(self.report, self.folded, down):
                self.folded = top_folded(self.folded, self._reckoner(), down, depth, entry)
        reckoner = self._reckoner()
        hidden = self._hidden(reckoner)
        if self.report.keep and self.report.totals.totals == "kept":
            self.folded = folded_away(self.folded, self.report.keep, reckoner.frame.lines, hidden.lines)
            reckoner = self._reckoner()
            hidden = Hidden(self._unseen(reckoner), 0)
        parts = (self.ground, self.sides, self.screening, self.folded)
        return Plan(self.report, self.material, *parts, reckoner, hidden, self.unshown, self.compared)

    def _reckoner(self) -> Reckoner:
        """Computes figures on the frame of the levels as folded so far."""
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
        """The key of the lines, the columns and the records on them, unless folded lines depend on figures."""
        compared = [(f.with_, f.to_date) for f in self.compared]
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
        """Whether some lines are computed from others whose figures have values without records of their own."""
        return bool(self.report.lines) and any(kind_of(f).reaches_back(f) for f in self.report.figures)

    def _laid(self, placer: Placer) -> Laid:
        bases = [base for figure in self.compared for base in self._bases(figure, placer)]
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
        """A comparison's base, computed once for all crossings at which its days are the same."""
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
        down = places(placer.down, totals.down, totals.grand_down, totals.levels)
        across = places(placer.across, totals.across, totals.grand_across, totals.levels)
        sides = ((down, len(placer.down)), (across, len(placer.across)))
        shown = [
            np.array([depth == last or place(depth) != "none" for depth in range(last + 1)]) for place, last in sides
        ]
        return shown[0], shown[1]

    def _hidden(self, reckoner: Reckoner) -> Hidden:
        return Hidden(*not_kept(self.report.keep, reckoner, self._unseen(reckoner), self.ground.as_of))

    def _unseen(self, reckoner: Reckoner) -> Mask:
        """Lines that are hidden independently of `keep`."""
        lines = reckoner.frame.lines
        return hidden_rest(lines, _tops(self.report, self.folded, True)) | idle(
            lines, reckoner.worked, reckoner.propped
        )


def _tops(report: Report, folded: Folded, down: bool) -> list[tuple[int, Entry]]:
    return tops(folded, report.down if down else report.across, down)


def places(levels: Sequence[Level], inner: str, grand: str, by_name: Mapping[str, str]) -> Callable[[int], str]:
    """Where the totals of each depth of an axis are shown: `grand` for the whole, `by_name` for single levels."""
    return lambda depth: grand if depth == 0 else by_name.get(levels[depth - 1].name, inner)
