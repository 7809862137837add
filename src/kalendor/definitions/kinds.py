"""Parses any definition document, by its `kind`."""

from typing import Any

from kalendor.definitions.buckets import Buckets
from kalendor.definitions.bundle import Bundle
from kalendor.definitions.calendar import Calendar
from kalendor.definitions.document import parse
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Tree
from kalendor.errors import DefinitionError

Definition = Report | Tree | Calendar | Buckets | Recipe | Bundle
Grouping = Tree | Calendar | Buckets

KINDS: dict[str, type[Definition]] = {
    "report": Report,
    "tree": Tree,
    "calendar": Calendar,
    "buckets": Buckets,
    "recipe": Recipe,
    "bundle": Bundle,
}


def definition(value: Any, what: str, allowed: tuple[str, ...] = tuple(KINDS)) -> Definition:
    """The document in `value` (parsed JSON).

    Raises DefinitionError if it is none of the `allowed` kinds or breaks its kind's rules.
    """
    if not isinstance(value, dict):
        raise DefinitionError(f"{what}: a definition is a JSON object")
    if "kalendor" not in value:
        raise DefinitionError(f'{what}: kalendor is missing; a document of this format begins with "kalendor": 1')
    kind = value.get("kind")
    if kind not in allowed:
        raise DefinitionError(f"{what}: kind: {kind!r} does not fit here; expected {' or '.join(allowed)}")
    return parse(KINDS[kind], value, what)


def default_calendar() -> Calendar:
    """The civil year, which needs no definition of its own."""
    return Calendar.model_validate({"kalendor": 1, "name": "Civil year", "months": {}})
