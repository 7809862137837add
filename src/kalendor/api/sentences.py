"""The sentence over HTTP: a report in words, what a typed text would make of it, and the words that editors use."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kalendor.api.desk import AtDesk
from kalendor.definitions.report import Report
from kalendor.desk.sentences import Offer, Worded, completed, known_names, offers, worded
from kalendor.sentence.examples import examples
from kalendor.sentence.labels import labels

router = APIRouter(prefix="/api", tags=["sentence"])
MOST_TYPED = 4_000


class Typed(BaseModel):
    """A text typed over a source, or over a report as the page has it."""

    text: Annotated[str, Field(max_length=MOST_TYPED)]
    source: str
    document: Report | None = None


class HeardText(BaseModel):
    """What a text could mean, the best first, and how its last word could go on."""

    offers: list[Offer]
    completions: list[str]


@router.post("/sentence")
def sentence_of(desk: AtDesk, document: Report) -> Worded:
    """A report as its sentence, in pieces that say which part of it they word."""
    return worded(desk, document)


@router.post("/sentence/read")
def read_sentence(desk: AtDesk, asked: Typed) -> HeardText:
    """What a text asks for; nothing is kept."""
    return HeardText(
        offers=offers(desk, asked.text, asked.source, asked.document),
        completions=completed(desk, asked.text, asked.source, asked.document),
    )


@router.get("/sentence/examples")
def sentence_examples(desk: AtDesk, source: str) -> list[str]:
    """Sentences that a source's columns answer."""
    return examples(known_names(desk, source))


@router.get("/sentence/labels")
def sentence_labels(desk: AtDesk) -> dict[str, dict[str, str]]:
    """What grains, takes, totals and bases are called."""
    return {kind: dict(words) for kind, words in labels().items()}
