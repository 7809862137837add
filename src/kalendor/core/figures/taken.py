"""Figures taken from records."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.balances import Balances, only_counted
from kalendor.core.figures.kind import FigureKind, Made, Over, Reckoned, Reckoning, Tracing
from kalendor.core.figures.operand import RECORDS, Operand
from kalendor.core.figures.units import Units, together
from kalendor.core.placing.taking import taken
from kalendor.core.placing.views import View
from kalendor.core.takes.takes import TAKES
from kalendor.core.values.columns import Column, Kind
from kalendor.definitions.figure import Taken

Index = NDArray[np.int64]
WORDS = {
    "sum": "Sum of {of}", "count": "Count", "count_values": "Count of the non-blank values of {of}",
    "distinct": "Count of the different values of {of}", "mean": "Average of {of}",
    "weighted_mean": "Average of {of} weighted by {weight}", "median": "Median of {of}",
    "percentile": "Percentile {p:g} of {of}", "nth_largest": "Number {n} of the largest values of {of}",
    "nth_smallest": "Number {n} of the smallest values of {of}", "min": "Minimum of {of}", "max": "Maximum of {of}",
    "variance": "Variance of {of}", "stdev": "Standard deviation of {of}", "variance_pop": "Population variance of {of}",
    "stdev_pop": "Population standard deviation of {of}", "first": "First value of {of} by {by}",
    "last": "Last value of {of} by {by}", "balance": "Closing balance of {of} by {by}{carried}",
}  # fmt: skip


class TakenKind(FigureKind[Taken]):
    """A take of a column's values."""

    name = RECORDS
    model = Taken
    filled_by_lines = True

    def cells(self, figure: Taken, reckoning: Reckoning, view: View) -> Reckoned:
        if figure.take == "balance":
            return Reckoned(Balances(reckoning, figure, view).cells())
        of, where = reckoning.taking(figure)
        return Reckoned(taken(figure.take, of, where, view), zero_is_none=TAKES[figure.take].counts)

    def units(self, figure: Taken, reckoning: Reckoning, view: View) -> Units | None:
        return together(one.units(lambda name: reckoning.cells(name, view)) for one in reckoning.telling(figure.name))

    def over(self, figure: Taken, reckoning: Reckoning, groups: Over) -> Column:
        return groups.take(figure)

    def operand(self, figure: Taken, tracing: Tracing, own: Operand, view: View) -> Operand:
        rows = _rows(figure, tracing, own, view)
        if figure.take == "balance":
            return _balance(figure, tracing, own, rows, view)
        return self.operand_over(figure, tracing, own, rows)

    def operand_over(self, figure: Taken, tracing: Tracing, own: Operand, rows: Index) -> Operand:
        of, where = tracing.reckoning.taking(figure)
        picked = rows if where is None else rows[where.mask[rows]]
        return replace(own, kind=RECORDS, rows=picked, amounts=TAKES[figure.take].gives(picked, of))

    def adds_up(self, figure: Taken, reckoning: Reckoning) -> bool:
        return TAKES[figure.take].adds_up

    def lines_add_up(self, figure: Taken, reckoning: Reckoning) -> bool:
        return TAKES[figure.take].adds_up or TAKES[figure.take].counts

    def approximate(self, figure: Taken, reckoning: Reckoning) -> bool:
        columns = [name for name in (figure.of, figure.weight) if name is not None and not TAKES[figure.take].counts]
        return any(reckoning.ground.column(name).kind is Kind.APPROXIMATE for name in columns)

    def percent(self, figure: Taken, reckoning: Reckoning) -> bool:
        known = reckoning.ground.records.columns.get(figure.of or "")
        return known is not None and known.percent and not TAKES[figure.take].counts

    def rests_on_others(self, figure: Taken) -> bool:
        return figure.take == "balance"  # a key counts at the member of its last record, which may be another one

    def counts_days(self, figure: Taken) -> bool:
        return figure.take == "balance"

    def taken(self, figure: Taken) -> str:
        said = WORDS[figure.take].format(of=figure.of, weight=figure.weight, p=figure.p or 0, n=figure.n or 1, by=figure.by,
                                         carried=", carried on from before" if figure.carry else "")  # fmt: skip
        return f"{said} where {figure.where}" if figure.where else said

    def told(self, figure: Taken, made: Made) -> list[str]:
        joined = "of" if figure.take == "count" and not figure.where else "over"
        return [f"{self.taken(figure)} {joined} {made.counted}{made.when}."]


def _rows(figure: Taken, tracing: Tracing, own: Operand, view: View) -> Index:
    """The records of a cell that a figure takes, in source order."""
    return view.rows_at(tracing.crossing(own), *tracing.place(own))


def _balance(figure: Taken, tracing: Tracing, own: Operand, rows: Index, view: View) -> Operand:
    """The records of a balance's cell and those carried into it; only those that count have amounts."""
    _, where = tracing.reckoning.taking(figure)
    balances = Balances(tracing.reckoning, figure, view)
    counted = balances.counted(tracing.crossing(own), *tracing.place(own))
    rows = np.union1d(rows if where is None else rows[where.mask[rows]], counted)
    return replace(own, rows=rows, amounts=only_counted(balances.column.take(rows), rows, counted))
