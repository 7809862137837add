"""The bucket set document, and cuts wherever they are used."""

import itertools
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, FiniteFloat, model_validator

from kalendor.definitions.document import Document, Name, Part

CutNumber = Annotated[FiniteFloat, Field(ge=-1e18, le=1e18)]


class Steps(Part):
    """Equally spaced cuts from a lowest to a highest."""

    from_: Annotated[CutNumber, Field(alias="from")]
    to: CutNumber
    step: Annotated[CutNumber, Field(gt=0)]

    @model_validator(mode="after")
    def _bounded(self) -> "Steps":
        if self.to < self.from_:
            raise ValueError('"to" lies below "from"')
        if (self.to - self.from_) / self.step > 2000:
            raise ValueError("more than 2,000 cuts; choose a larger step")
        return self


class Quantiles(Part):
    """Cuts that divide the column's own values into ranges of about as many records each."""

    quantiles: Annotated[int, Field(ge=2, le=100)]


def _rising(cuts: list[float]) -> list[float]:
    if any(low >= high for low, high in itertools.pairwise(cuts)):
        raise ValueError("cuts must rise, each above the one before")
    return cuts


Cut = Annotated[list[CutNumber], Field(min_length=1, max_length=2001), AfterValidator(_rising)] | Steps | Quantiles


class Buckets(Document):
    """A named set of cuts."""

    kind: Literal["buckets"] = "buckets"
    name: Name
    cut: Cut
    labels: list[str] | None = None
