"""How a file differs from earlier ones, as a value."""

from dataclasses import dataclass
from typing import Literal

from kalendor.definitions.recipe import ColumnReading

What = Literal["renamed", "missing", "rewritten", "wider", "unread"]


@dataclass(frozen=True)
class ColumnChange:
    """A column of the source that differs from earlier files, and its proposed matching.

    It is `renamed`; or `missing`; or its dates are `rewritten` in another format; or its numbers have more places
    (`wider`); or it is `unread`, since its texts are not of its kind. `known` and `came` are examples of its earlier
    values and of those in the file; `heading` is the proposed heading, empty for none. `other` is the alternative date
    format or decimal mark. `sure`: the proposal needs no confirmation.
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
    """A heading of the file that is not a column of the source, with examples of its values and the kind it reads as."""

    heading: str
    came: str
    reading: ColumnReading


@dataclass(frozen=True)
class Changes:
    """How a file differs from earlier ones, of which `alike` were all alike. `same` are the unchanged columns; `layout`
    describes in words any difference in the layout of the whole file."""

    columns: tuple[ColumnChange, ...]
    fresh: tuple[FreshHeading, ...]
    same: tuple[str, ...]
    alike: int
    layout: str = ""

    @property
    def sure(self) -> bool:
        """Whether the proposal is unambiguous: at most one column is renamed, and none is new or left blank."""
        renamed = [one.heading for one in self.columns if one.what == "renamed"]
        news = [one for one in self.fresh if one.heading not in renamed]
        return not self.layout and not news and len(renamed) <= 1 and all(one.sure for one in self.columns)

    @property
    def said(self) -> str:
        """The differences in words, each with its proposed matching."""
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
