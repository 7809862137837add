"""The effect of each choice of paper and type: the number of pages and the type size."""

from collections.abc import Iterator
from dataclasses import dataclass

from kalendor.definitions.export import Export
from kalendor.output.handover import Handover
from kalendor.output.paging.needs import needs_of
from kalendor.output.paging.planner import Around, PagePlan, Paper, planned
from kalendor.output.typeset import Typeset


@dataclass(frozen=True)
class PageChoice:
    """A choice of `way` or `type`, and the resulting number of pages and type size in points."""

    key: str
    value: str
    pages: int
    size: float
    across: bool


def paper_of(export: Export) -> Paper:
    """The paper that a report is set on."""
    return Paper(export.paper, export.way, export.type)


def page_choices(set_: Typeset, given: Handover, around: Around) -> list[PageChoice]:
    """Each paper direction and type, the other settings as stored with the report."""
    needs = needs_of(set_, [set_.shown(column) for column in set_.columns])

    def found() -> Iterator[PageChoice]:
        for key, values in (("way", ("fits", "upright", "across")), ("type", ("plain", "board"))):
            for value in values:
                plan = _plan(given.export.model_copy(update={key: value}))
                yield PageChoice(key, value, plan.pages, plan.size, plan.across)

    def _plan(export: Export) -> PagePlan:
        return planned(needs, paper_of(export), around)

    return list(found())
