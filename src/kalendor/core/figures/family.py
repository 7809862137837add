"""The kind of each figure, by the type of its definition."""

from typing import Any

from kalendor.core.figures.compare import Comparison
from kalendor.core.figures.formula import Formula
from kalendor.core.figures.kind import FigureKind
from kalendor.core.figures.moving import MovingKind
from kalendor.core.figures.rank import Ranks
from kalendor.core.figures.running import RunningKind
from kalendor.core.figures.share import Shares
from kalendor.core.figures.taken import TakenKind
from kalendor.definitions.figure import KINDS, FigureBase

FAMILY: dict[str, FigureKind[Any]] = {
    "take": TakenKind(),
    "formula": Formula(),
    "share": Shares(),
    "running": RunningKind(),
    "moving": MovingKind(),
    "rank": Ranks(),
    "compare": Comparison(),
}
"""Each kind by the key of its definition; a kind's own module may hold both."""

for _key, _kind in FAMILY.items():
    KINDS.setdefault(_key, _kind.model)


def kind_of(figure: FigureBase) -> FigureKind[Any]:
    """The kind of a figure."""
    return next(kind for kind in FAMILY.values() if isinstance(figure, kind.model))
