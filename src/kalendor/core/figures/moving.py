"""Moving figures: the sum or mean of a figure over the last periods."""

from kalendor.core.figures.kind import FigureKind, Made, Reckoned, Reckoning, Tracing
from kalendor.core.figures.moving_along import MovingAlong
from kalendor.core.figures.operand import Operand
from kalendor.core.figures.stretches import reached_over
from kalendor.core.figures.units import Units, together
from kalendor.core.placing.views import View
from kalendor.core.values.columns import Column
from kalendor.definitions.figure import Moving


class MovingKind(FigureKind[Moving]):
    """A figure over the last periods."""

    name = "moving"
    model = Moving
    filled_by_lines = True

    def needs(self, figure: Moving) -> tuple[str, ...]:
        return (figure.moving,)

    def counts_days(self, figure: Moving) -> bool:
        return True

    def cells(self, figure: Moving, reckoning: Reckoning, view: View) -> Reckoned:
        return Reckoned(MovingAlong(reckoning, view, None).moving(figure))

    def units(self, figure: Moving, reckoning: Reckoning, view: View) -> Units | None:
        along = MovingAlong(reckoning, view, None)

        def sums(name: str) -> Column:
            return along.moving(figure.model_copy(update={"moving": name, "take": "sum"}))

        return together(one.units(sums) for one in reckoning.telling(figure.moving))

    def operand(self, figure: Moving, tracing: Tracing, own: Operand, view: View) -> Operand:
        along = MovingAlong(tracing.reckoning, view, None)
        reach = along.moved_over(figure, tracing.crossing(own), *tracing.place(own))
        return reached_over(tracing, figure.moving, own, reach)

    def lines_add_up(self, figure: Moving, reckoning: Reckoning) -> bool:
        return reckoning.adds_up(figure.moving)

    def percent(self, figure: Moving, reckoning: Reckoning) -> bool:
        return reckoning.percent(figure.moving)

    def reaches_back(self, figure: Moving) -> bool:
        return True

    def told(self, figure: Moving, made: Made) -> list[str]:
        way = "average" if figure.take == "mean" else "sum"
        return [f"The {way} of {figure.moving} over {figure.periods} periods{made.days}."]

    def why_blank(self, figure: Moving) -> str:
        return "fewer periods lie before it than it needs"
