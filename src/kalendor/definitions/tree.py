"""The category tree document."""

from datetime import date
from typing import Annotated, Literal

from pydantic import Field, model_validator

from kalendor.definitions.document import Document, Formula, Name, Part


class Node(Part):
    """A category (label, and perhaps a rule and children) or a value placed by name.

    A `sign` of −1 reverses the signs of the amounts of all records under it: costs that are subtracted from sales in
    every total.
    """

    label: Name | None = None
    code: Name | None = None
    value: str | None = None
    rule: Formula | None = None
    since: date | None = None
    sign: Literal[-1, 1] | None = None
    under: list["Node"] = Field(default_factory=list)

    @model_validator(mode="after")
    def _category_or_value(self) -> "Node":
        if self.value is None and self.label is None:
            raise ValueError('a node needs a "label" (a category) or a "value"')
        if self.value is not None and (self.rule is not None or self.under):
            raise ValueError(
                f'the value {self.value!r} cannot have a "rule" or anything "under" it; make it a category'
            )
        return self


class Tree(Document):
    """A hierarchy of categories over the values of a column, with its own order."""

    kind: Literal["tree"] = "tree"
    name: Name
    levels: Annotated[list[Name], Field(min_length=1)]
    roots: list[Node] = Field(default_factory=list)

    @model_validator(mode="after")
    def _value_once(self) -> "Tree":
        seen: set[tuple[str, date | None]] = set()
        stack = [(node, 1) for node in self.roots]
        while stack:
            node, depth = stack.pop()
            if depth > len(self.levels) + (node.value is not None):
                raise ValueError(
                    f"{node.label or node.value!r} stands deeper than the tree has levels ({len(self.levels)})"
                )
            if node.value is not None:
                key = (node.value, node.since)
                if key in seen:
                    raise ValueError(f"the value {node.value!r} is placed twice")
                seen.add(key)
            stack.extend((child, depth + 1) for child in node.under)
        return self
