"""Routes of the sentence: a report in words, reading typed text, and the words that editors use."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kalendor.api.desk import AtDesk
from kalendor.api.workers.marking import in_worker
from kalendor.definitions.figure import Figure
from kalendor.definitions.report import Report
from kalendor.desk.offered import offered
from kalendor.desk.sentences import Offer, Worded, completed, known_names, offers, worded
from kalendor.sentence.clauses import Clauses, clauses_of, sql_of_clauses
from kalendor.sentence.examples import examples
from kalendor.sentence.labels import labels
from kalendor.sentence.naming import following_name
from kalendor.sentence.offers.phrase import Phrase

router = APIRouter(prefix="/api", tags=["sentence"])
MOST_TYPED = 4_000


class Typed(BaseModel):
    """A text typed over a source, or over a report in the page's current state."""

    text: Annotated[str, Field(max_length=MOST_TYPED)]
    source: str
    document: Report | None = None


class Added(BaseModel):
    """A text typed to find what could be added to a report."""

    text: Annotated[str, Field(max_length=MOST_TYPED)]
    document: Report


class Condition(BaseModel):
    """A condition in SQL."""

    sql: Annotated[str, Field(max_length=MOST_TYPED)]


class Renamed(BaseModel):
    """A figure before a change, its possible forms after it, and the names of the other figures."""

    before: Figure
    after: list[Figure] = Field(max_length=500)
    taken: list[str]


class HeardText(BaseModel):
    """The possible readings of a text, the best first, and completions of its last word."""

    offers: list[Offer]
    completions: list[str]


@router.post("/sentence")
@in_worker
def sentence_of(desk: AtDesk, document: Report) -> Worded:
    """Write a report as its sentence, in pieces that name the part of the definition each one words."""
    return worded(desk, document)


@router.post("/sentence/read")
@in_worker
def read_sentence(desk: AtDesk, asked: Typed) -> HeardText:
    """Read a typed sentence. Saves nothing."""
    return HeardText(
        offers=offers(desk, asked.text, asked.source, asked.document),
        completions=completed(desk, asked.text, asked.source, asked.document),
    )


@router.post("/sentence/phrases")
@in_worker
def phrases_to_add(desk: AtDesk, asked: Added) -> list[Phrase]:
    """List phrases that can be added to a report and match a text."""
    return offered(desk, asked.document, asked.text)


@router.post("/sentence/clauses")
@in_worker
def clauses_of_condition(condition: Condition) -> Clauses | None:
    """Return a condition as comparisons for a form; null if it is not made of such."""
    return clauses_of(condition.sql)


@router.post("/sentence/condition")
@in_worker
def condition_of_clauses(clauses: Clauses) -> Condition:
    """Return comparisons as a condition in SQL."""
    return Condition(sql=sql_of_clauses(clauses))


@router.post("/sentence/names")
@in_worker
def names_of_figures(asked: Renamed) -> list[str]:
    """Return a figure's name after each change: an automatic name follows the change, a given name stays."""
    before, *after = (figure.model_dump(by_alias=True, exclude_none=True) for figure in (asked.before, *asked.after))
    return [following_name(before, one, asked.taken) for one in after]


@router.get("/sentence/examples")
@in_worker
def sentence_examples(desk: AtDesk, source: str) -> list[str]:
    """List example sentences for a source."""
    return examples(known_names(desk, source))


@router.get("/sentence/labels")
def sentence_labels(desk: AtDesk) -> dict[str, dict[str, str]]:
    """Return the words for grains, takes, totals, bases and comparisons."""
    return {kind: dict(words) for kind, words in labels().items()}
