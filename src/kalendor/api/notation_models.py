"""Response model of the notation of numbers and days."""

from dataclasses import asdict
from typing import Literal

from kalendor.api.strict import BaseModel
from kalendor.core.values.notation import Dates, Notation


class NotationView(BaseModel):
    """How numbers and days are written: the decimal mark, the thousands mark (empty for none), and what comes first in
    a date; `mixed` is 31 Jul 2026 in words and 2026-07-31 in lists."""

    decimal: Literal[".", ","]
    thousands: Literal[",", ".", "\u00a0", "\u2019", ""]
    dates: Dates

    @classmethod
    def of(cls, notation: Notation) -> "NotationView":
        """The model of a notation."""
        return cls.model_validate(asdict(notation))

    def chosen(self) -> Notation:
        """The notation of a model."""
        return Notation(self.decimal, self.thousands, self.dates)
