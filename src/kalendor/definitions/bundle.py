"""The bundle document: a report with all the definitions that it needs, as one file."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from kalendor.definitions.buckets import Buckets
from kalendor.definitions.calendar import Calendar
from kalendor.definitions.document import Document
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Tree

Bundled = Annotated[Report | Tree | Calendar | Buckets | Recipe, Field(discriminator="kind")]


class Bundle(Document):
    """A report, the groupings that it refers to, and at most one recipe, for its source's files."""

    kind: Literal["bundle"] = "bundle"
    documents: Annotated[list[Bundled], Field(min_length=1)]

    @model_validator(mode="after")
    def _one_report(self) -> "Bundle":
        kinds = [document.kind for document in self.documents]
        if kinds.count("report") != 1 or kinds.count("recipe") > 1:
            raise ValueError("a bundle carries one report, and at most one recipe")
        names = [(d.kind, d.name) for d in self.groupings()]
        if len(set(names)) < len(names):
            raise ValueError("two groupings of one kind have the same name")
        return self

    def report(self) -> Report:
        """The report."""
        return next(document for document in self.documents if isinstance(document, Report))

    def groupings(self) -> list[Tree | Calendar | Buckets]:
        """The trees, calendars and bucket sets."""
        return [document for document in self.documents if isinstance(document, Tree | Calendar | Buckets)]

    def recipe(self) -> Recipe | None:
        """The recipe of the source's files, if included."""
        return next((document for document in self.documents if isinstance(document, Recipe)), None)
