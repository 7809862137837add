"""All takes by name."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from kalendor.core.takes.aggregate import Additive, Count, CountValues, Largest, Least, Mean, Of, Sum, WeightedMean
from kalendor.core.takes.order_statistics import AtEnd, Balance, Distinct, Median, Nth, Ordered, Percentile, Variance
from kalendor.core.values.columns import NUMERIC, Column, Kind, as_kind
from kalendor.core.values.keys import key
from kalendor.definitions.figure import Taken
from kalendor.errors import DefinitionError

TAKES: dict[str, Additive | Ordered] = {
    "sum": Sum(),
    "count": Count(),
    "count_values": CountValues(),
    "distinct": Distinct(),
    "mean": Mean(),
    "weighted_mean": WeightedMean(),
    "median": Median(),
    "percentile": Percentile(),
    "nth_largest": Nth(largest=True),
    "nth_smallest": Nth(largest=False),
    "min": Least(),
    "max": Largest(),
    "variance": Variance(sample=True, root=False),
    "stdev": Variance(sample=True, root=True),
    "variance_pop": Variance(sample=False, root=False),
    "stdev_pop": Variance(sample=False, root=True),
    "first": AtEnd(last=False),
    "last": AtEnd(last=True),
    "balance": Balance(),
}


def what_of(
    figure: Taken, column: Callable[[str], Column], order: Callable[[str], NDArray[np.int64]] | None = None
) -> Of:
    """What a figure takes; `column` finds a column by name, `order` its filled records by rising value."""

    def found(name: str | None) -> Column | None:
        return None if name is None else column(name)

    of = found(figure.of)
    if figure.take in ("sum", "mean") and of is not None and as_kind(of, Kind.WHOLE, *NUMERIC).kind not in NUMERIC:
        raise DefinitionError(
            f"figure {figure.name}: {figure.take} needs a number column, and {figure.of!r} is {of.kind.value}"
        )
    name = figure.of
    ordered = None if order is None or name is None else lambda: order(name)
    return Of(
        of,
        found(figure.weight),
        found(figure.by),
        figure.p or 0.0,
        figure.n or 1,
        ordered,
        key("column", figure.of),
        _keys(figure, column),
    )


def _keys(figure: Taken, column: Callable[[str], Column]) -> NDArray[np.int64] | None:
    """A number for each record, equal where all key columns of a balance are equal; blanks are keys like any other."""
    if figure.take != "balance":
        return None
    keys = np.zeros(0, dtype=np.int64)
    for i, name in enumerate(figure.keys):
        found = column(name)
        part = np.where(found.blanks, -1, np.unique(found.values, return_inverse=True)[1])
        keys = part if i == 0 else np.unique(np.column_stack([keys, part]), axis=0, return_inverse=True)[1].reshape(-1)
    if not figure.keys:
        return np.zeros(len(column(figure.by or "")), dtype=np.int64)
    return np.unique(keys, return_inverse=True)[1].reshape(-1)
