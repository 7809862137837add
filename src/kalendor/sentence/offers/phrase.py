"""A phrase that could be added to a report, and what writes it."""

from collections.abc import Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any, Literal

from kalendor.sentence.names import Names
from kalendor.sentence.parts import core_of, same_figure
from kalendor.sentence.spelling import NoWordsError
from kalendor.sentence.writer import Writer
from kalendor.sentence.writing import ANY_REPORT, tone_of

Way = Literal["down", "across"]


@dataclass(frozen=True)
class Subject:
    """A column as offers describe it. `role` is "number", "period" or "category"; `clock`: it has times of day,
    `groups`: it can be grouped by unchanged, `blank`: some values are blank; `values` are its values, if they are few,
    `cut` round ranges that cover its numbers."""

    name: str
    role: str
    summary: str = ""
    clock: bool = False
    groups: bool = True
    blank: bool = False
    values: Sequence[str] = ()
    cut: Mapping[str, float] | None = None


@dataclass(frozen=True)
class On:
    """The grouping that a phrase would use on a column; a calendar without a name is the civil one."""

    kind: Literal["tree", "calendar"]
    column: str
    name: str


@dataclass(frozen=True)
class Phrase:
    """A text that the sentence reads, to be added to a report.

    `also` are everyday words by which it is found besides its own, `weight` ranks it. `makes` is a calendar that must
    be created before the text is read; `begin` is the part that is begun, for a phrase to be finished by the user: a
    condition on a column (`only`), on the lines of a level (`keep`), or a source to set `beside`.
    """

    text: str
    hint: str
    tone: str
    also: str
    weight: int
    makes: Mapping[str, Any] | None = None
    begin: Mapping[str, str] = field(default_factory=dict)
    on: On | None = None


class Says:
    """Puts into words parts that a report does not have yet; dates and figures are always named."""

    def __init__(self, known: Names, report: Mapping[str, Any]) -> None:
        self.known, self.report = known, report
        self._entries = [*report.get("down", ()), *report.get("across", ())]
        self._writer = Writer(ANY_REPORT, known, short=True)

    def part(self, category: str, value: Any) -> str:
        """The grammar's text for a value.

        Raises NoWordsError if no rule writes it.
        """
        return self._writer.said(category, value)

    def name(self, name: str) -> str:
        """A name as written in the sentence."""
        return self._writer.name(name)

    def figure(self, figure: Mapping[str, Any], also: str, weight: int, hint: str = "figure") -> Iterator[Phrase]:
        """A figure as a phrase, if it can be worded and the report does not have it."""
        if any(same_figure(had, figure) for had in self.report["figures"]):
            return
        with suppress(NoWordsError):
            yield Phrase(self.part("figure_core", dict(figure)), hint, "figure", also, weight)

    def entry(
        self, entry: Mapping[str, Any], ways: Sequence[Way], also: str, weight: int, hint: str, on: On | None = None
    ) -> Iterator[Phrase]:
        """An axis entry as a phrase, for each way that it could be added, unless the report has it."""
        if any(core_of(had) == dict(entry) for had in self._entries):
            return
        with suppress(NoWordsError):
            words = self._writer.entry(dict(entry))
            for n, way in enumerate(ways):
                yield Phrase(f"{way} by {words}", hint, tone_of(entry), also, weight - 2 * n, on=on)

    def condition(self, sql: str, also: str, weight: int) -> Phrase:
        """A condition on records as a phrase."""
        return Phrase(f"only where {self._writer.condition(sql)}", "condition", "condition", also, weight)

    def clause(
        self, category: str, value: Any, also: str, weight: int, hint: str, tone: str = "condition", lead: str = ""
    ) -> Iterator[Phrase]:
        """Another part of a report as a phrase, if it can be worded."""
        with suppress(NoWordsError):
            yield Phrase(lead + self.part(category, value), hint, tone, also, weight)
