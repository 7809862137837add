"""Figures: numbers taken from records, and numbers computed from other figures."""

from collections.abc import Iterable
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, FiniteFloat, GetCoreSchemaHandler, model_validator
from pydantic_core import PydanticCustomError, core_schema

from kalendor.definitions.document import ColumnName, Formula, Name, Part, RecordFormula

TakeName = Literal[
    "sum",
    "count",
    "count_values",
    "distinct",
    "mean",
    "weighted_mean",
    "median",
    "percentile",
    "nth_largest",
    "nth_smallest",
    "min",
    "max",
    "variance",
    "stdev",
    "variance_pop",
    "stdev_pop",
    "first",
    "last",
    "balance",
]


class Format(Part):
    """How a figure is shown; its value does not change. With `foots`, shown numbers are rounded so that they add up to
    shown totals, if the numbers themselves do."""

    places: Annotated[int, Field(ge=0, le=9)] | None = None
    thousands: bool = True
    unit: Literal["one", "thousands", "millions"] = "one"
    currency: Annotated[str, Field(max_length=8)] = ""
    percent: bool | None = None
    negative: Literal["parentheses", "minus"] = "parentheses"
    zero: Literal["number", "dash"] = "number"
    foots: bool = False


class FigureBase(Part):
    """The properties of every figure."""

    name: Name
    format: Format = Format()
    hide: bool = False

    @property
    def with_period(self) -> bool:
        """Whether it is a comparison with an earlier period."""
        return False


class Taken(FigureBase):
    """A figure taken from records.

    `source` is one set beside the report's own; by default the figure is of the report's own. `balance` takes the last
    value by a date for each of the `keys`, and adds those up, but never over time; with `carry`, a key without a record
    in a period keeps its previous value.
    """

    take: TakeName
    of: ColumnName | None = None
    source: Name | None = None
    where: RecordFormula | None = None
    p: Annotated[FiniteFloat, Field(ge=0, le=100)] | None = None
    n: Annotated[int, Field(ge=1, le=2**62)] | None = None
    weight: ColumnName | None = None
    by: ColumnName | None = None
    keys: list[ColumnName] = Field(default_factory=list)
    carry: bool = False

    @model_validator(mode="after")
    def _has_what_it_needs(self) -> "Taken":
        needs = {"percentile": "p", "nth_largest": "n", "nth_smallest": "n", "weighted_mean": "weight"}
        needs |= {"first": "by", "last": "by", "balance": "by"}
        if self.take != "count" and self.of is None:
            raise ValueError(f'{self.take} needs "of", the column it is taken of')
        need = needs.get(self.take)
        if need and getattr(self, need) is None:
            raise ValueError(f'{self.take} needs "{need}"')
        if self.carry and self.take != "balance":
            raise ValueError('"carry" goes with the take "balance"')
        return self


class FormulaFigure(FigureBase):
    """A formula over other figures, evaluated anew at each level."""

    formula: Formula


class Share(FigureBase):
    """A figure as a part of a total of the same figure."""

    share: Name
    of_total: Literal["all", "parent", "column", "line"] = "all"


class Running(FigureBase):
    """A figure accumulated along a period column, or down the lines as shown (`along` is "lines")."""

    running: Name
    along: ColumnName | None = None
    restart: Name = "never"


class Moving(FigureBase):
    """The sum or mean of a figure over the last n periods."""

    moving: Name
    periods: Annotated[int, Field(ge=1, le=100_000)]
    take: Literal["sum", "mean"] = "mean"


class Rank(FigureBase):
    """A figure's place among its siblings or among all lines of its level."""

    rank: Name
    within: Literal["parent", "all"] = "parent"
    largest_first: bool = True


class Back(Part):
    """n periods of a grain back."""

    back: Annotated[int, Field(ge=1, le=100_000)]
    grain: Literal["year", "half", "quarter", "month", "week", "day"]


class WithMember(Part):
    """A member of the innermost category level."""

    member: str


class WithFigure(Part):
    """Another figure at the same place."""

    figure: Name


class Compare(FigureBase):
    """A figure beside its base: the base itself, the difference, the percent or an index."""

    compare: Name
    with_: Annotated[
        Literal["year_earlier", "period_before"] | Back | WithMember | WithFigure,
        Field(alias="with", union_mode="left_to_right"),
    ]
    as_: Annotated[Literal["base", "difference", "percent", "index"], Field(alias="as")] = "difference"
    to_date: bool = True

    @property
    def with_period(self) -> bool:
        return not isinstance(self.with_, WithFigure | WithMember)


def with_earlier_periods(figures: Iterable[FigureBase]) -> list[Compare]:
    """The comparisons with earlier periods among some figures."""
    return [figure for figure in comparisons(figures) if figure.with_period]


def comparisons(figures: Iterable[FigureBase], of: str | None = None) -> list[Compare]:
    """The comparisons among some figures, in order; only those of one figure if given."""
    return [figure for figure in figures if isinstance(figure, Compare) and of in (None, figure.compare)]


KINDS: dict[str, type[FigureBase]] = {
    "formula": FormulaFigure,
    "share": Share,
    "running": Running,
    "moving": Moving,
    "rank": Rank,
    "compare": Compare,
    "take": Taken,
}
"""Each kind of figure by the key that tells it from the others; "take", which others have too, comes last."""


class _AnyKind:
    """Validates a figure as the kind whose key it has, among the registered kinds."""

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        known = [handler.generate_schema(model) for model in KINDS.values()]
        joined_later = core_schema.is_instance_schema(FigureBase)
        return core_schema.no_info_before_validator_function(
            _of_its_kind, core_schema.union_schema([*known, joined_later])
        )


def _of_its_kind(value: Any) -> FigureBase:
    if isinstance(value, FigureBase):
        return value
    found = [key for key in KINDS if isinstance(value, dict) and key in value]
    if not found:
        known = ", ".join(f'"{key}"' for key in ("take", *(key for key in KINDS if key != "take")))
        raise PydanticCustomError("figure", "a figure needs one of the keys {known}", {"known": known})
    return KINDS[next((key for key in found if key != "take"), "take")].model_validate(value)


if TYPE_CHECKING:
    Figure = FigureBase
else:
    Figure = Annotated[Any, _AnyKind]
