"""The decimal places and the unit in which a figure's numbers are shown."""

from kalendor.core.sheet.sheet import ShownFigure
from kalendor.core.values.columns import EXACT

UNITS = {"one": 0, "thousands": 3, "millions": 6}


def is_percent(figure: ShownFigure) -> bool:
    """True where a figure is shown as a percentage."""
    return figure.percent if figure.format.percent is None else figure.format.percent


def places_of(figure: ShownFigure) -> int:
    """The number of decimal places of a figure, in its unit."""
    if figure.format.places is not None:
        return figure.format.places
    if is_percent(figure):
        return 1
    if figure.format.unit != "one":
        return 1
    return figure.cells.places if figure.cells.kind in EXACT else 2


def exponent_of(figure: ShownFigure) -> int:
    """The power of ten of which shown numbers are multiples: −3 for percentages with one place, 3 for whole thousands."""
    return (-2 if is_percent(figure) else UNITS[figure.format.unit]) - places_of(figure)
