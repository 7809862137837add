"""What a headline is about, as values: the total, its change, what drove it, and what is not placed."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Said:
    """A number in two lengths: as the sheet shows it, `331,742.50`, and as people say it, `331.7 thousand`."""

    exact: str
    spoken: str


@dataclass(frozen=True)
class Change:
    """A total against its base: `way` is 1 above it, −1 below it and 0 where both are the same, `size` by how much.

    `beside` is True where the base is another figure or member, as a plan, and no earlier period. `lacking` are the words
    that stand in place of a size where there is none. `upto` is the day to which both sides are compared, as `to 9 July`, where the total goes on after it.
    """

    base: str
    way: int = 0
    size: Said | None = None
    beside: bool = False
    lacking: str = ""
    upto: str = ""


@dataclass(frozen=True)
class Total:
    """A figure's number over all lines; `adds` where it adds up from them, `nothing` where it is zero."""

    name: str
    amount: Said
    change: Change | None = None
    adds: bool = True
    nothing: bool = False


@dataclass(frozen=True)
class Move:
    """The members that moved most in one direction, all by the same: `way` is rose, fell, came, went, above or below.

    `most` where others moved in that direction, too; `part` is the move in percent of the member's base, empty where that says nothing;
    `base` is what they stand above or below.
    """

    members: tuple[str, ...]
    way: str
    most: bool
    size: Said | None = None
    part: str = ""
    base: str = ""


@dataclass(frozen=True)
class Facts:
    """All that a headline says; `when` as `in July 2026`, `largest` the outermost lines of the largest amount."""

    total: Total
    when: str = ""
    others: tuple[Total, ...] = ()
    moves: tuple[Move, ...] = ()
    largest: tuple[str, ...] = ()
    largest_amount: Said | None = None
    not_placed: Said | None = None
    not_placed_level: str = ""
