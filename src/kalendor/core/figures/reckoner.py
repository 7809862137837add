"""Computes figures: each once per view, by its kind."""

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.bases import Bases
from kalendor.core.figures.family import kind_of
from kalendor.core.figures.kind import Over, Reckoned, marked_mixed
from kalendor.core.figures.takings import Takings, naming_in_errors
from kalendor.core.figures.units import Telling, Units, telling
from kalendor.core.figures.worked_lines import Working, filled
from kalendor.core.groupings.ground import Ground
from kalendor.core.placing.views import View, Where
from kalendor.core.takes.aggregate import Of
from kalendor.core.values.columns import NUMERIC, Array, Column, Mask
from kalendor.core.values.interruption import go_on
from kalendor.core.values.keys import Key
from kalendor.definitions.figure import FigureBase, Taken
from kalendor.errors import DefinitionError


class Reckoner:
    """Computes figures, each once per view; `signs`, shape (n,), is −1 for records that count negative.

    `propped`, shape (lines,), is True for lines that exist only because others are computed from them.
    """

    def __init__(
        self,
        figures: Sequence[FigureBase],
        main: View,
        bases: Bases,
        signs: NDArray[np.int8] | None = None,
        worked: Sequence[Working] = (),
        propped: Mask | None = None,
    ) -> None:
        self.figures: Mapping[str, FigureBase] = {figure.name: figure for figure in figures}
        self.frame, self.bases, self.main, self.worked = main.frame, bases, main, worked
        self.propped: Mask = np.zeros(main.frame.lines.count, dtype=bool) if propped is None else propped
        self._kept: dict[tuple[str, Key], Reckoned] = {}
        self._units: dict[tuple[str, Key], Units | None] = {}
        self._telling = {f.name: telling(f, main.placer.ground.units) for f in figures}
        self._tellers = {t.name: t for several in self._telling.values() for one in several for t in one.figures}
        self._takings = Takings(main.placer.ground, signs, self._tellers)
        self._busy: list[str] = []

    def shown(self, name: str, view: View | None = None) -> Reckoned:
        """A figure in every cell of a view, blank and marked where it would mix amounts of several units."""
        found, units = self.figure(name, view), self.units(name, view)
        return found if units is None or not units.mixed.any() else marked_mixed(found, units)

    def figure(self, name: str, view: View | None = None) -> Reckoned:
        """A figure in every cell of a view (default: the sheet itself), ignoring units.

        Raises DefinitionError for unknown names and for figures that depend on themselves.
        """
        view = view or self.main
        key = (name, view.key)
        if key not in self._kept:
            figure = self._one(name)
            go_on()
            with self._working(name):
                self._kept[key] = self._worked_out(figure, view)
        return self._kept[key]

    def units(self, name: str, view: View | None = None) -> Units | None:
        """The units of the amounts behind a figure in every cell of a view; None if they have none."""
        view = view or self.main
        if not self._tellers or name in self._tellers:
            return None
        own = (name, view.key)
        if own not in self._units:
            kind = kind_of(self._one(name))
            found = kind.units(self._one(name), self, view)
            if found is not None and kind.filled_by_lines:
                found = found.with_worked(self.frame, self.worked)
            self._units[own] = found
        return self._units[own]

    def telling(self, name: str) -> list[Telling]:
        """The figures from which the units of a figure, and of all that it is made from, are computed."""
        if not self._tellers:
            return []
        figure = self._one(name)
        needed = [known for one in kind_of(figure).needs(figure) if (known := self.known(one)) is not None]
        return [*self._telling[name], *(found for one in needed for found in self.telling(one))]

    def _one(self, name: str) -> FigureBase:
        if name in self._tellers:
            return self._tellers[name]
        if name not in self.figures:
            raise DefinitionError(f"there is no figure named {name!r}; there are {', '.join(self.figures)}")
        return self.figures[name]

    @contextmanager
    def _working(self, name: str) -> Iterator[None]:
        """Context that detects figures which depend on themselves; errors within name the figure."""
        if name in self._busy:
            raise DefinitionError(f"figure {name!r} rests on itself: {' → '.join([*self._busy, name])}")
        self._busy.append(name)
        try:
            with naming_in_errors(name):
                yield
        finally:
            self._busy.pop()

    def over(self, name: str, groups: Over) -> Column:
        """A figure over groups of records."""
        figure = self._one(name)
        with self._working(name):
            return kind_of(figure).over(figure, self, groups)

    @property
    def ground(self) -> Ground:
        """The records and groupings."""
        return self.main.placer.ground

    def cells(self, name: str, view: View | None = None) -> Column:
        """The numbers alone."""
        return self.figure(name, view).cells

    def numbers(self, name: str, view: View | None = None) -> Column:
        """The numbers of a numeric figure.

        Raises DefinitionError if it is not numeric.
        """
        cells = self.cells(name, view)
        if cells.kind not in NUMERIC:
            raise DefinitionError(f"{name!r} is {cells.kind.value}, not a number")
        return cells

    def matrix(self, name: str) -> tuple[Array, Mask]:
        """Values and blanks as shown, shape (lines, columns) each."""
        cells = self.shown(name).cells
        return cells.values.reshape(self.frame.shape), cells.blanks.reshape(self.frame.shape)

    def taking(self, figure: Taken) -> tuple[Of, Where | None]:
        """What a figure takes, and of which records: by its own condition, and by its source if there are several."""
        return self._takings.of(figure)

    def _worked_out(self, figure: FigureBase, view: View) -> Reckoned:
        """The figure with its computed lines filled; figures made from figures get theirs from the computed lines of
        those."""
        kind = kind_of(figure)
        found = kind.cells(figure, self, view)
        if (
            not self.worked
            or not kind.filled_by_lines
            or figure.name in self._tellers
            or found.cells.kind not in NUMERIC
        ):
            return found
        adds_up = kind.lines_add_up(figure, self)
        return replace(found, cells=filled(found.cells, self.frame, self.worked, adds_up, self.ground.as_of))

    def known(self, name: str) -> str | None:
        """The figure that a name in a formula refers to, ignoring case; None for AS_OF.

        Raises DefinitionError if there is none of that name.
        """
        if name in self.figures:
            return name
        alike = [known for known in self.figures if known.casefold() == name.casefold()]
        if len(alike) == 1:
            return alike[0]
        if name.upper() == "AS_OF":
            return None
        raise DefinitionError(f"there is no figure named {name!r}; there are {', '.join(self.figures)}")

    def approximate(self, name: str) -> bool:
        """True for a figure that depends on amounts stored as float64, or whose formula exceeded the exact range.

        A mean, a share or a ratio of exact amounts is divided once from them, and is not marked.
        """
        return kind_of(self.figures[name]).approximate(self.figures[name], self)

    def percent(self, name: str) -> bool:
        """True for figures best shown as percentages: shares, changes, and amounts of such a column."""
        return name in self.figures and kind_of(self.figures[name]).percent(self.figures[name], self)

    def adds_up(self, name: str) -> bool:
        """True for sums and counts, whose missing side counts as 0 in a difference."""
        return name in self.figures and kind_of(self.figures[name]).adds_up(self.figures[name], self)
