"""The interface of a kind of figure, and the interfaces that it may use while figures are computed and traced."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Generic, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.bases import MIXED, NO_MARK, Bases
from kalendor.core.figures.operand import Operand
from kalendor.core.figures.units import Telling, Units, together
from kalendor.core.figures.worked_lines import Working
from kalendor.core.groupings.ground import Ground
from kalendor.core.placing.frame import Frame
from kalendor.core.placing.views import View, Where
from kalendor.core.takes.aggregate import Of
from kalendor.core.values.columns import Column, Kind, Mask
from kalendor.core.values.notation import grouped
from kalendor.definitions.figure import FigureBase, Taken
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]
Marks = NDArray[np.int8]
F = TypeVar("F", bound=FigureBase)
F_contra = TypeVar("F_contra", bound=FigureBase, contravariant=True)


@dataclass(frozen=True, eq=False)
class Reckoned:
    """A figure in every cell, shape (lines × columns,), with a mark for each; `zero_is_none`: a 0 means no record."""

    cells: Column
    marks: Marks | None = None
    zero_is_none: bool = False


def marked_mixed(found: Reckoned, units: Units) -> Reckoned:
    """A figure, blank and marked where it would mix amounts of several units."""
    said = found.cells.present if found.marks is None else found.cells.present | (found.marks != NO_MARK)
    marks = np.where(units.mixed & said, np.int8(MIXED), np.int8(NO_MARK) if found.marks is None else found.marks)
    blank = found.cells.blanks | units.mixed
    return replace(found, cells=replace(found.cells, blank=blank), marks=marks if marks.any() else found.marks)


class Reckoning(Protocol):
    """The interface available while figures are computed: the other figures, and their views."""

    figures: Mapping[str, FigureBase]
    frame: Frame
    bases: Bases
    main: View
    worked: Sequence[Working]
    propped: Mask

    @property
    def ground(self) -> Ground:
        """The records and groupings."""
        ...

    def figure(self, name: str, view: View | None = None) -> Reckoned:
        """Another figure in every cell of a view (default: the sheet's own), ignoring the units of its amounts."""
        ...

    def shown(self, name: str, view: View | None = None) -> Reckoned:
        """The same, blank and marked where it would mix amounts of several units."""
        ...

    def cells(self, name: str, view: View | None = None) -> Column:
        """Its numbers alone."""
        ...

    def numbers(self, name: str, view: View | None = None) -> Column:
        """Its numbers, if it is numeric; else DefinitionError."""
        ...

    def known(self, name: str) -> str | None:
        """The figure that a name in a formula refers to, ignoring case; None for AS_OF."""
        ...

    def taking(self, figure: Taken) -> tuple[Of, Where | None]:
        """What a figure takes, and of which records."""
        ...

    def over(self, name: str, groups: "Over") -> Column:
        """A figure over groups of records."""
        ...

    def units(self, name: str, view: View | None = None) -> Units | None:
        """The units of the amounts behind another figure in every cell of a view; None if they have none."""
        ...

    def telling(self, name: str) -> Sequence[Telling]:
        """The figures from which the units of a figure, and of all that it is made from, are computed."""
        ...

    def adds_up(self, name: str) -> bool:
        """Whether a missing side counts as 0 in a difference."""
        ...

    def approximate(self, name: str) -> bool:
        """Whether it is marked as approximate."""
        ...

    def percent(self, name: str) -> bool:
        """Whether it is best shown as a percentage."""
        ...


class Tracing(Protocol):
    """The interface available while a number is traced back to its records."""

    reckoning: Reckoning

    def of(self, name: str, view: View, line: int, column: int) -> Operand:
        """The operands of another figure's number in a cell."""
        ...

    def over(self, name: str, own: Operand, rows: Index) -> Operand:
        """What a figure takes of the records at `rows`."""
        ...

    def crossing(self, own: Operand) -> tuple[int, int]:
        """The depths of an operand's line and column."""
        ...

    def place(self, own: Operand) -> tuple[int, int]:
        """The line and the column counted within their own depths."""
        ...

    def passed(self, restart: str, line: int) -> list[int]:
        """The innermost lines before a line and at it, in display order, since a level began anew."""
        ...


@dataclass(frozen=True)
class Made:
    """The input of sentences about a number: its operands' formatted numbers by name, the number of records behind it,
    and the days they are of in words."""

    parts: Mapping[str, str]
    records: int
    when: str = ""
    days: str = ""

    @property
    def counted(self) -> str:
        """The records in words."""
        return f"{grouped(self.records)} {'record' if self.records == 1 else 'records'}"


@dataclass(frozen=True)
class Over:
    """Groups of records: `take` computes a figure that is taken from records for each; `refusal` is the message for a
    figure that cannot be computed over groups."""

    take: Callable[[Taken], Column]
    count: int
    refusal: str


class FigureKind(Generic[F]):
    """The interface of a kind of figure; everything that depends on the kind is answered here, and a kind does not
    refer to other kinds."""

    model: type[F]
    """Its definition."""
    name = ""
    """What its operands are called in a trail."""
    filled_by_lines = False
    """Whether a line made from others is worked out over its own cells; else through the figures that it is made of."""

    def needs(self, figure: F) -> Sequence[str]:
        """The names of the figures that it is made from."""
        return ()

    def cells(self, figure: F, reckoning: Reckoning, view: View) -> Reckoned:
        """Its value in every cell of a view."""
        raise NotImplementedError

    def as_shown(self, figure: F, reckoning: Reckoning, cells: Column, order: Index) -> Column:
        """Its cells once the display order of the lines is known; `order` are the lines that bear figures."""
        return cells

    def units(self, figure: F, reckoning: Reckoning, view: View) -> Units | None:
        """The units of the amounts behind it in every cell of a view; None if they have none."""
        return together(reckoning.units(name, view) for name in self.needs(figure))

    def units_as_shown(self, figure: F, reckoning: Reckoning, order: Index) -> Units | None:
        """The units of those of its cells that depend on the order of the lines."""
        return None

    def over(self, figure: F, reckoning: Reckoning, groups: Over) -> Column:
        """Its value over groups of records, as running and moving figures need it."""
        raise DefinitionError(f"{figure.name!r} {groups.refusal}")

    def operand(self, figure: F, tracing: Tracing, own: Operand, view: View) -> Operand:
        """What its number is made from; `own` has its value and place."""
        raise NotImplementedError

    def operand_over(self, figure: F, tracing: Tracing, own: Operand, rows: Index) -> Operand:
        """The same over the records at `rows` alone, as a running or moving figure counts them."""
        raise NotImplementedError

    def adds_up(self, figure: F, reckoning: Reckoning) -> bool:
        """Whether a missing side counts as 0 in a difference."""
        return False

    def lines_add_up(self, figure: F, reckoning: Reckoning) -> bool:
        """Whether a missing line counts as 0 in lines computed from others."""
        return self.adds_up(figure, reckoning)

    def approximate(self, figure: F, reckoning: Reckoning) -> bool:
        """Whether it depends on amounts that are not stored exactly."""
        return any(reckoning.approximate(name) for name in self.needs(figure))

    def percent(self, figure: F, reckoning: Reckoning) -> bool:
        """Whether it is best shown as a percentage."""
        return False

    def signed(self, figure: F) -> bool:
        """Whether it is a change, shown with its sign."""
        return False

    def reaches_back(self, figure: F) -> bool:
        """Whether it has values in cells without records."""
        return False

    def rests_on_others(self, figure: F) -> bool:
        """Whether its numbers on a member's line depend on records of other members, directly and not through another
        figure."""
        return False

    def blank_at_the_top(self, figure: F) -> bool:
        """Whether it depends on others only on a member's own line, and not beneath it."""
        return False

    def counts_days(self, figure: F) -> bool:
        """Whether its numbers depend on the days of records, and not only on the sheet's periods."""
        return False

    # -- words

    phrases: tuple[str, ...] = ()
    """Rules for the grammar's `figure_core` (`sentence/grammar.txt`), for a kind that has none there."""

    def taken(self, figure: F) -> str:
        """What is taken of the records behind it, in words, as `Sum of net`."""
        return figure.name

    def told(self, figure: F, made: Made) -> list[str]:
        """How its number was computed, in sentences."""
        raise NotImplementedError

    def why_blank(self, figure: F) -> str:
        """Why it may have no number, in words."""
        return "no record here has a value to take"


def nothing(count: int) -> Column:
    """Blank cells."""
    return Column(Kind.WHOLE, np.zeros(count, dtype=np.int64), np.ones(count, dtype=bool))
