"""What is asked of the parts of a report document, as plain values."""

from collections.abc import Mapping
from typing import Any

from pydantic import TypeAdapter

from kalendor.definitions.axis import AxisEntry
from kalendor.definitions.figure import KINDS
from kalendor.sentence.names import Names

NOT_WHAT_IT_IS = ("name", "format", "hide")
_ENTRY: TypeAdapter[Any] = TypeAdapter(AxisEntry)


def references() -> list[str]:
    """The keys of figures that name another figure which they rest on."""
    return [key for key in KINDS if key not in ("take", "formula")]


def same_figure(one: Mapping[str, Any], other: Mapping[str, Any]) -> bool:
    """Whether two figures are the same but for how they are called and shown."""
    return {k: v for k, v in one.items() if k not in NOT_WHAT_IT_IS} == {k: v for k, v in other.items() if k not in NOT_WHAT_IT_IS}  # fmt: skip


def level_names(report: Mapping[str, Any], names: Names) -> list[str]:
    """The names of the levels of a report, lines and columns."""
    found: list[str] = []
    for entry in (*report.get("down", ()), *report.get("across", ())):
        own = {k: v for k, v in entry.items() if k in ("category", "tree", "levels", "period", "grains", "bucket", "age", "name", "set", "cut")}  # fmt: skip
        model = _ENTRY.validate_python(own)
        found += model.default_names() or list(names.trees.get(entry.get("tree"), (None, ()))[1])
    return found


def core_of(entry: Mapping[str, Any]) -> dict[str, Any]:
    """What makes an axis entry's levels, without how they are called, sorted and cut off."""
    core = ("category", "tree", "period", "calendar", "grains", "bucket", "age", "set", "cut", "opened", "closed")
    return {k: v for k, v in entry.items() if k in core or (k == "levels" and "tree" in entry)}
