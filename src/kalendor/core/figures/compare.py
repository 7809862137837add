"""Comparisons: a figure beside its base."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.bases import GONE, NEW, NOT_MEANINGFUL
from kalendor.core.figures.kind import FigureKind, Made, Reckoned, Reckoning, Tracing, nothing
from kalendor.core.figures.operand import Operand
from kalendor.core.figures.units import Units, together
from kalendor.core.placing.views import View
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import Column, Mask
from kalendor.definitions.figure import Back, Compare, WithFigure, WithMember
from kalendor.errors import DefinitionError

WAYS = {"base": "the base itself", "difference": "the difference", "percent": "the change as a percentage of the base",
        "index": "an index on which the base is 100"}  # fmt: skip


class Comparison(FigureKind[Compare]):
    """A compared pair, shown as its base, its difference, a percentage or an index."""

    name = "compare"
    model = Compare

    def needs(self, figure: Compare) -> tuple[str, ...]:
        return (figure.compare, *([figure.with_.figure] if isinstance(figure.with_, WithFigure) else []))

    def counts_days(self, figure: Compare) -> bool:
        return figure.with_period

    def cells(self, figure: Compare, reckoning: Reckoning, view: View) -> Reckoned:
        bases, additive = reckoning.bases, reckoning.adds_up(figure.compare)
        if not figure.with_period:
            value = reckoning.numbers(figure.compare, view)
            has_base: Mask | None = None
            if isinstance(figure.with_, WithFigure):
                base = reckoning.numbers(figure.with_.figure, view)
            else:
                base, has_base = bases.member(value, _member(figure))
            return Reckoned(*_against(figure.as_, value, base, has_base, additive, zero_is_none=False))
        zero_is_none = reckoning.figure(figure.compare, view).zero_is_none
        if view.key != reckoning.main.key:
            raise DefinitionError("a comparison with an earlier period cannot itself be compared or moved back")
        if bases.dateless:
            return Reckoned(nothing(reckoning.frame.shape[0] * reckoning.frame.shape[1]))
        shift = bases.shift_of(figure)
        value = reckoning.numbers(figure.compare, bases.value_view(figure.to_date))
        base = reckoning.numbers(figure.compare, bases.base_view(shift, figure.to_date))
        has_base = bases.has_base(shift, figure.to_date)
        cells, marks = _against(figure.as_, value, base, has_base, additive, zero_is_none)
        return Reckoned(cells, marks, zero_is_none and figure.as_ in ("base", "difference"))

    def units(self, figure: Compare, reckoning: Reckoning, view: View) -> Units | None:
        base = self._base_units(figure, reckoning, view)
        if figure.as_ == "base":
            return base
        value_view = reckoning.bases.value_view(figure.to_date) if figure.with_period else view
        return together([reckoning.units(figure.compare, value_view), base])

    def _base_units(self, figure: Compare, reckoning: Reckoning, view: View) -> Units | None:
        bases = reckoning.bases
        if isinstance(figure.with_, WithFigure):
            return reckoning.units(figure.with_.figure, view)
        if not figure.with_period:
            own, home = reckoning.units(figure.compare, view), bases.member_lines(_member(figure))
            width = reckoning.frame.columns.count
            cells = (np.maximum(home, 0)[:, None] * width + np.arange(width)).reshape(-1)
            return own and own.at(cells, np.repeat(home >= 0, width))
        shift = bases.shift_of(figure)
        found = reckoning.units(figure.compare, bases.base_view(shift, figure.to_date))
        return found and found.at(np.arange(len(found.least)), bases.has_base(shift, figure.to_date))

    def operand(self, figure: Compare, tracing: Tracing, own: Operand, view: View) -> Operand:
        value, base = self._pair(figure, tracing, own, view)
        return replace(own, of=(value.named("value"), base.named("base")))

    def _pair(self, figure: Compare, tracing: Tracing, own: Operand, view: View) -> tuple[Operand, Operand]:
        bases, line, column = tracing.reckoning.bases, own.line, own.column
        if not figure.with_period or bases.dateless:
            value = tracing.of(figure.compare, view, line, column)
            if isinstance(figure.with_, WithFigure):
                return value, tracing.of(figure.with_.figure, view, line, column)
            home = int(bases.member_lines(_member(figure))[line]) if not figure.with_period else -1
            return value, tracing.of(figure.compare, view, home, column) if home >= 0 else value.none()
        shift = bases.shift_of(figure)
        value = tracing.of(figure.compare, bases.value_view(figure.to_date), line, column)
        has = bases.has_base_at(shift, figure.to_date, tracing.crossing(own))
        base_view = bases.base_view(shift, figure.to_date)
        there = bool(has[tracing.place(own)])
        return value, tracing.of(figure.compare, base_view, line, column) if there else value.none(base_view)

    def percent(self, figure: Compare, reckoning: Reckoning) -> bool:
        return figure.as_ == "percent" or (figure.as_ != "index" and reckoning.percent(figure.compare))

    def signed(self, figure: Compare) -> bool:
        return figure.as_ in ("percent", "difference")

    def rests_on_others(self, figure: Compare) -> bool:
        return isinstance(figure.with_, WithMember)

    def told(self, figure: Compare, made: Made) -> list[str]:
        pair = f"{figure.compare} is {made.parts['value']}, against {made.parts['base']} for {based_on(figure)}"
        return [f"{pair}; shown is {WAYS[figure.as_]}."]

    def why_blank(self, figure: Compare) -> str:
        return "there is nothing to compare with here, for the records begin later, or the period has not begun"


def based_on(figure: Compare) -> str:
    """The base of a comparison in words, as `a year earlier`."""
    match figure.with_:
        case Back(back=count, grain=grain):
            return f"{count} {grain}{'' if count == 1 else 's'} back"
        case WithFigure(figure=other) | WithMember(member=other):
            return other
        case "year_earlier":
            return "a year earlier"
        case _:
            return "the period before"


def none_to_compare_with(figure: Compare) -> str:
    """The words for a comparison without a base, as `with nothing a year earlier to compare it with`."""
    within = "" if isinstance(figure.with_, Back) or figure.with_ == "year_earlier" else "in "
    return f"with nothing {within}{based_on(figure)} to compare it with"


def _member(figure: Compare) -> str:
    assert isinstance(figure.with_, WithMember)
    return figure.with_.member


def _against(
    as_: str, value: Column, base: Column, has_base: Mask | None, additive: bool, zero_is_none: bool
) -> tuple[Column, NDArray[np.int8]]:
    """A compared pair for every cell, and a mark for each.

    `has_base`, shape (n,), is False where there is nothing to compare with (None: there always is); missing `additive`
    sides count as 0; with `zero_is_none` a 0 is a missing side.
    """
    none = np.zeros(len(value), dtype=bool) if has_base is None else ~has_base
    no_value, no_base = value.blanks, base.blanks
    if zero_is_none:
        no_value, no_base = no_value | (value.values == 0), no_base | (base.values == 0)
    marks = np.zeros(len(value), dtype=np.int8)
    if as_ == "base":
        return replace(base, blank=base.blanks | none, percent=False), marks
    if as_ == "difference":
        if additive:
            found = ar.subtract(_zero_where_blank(value), _zero_where_blank(base))
            return replace(found, blank=(no_value & no_base) | none), marks
        found = ar.subtract(value, base)
        return replace(found, blank=found.blanks | none), marks
    low = ~no_base & (base.floats() <= 0)
    marks[~no_value & no_base & ~none] = NEW
    marks[no_value & ~no_base & ~none] = GONE
    marks[~no_value & low & ~none] = NOT_MEANINGFUL
    top = ar.subtract(value, base) if as_ == "percent" else value
    ratio = ar.divide(top, base)
    values = ratio.floats() * (1.0 if as_ == "percent" else 100.0)
    return ar.approximate(values, no_value | no_base | low | none), marks


def _zero_where_blank(column: Column) -> Column:
    if column.blank is None:
        return column
    return replace(column, values=np.where(column.blank, 0, column.values), blank=None)
