"""Figures from figures: formulas, shares, ranks, running and moving figures, comparisons."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.balances import Balances
from kalendor.core.figures.compare import Bases, against
from kalendor.core.figures.moving import MovingAlong
from kalendor.core.figures.running import RunningAlong
from kalendor.core.figures.worked_lines import Working, filled
from kalendor.core.formulas.expressions import divides, names_in
from kalendor.core.formulas.formulas import Scope, evaluate, holds
from kalendor.core.groupings.levels import ORDINARY
from kalendor.core.placing.frame import Axis
from kalendor.core.placing.taking import taken
from kalendor.core.placing.views import View, Where
from kalendor.core.takes.aggregate import Of
from kalendor.core.takes.takes import COUNTING, SIGNED, what_of
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import NUMERIC, Array, Column, Kind, Mask
from kalendor.core.values.keys import Key, key
from kalendor.definitions.figure import (
    Compare,
    Figure,
    FormulaFigure,
    Moving,
    Rank,
    Running,
    Share,
    Taken,
    WithFigure,
    WithMember,
)
from kalendor.errors import DefinitionError

Cells = Column
Marks = NDArray[np.int8]
Index = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Reckoned:
    """A figure in every cell, shape (lines × columns,), with a mark in each; `zero_is_none`: a 0 stands for no record."""

    cells: Cells
    marks: Marks | None = None
    zero_is_none: bool = False


class Reckoner:
    """Works figures out, each once per view; `signs`, shape (n,), is −1 for records that count negative.

    `propped`, shape (lines,), is True for lines that stand only because others are made from them.
    """

    def __init__(
        self,
        figures: Sequence[Figure],
        main: View,
        bases: Bases,
        signs: NDArray[np.int8] | None = None,
        worked: Sequence[Working] = (),
        propped: Mask | None = None,
    ) -> None:
        self.figures: Mapping[str, Figure] = {figure.name: figure for figure in figures}
        self.frame, self.bases, self.main, self.worked = main.frame, bases, main, worked
        self.propped: Mask = np.zeros(main.frame.lines.count, dtype=bool) if propped is None else propped
        self._signs = signs
        self._kept: dict[tuple[str, Key], Reckoned] = {}
        self._wheres: dict[tuple[str | None, str | None], Where | None] = {}
        self._turned: dict[str, Column] = {}
        self._busy: list[str] = []

    def figure(self, name: str, view: View | None = None) -> Reckoned:
        """A figure in every cell of a view (the sheet itself, unless another is given).

        Raises DefinitionError for unknown names and for figures that rest on themselves.
        """
        view = view or self.main
        key = (name, view.key)
        if key not in self._kept:
            if name not in self.figures:
                raise DefinitionError(f"there is no figure named {name!r}; there are {', '.join(self.figures)}")
            if name in self._busy:
                raise DefinitionError(f"figure {name!r} rests on itself: {' → '.join([*self._busy, name])}")
            self.main.placer.ground.step()
            self._busy.append(name)
            try:
                self._kept[key] = self._with_lines(self.figures[name], self._worked_out(self.figures[name], view))
            except DefinitionError as error:
                if str(error).startswith("figure "):
                    raise
                raise DefinitionError(f"figure {name!r}: {error}") from None
            finally:
                self._busy.pop()
        return self._kept[key]

    def cells(self, name: str, view: View | None = None) -> Cells:
        """The numbers alone."""
        return self.figure(name, view).cells

    def matrix(self, name: str) -> tuple[Array, Mask]:
        """Values and blanks, shape (lines, columns) each."""
        cells = self.cells(name)
        return cells.values.reshape(self.frame.shape), cells.blanks.reshape(self.frame.shape)

    def taking(self, figure: Taken) -> tuple[Of, Where | None]:
        """What a figure takes, and which of all records: by its own condition, and by its source where several stand
        beside each other."""
        ground = self.main.placer.ground
        own = (figure.source, figure.where)
        if own not in self._wheres:
            self._wheres[own] = self._where(figure)
        if self._signs is None or figure.take not in SIGNED:
            return what_of(figure, ground.column, ground.value_order), self._wheres[own]
        of = what_of(figure, ground.column)
        return replace(of, column=self._signed(figure.of or ""), column_key=key("turned", figure.of)), self._wheres[own]

    def _where(self, figure: Taken) -> Where | None:
        ground = self.main.placer.ground
        mask: Mask | None = None
        if figure.where is not None:
            mask = holds(figure.where, Scope(ground.records.columns, ground.records.count, ground.as_of))
        if ground.origin is not None:
            there = ground.origin.taken_from(figure.source)
            mask = there if mask is None else mask & there
        elif figure.source is not None:
            raise DefinitionError(
                f'the source {figure.source!r} does not stand beside the report\'s own; name it under "beside"'
            )
        return None if mask is None else Where(ground.key("where", figure.source, figure.where, ground.as_of), mask)

    def _signed(self, name: str) -> Column:
        """A number column with the amounts of categories that count negative turned."""
        column = self.main.placer.ground.column(name)
        if column.kind not in NUMERIC or self._signs is None:
            return column
        if name not in self._turned:
            self._turned[name] = replace(column, values=column.values * self._signs)
        return self._turned[name]

    def _with_lines(self, figure: Figure, found: Reckoned) -> Reckoned:
        """The figure with its worked-out lines filled; figures from figures have theirs from those of the figures."""
        if not self.worked or not isinstance(figure, Taken | Running | Moving) or found.cells.kind not in NUMERIC:
            return found
        as_of = self.main.placer.ground.as_of
        adds_up = found.zero_is_none or self.adds_up(figure.moving if isinstance(figure, Moving) else figure.name)
        cells = filled(found.cells, self.frame, self.worked, adds_up, as_of)
        return replace(found, cells=cells)

    def _worked_out(self, figure: Figure, view: View) -> Reckoned:
        match figure:
            case Taken():
                if figure.take == "balance":
                    return Reckoned(Balances(self, figure, view).cells())
                of, where = self.taking(figure)
                return Reckoned(taken(figure.take, of, where, view), zero_is_none=figure.take in COUNTING)
            case FormulaFigure():
                return Reckoned(self._formula(figure, view))
            case Share():
                return Reckoned(self._share(figure, view))
            case Rank():
                return Reckoned(self._rank(figure, view))
            case Running():
                if figure.along == "lines":
                    return Reckoned(
                        ar.exact(
                            np.zeros(self.frame.shape, np.int64).reshape(-1),
                            np.ones(self.frame.shape, bool).reshape(-1),
                            0,
                        )
                    )
                return Reckoned(RunningAlong(self, view, figure.along).running(figure))
            case Moving():
                return Reckoned(MovingAlong(self, view, None).moving(figure))
            case Compare():
                return self._compare(figure, view)

    def _formula(self, figure: FormulaFigure, view: View) -> Cells:
        return evaluate(figure.formula, self._scope(figure, view))

    def _scope(self, figure: FormulaFigure, view: View) -> Scope:
        height, width = self.frame.shape
        columns = {}
        for name in names_in(figure.formula):
            known = self.known(name)
            if known is not None:
                columns[known] = self.cells(known, view)
        return Scope(
            columns or {n: _nothing(height * width) for n in self.figures}, height * width, view.placer.ground.as_of
        )

    def known(self, name: str) -> str | None:
        """The figure that a name in a formula means, whatever its case; None for AS_OF.

        Raises DefinitionError where there is none of that name.
        """
        if name in self.figures:
            return name
        alike = [known for known in self.figures if known.casefold() == name.casefold()]
        if len(alike) == 1:
            return alike[0]
        if name.upper() == "AS_OF":
            return None
        raise DefinitionError(f"there is no figure named {name!r}; there are {', '.join(self.figures)}")

    def _share(self, figure: Share, view: View) -> Cells:
        cells = self._numbers(figure.share, view)
        height, width = self.frame.shape
        lines, columns = np.meshgrid(np.arange(height), np.arange(width), indexing="ij")
        lines, columns = whole_of(figure, self.frame.lines, lines, columns)
        whole = cells.take((lines * width + columns).reshape(-1))
        return ar.divide(cells, whole)

    def _numbers(self, name: str, view: View) -> Cells:
        cells = self.cells(name, view)
        if cells.kind not in NUMERIC:
            raise DefinitionError(f"{name!r} is {cells.kind.value}, not a number")
        return cells

    def _rank(self, figure: Rank, view: View) -> Cells:
        cells = self._numbers(figure.rank, view)
        height, width = self.frame.shape
        stand, lie = self.frame.lines, self.frame.columns
        if not stand.levels and lie.levels:
            group = np.broadcast_to(lie.parent if figure.within == "parent" else lie.depth, (height, width))
        else:
            of_line = stand.parent if figure.within == "parent" else stand.depth
            group = of_line[:, None] * width + np.arange(width)[None, :]
        values = cells.values if cells.values.dtype == object else cells.values.astype(cells.values.dtype)
        keyed = -values if figure.largest_first else values
        competing = np.repeat(_competing(stand) & ~self.propped, width)
        if not stand.levels:
            competing = np.tile(_competing(lie), height)
        there = np.flatnonzero(cells.present & competing)
        group = group.reshape(-1)[there]
        order = np.lexsort((_sortable(keyed[there]), group))
        place = np.empty(len(there), dtype=np.int64)
        sorted_group, sorted_values = group[order], keyed[there][order]
        fresh = np.ones(len(there), dtype=bool)
        fresh[1:] = (sorted_group[1:] != sorted_group[:-1]) | (sorted_values[1:] != sorted_values[:-1])
        opened = np.ones(len(there), dtype=bool)
        opened[1:] = sorted_group[1:] != sorted_group[:-1]
        at = np.arange(len(there))
        first_of_value = np.maximum.accumulate(np.where(fresh, at, 0)) if len(at) else at
        first_of_group = np.maximum.accumulate(np.where(opened, at, 0)) if len(at) else at
        place[order] = first_of_value - first_of_group + 1
        ranks = np.zeros(height * width, dtype=np.int64)
        ranks[there] = place
        return ar.exact(ranks, cells.blanks | ~competing, 0)

    def _compare(self, figure: Compare, view: View) -> Reckoned:
        additive = self.adds_up(figure.compare)
        zero_is_none = self.figure(figure.compare, view).zero_is_none
        if isinstance(figure.with_, WithFigure):
            value, base = self._numbers(figure.compare, view), self._numbers(figure.with_.figure, view)
            return Reckoned(*against(figure.as_, value, base, None, additive, zero_is_none=False))
        if isinstance(figure.with_, WithMember):
            value = self._numbers(figure.compare, view)
            base, has_base = self.bases.member(value, figure.with_.member)
            return Reckoned(*against(figure.as_, value, base, has_base, additive, zero_is_none=False))
        if view.key != self.main.key:
            raise DefinitionError("a comparison with an earlier period cannot itself be compared or moved back")
        if self.bases.dateless:
            return Reckoned(_nothing(self.frame.shape[0] * self.frame.shape[1]))
        shift = self.bases.shift_of(figure)
        value = self._numbers(figure.compare, self.bases.value_view(figure.to_date))
        base = self._numbers(figure.compare, self.bases.base_view(shift, figure.to_date))
        has_base = self.bases.has_base(shift, figure.to_date)
        cells, marks = against(figure.as_, value, base, has_base, additive, zero_is_none)
        return Reckoned(cells, marks, zero_is_none and figure.as_ in ("base", "difference"))

    def approximate(self, name: str) -> bool:
        """True for a figure that rests on amounts kept as float64, or whose formula passed the exact numbers.

        A mean, a share or a ratio of exact amounts is divided once from them, and is not marked.
        """
        figure = self.figures.get(name)
        match figure:
            case Taken():
                if figure.take in COUNTING:
                    return False
                columns = [n for n in (figure.of, figure.weight) if n is not None]
                return any(self.main.placer.ground.column(n).kind is Kind.APPROXIMATE for n in columns)
            case FormulaFigure():
                named = [known for n in names_in(figure.formula) if (known := self.known(n)) is not None]
                inexact = self.cells(name).kind is Kind.APPROXIMATE and not divides(figure.formula)
                return inexact or any(self.approximate(n) for n in named)
            case Compare():
                other = figure.with_.figure if isinstance(figure.with_, WithFigure) else figure.compare
                return self.approximate(figure.compare) or self.approximate(other)
            case Share():
                return self.approximate(figure.share)
            case Running():
                return self.approximate(figure.running)
            case Moving():
                return self.approximate(figure.moving)
        return False

    def percent(self, name: str) -> bool:
        """True for figures that are best read as percentages: shares, changes, and amounts of such a column."""
        figure = self.figures.get(name)
        match figure:
            case Taken():
                known = self.main.placer.ground.records.columns.get(figure.of or "")
                return known is not None and known.percent and figure.take not in COUNTING
            case Compare():
                return figure.as_ == "percent" or (figure.as_ != "index" and self.percent(figure.compare))
            case Running():
                return self.percent(figure.running)
            case Moving():
                return self.percent(figure.moving)
        return isinstance(figure, Share)

    def adds_up(self, name: str) -> bool:
        """True for sums and counts, whose missing side counts as 0 in a difference."""
        figure = self.figures.get(name)
        if isinstance(figure, Taken):
            return figure.take in ("sum", "count", "count_values")
        return isinstance(figure, Running) and self.adds_up(figure.running)


def _competing(axis: Axis) -> Mask:
    """Shape (lines,): True for lines that are ranked: ordinary members, no totals and no special lines."""
    result = np.zeros(axis.count, dtype=bool)
    for k, level in enumerate(axis.levels):
        here = axis.lines_at(k + 1)
        result[here] = level.members.special[axis.path[here, k]] == ORDINARY
    return result


def _sortable(values: Array) -> Array:
    return values if values.dtype != object else np.argsort(np.argsort(values, kind="stable"), kind="stable")


def whole_of(figure: Share, stand: Axis, lines: Index, columns: Index) -> tuple[Index, Index]:
    """The line and the column of the total that each cell is a share of."""
    if figure.of_total in ("all", "column"):
        lines = np.zeros_like(lines)
    elif figure.of_total == "parent":
        lines = np.maximum(stand.parent, 0)[lines]
    if figure.of_total in ("all", "line"):
        columns = np.zeros_like(columns)
    return lines, columns


def _nothing(count: int) -> Column:
    return Column(Kind.WHOLE, np.zeros(count, dtype=np.int64), np.ones(count, dtype=bool))
