"""A figure beside its own base, for charts: a part of a period is compared with the same part of the earlier one, never
with a whole."""

from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.bases import GONE, MIXED
from kalendor.core.figures.compare import based_on
from kalendor.core.sheet.sheet import Sheet, ShownFigure
from kalendor.core.values.columns import EXACT, Array
from kalendor.definitions.figure import Compare, comparisons
from kalendor.definitions.report import Report
from kalendor.output.shown import shown_number


@dataclass(frozen=True, eq=False)
class Bases:
    """The bases of some cells of a figure: `name` in words, `values` (NaN for none) and their texts."""

    name: str
    values: NDArray[np.float64]
    texts: tuple[str, ...]


def bases_of(report: Report | None, sheet: Sheet, figure: ShownFigure, at: Array) -> Bases | None:
    """The earlier period's numbers for the cells `at`, from the first comparison on the sheet that gives them.

    None if no figure of the sheet compares with an earlier period, if a base cannot be computed from what is shown, and
    if a cell shows more than is compared.
    """
    if report is None:
        return None
    shown = {f.name: f for f in sheet.figures}
    for asked in comparisons(report.figures, figure.name):
        if asked.name in shown and asked.with_period and asked.as_ != "index":
            values = _values(asked, shown[asked.name], figure, at)
            if values is not None:
                return Bases(based_on(asked), values, _texts(values, figure))
    return None


def _values(asked: Compare, compared: ShownFigure, figure: ShownFigure, at: Array) -> NDArray[np.float64] | None:
    if compared.cut is not None and compared.cut[at].any():
        return None
    if compared.marks is not None and np.isin(compared.marks[at], (GONE, MIXED)).any():
        return None
    own, beside = figure.cells.take(at), compared.cells.take(at)
    value, change = own.floats(), beside.floats()
    match asked.as_:
        case "base":
            base = change
        case "difference":
            base = value - change
        case _:
            with np.errstate(divide="ignore", invalid="ignore"):
                base = value / (1 + change)
    found: NDArray[np.float64] = np.where(own.blanks | beside.blanks | ~np.isfinite(base), np.nan, base)
    places = figure.cells.places if figure.cells.kind in EXACT else 12
    return None if np.isnan(found).all() else np.round(found, places)


def _texts(values: NDArray[np.float64], figure: ShownFigure) -> tuple[str, ...]:
    return tuple("" if np.isnan(value) else shown_number(Decimal(repr(value)), figure) for value in values.tolist())
