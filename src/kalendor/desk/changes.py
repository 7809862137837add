"""How a file differs from those before it, as a value."""

from dataclasses import dataclass
from typing import Literal

from kalendor.definitions.recipe import ColumnReading

What = Literal["renamed", "missing", "rewritten", "wider", "unread"]


@dataclass(frozen=True)
class ColumnChange:
    """A column of the source that is not as it was in the files before, and what it is taken to be.

    It is `renamed`; or `missing`; or its dates are `rewritten` in another way; or its numbers have more places (`wider`);
    or it is `unread`, since its texts are none of its kind. `known` and `came` are examples of its values so far and in the
    file; `heading` is what it is proposed to have there, empty for none. `other` is the date format or decimal mark that it
    could have as well. `sure`: nobody need be asked.
    """

    name: str
    what: What
    known: str
    heading: str
    came: str
    why: str
    used_by: str = ""
    sure: bool = False
    other: str = ""


@dataclass(frozen=True)
class FreshHeading:
    """A heading of a file that is none of the source's columns, with examples of its values and how it reads."""

    heading: str
    came: str
    reading: ColumnReading


@dataclass(frozen=True)
class Changes:
    """How a file differs from those before it: of `alike` files, all read alike. `same` are columns that came as before;
    `layout` says in words where the file as a whole is laid out otherwise."""

    columns: tuple[ColumnChange, ...]
    fresh: tuple[FreshHeading, ...]
    same: tuple[str, ...]
    alike: int
    layout: str = ""

    @property
    def sure(self) -> bool:
        """Whether what is proposed is beyond doubt: one column is renamed at most, and none is new or left blank."""
        renamed = [one.heading for one in self.columns if one.what == "renamed"]
        news = [one for one in self.fresh if one.heading not in renamed]
        return not self.layout and not news and len(renamed) <= 1 and all(one.sure for one in self.columns)

    @property
    def said(self) -> str:
        """The differences in words, each with what it is taken to be."""
        renamed = {one.heading for one in self.columns if one.what == "renamed"}
        news = [one.heading for one in self.fresh if one.heading not in renamed]
        parts = [*([self.layout] if self.layout else []), *(_said(one) for one in self.columns)]
        if news:
            parts.append(f"{', '.join(news)} {'is a new column' if len(news) == 1 else 'are new columns'}")
        return "; ".join(parts)


def _said(one: ColumnChange) -> str:
    why = f" ({one.why})" if one.why else ""
    return {
        "renamed": f"{one.name} {'is now' if one.sure else 'may be'} {one.heading}{why}",
        "missing": f"the column {one.name!r} is missing",
        "rewritten": f"{one.name} is written {one.why}",
        "wider": f"{one.name} has {one.why}",
        "unread": f"{one.name}: {one.why}",
    }[one.what]
