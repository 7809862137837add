"""The facts of a headline: the total, its change, what drove it, and what is not placed."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Said:
    """A number in two lengths: as the sheet shows it, `331,742.50`, and spoken, `331.7 thousand`."""

    exact: str
    spoken: str


@dataclass(frozen=True)
class Change:
    """A total against its base: `way` is 1 above it, −1 below it and 0 if they are equal, `size` is the difference.

    `beside` is True if the base is another figure or member, such as a plan, and not an earlier period. `lacking` are
    the words instead of a size if there is none. `upto` is the day to which both sides are compared, as `to 9 July`, if
    the total continues after it.
    """

    base: str
    way: int = 0
    size: Said | None = None
    beside: bool = False
    lacking: str = ""
    upto: str = ""


@dataclass(frozen=True)
class Total:
    """A figure's number over all lines; `adds` if it is their sum, `nothing` if it is zero."""

    name: str
    amount: Said
    change: Change | None = None
    adds: bool = True
    nothing: bool = False


@dataclass(frozen=True)
class Move:
    """The members that changed most in one direction, all by the same: `way` is rose, fell, came, went, above or below.

    `most` if others changed in that direction, too; `part` is the change in percent of the member's base, empty if not
    meaningful; `base` is what they are above or below.
    """

    members: tuple[str, ...]
    way: str
    most: bool
    size: Said | None = None
    part: str = ""
    base: str = ""


@dataclass(frozen=True)
class Facts:
    """Everything that a headline says; `when` as `in July 2026`, `largest` the outermost lines with the largest amount."""

    total: Total
    when: str = ""
    others: tuple[Total, ...] = ()
    moves: tuple[Move, ...] = ()
    largest: tuple[str, ...] = ()
    largest_amount: Said | None = None
    not_placed: Said | None = None
    not_placed_level: str = ""
