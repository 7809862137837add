"""The differences between an edition and another, or the current data, by cause: in one cell, and on the whole sheet. A
cell's parts are the differences of the sheets in between, so they add up exactly to its change."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from decimal import Decimal
from itertools import pairwise
from typing import Any

from kalendor.core.sheet.moves import Place
from kalendor.desk.desk import Desk
from kalendor.desk.editions.behind import NOTHING, Between, between, between_in_all
from kalendor.desk.editions.steps import Moved, Step
from kalendor.desk.editions.why import Why, placements, reasons
from kalendor.errors import DefinitionError


@dataclass(frozen=True, eq=False)
class Part:
    """What one cause changed in a cell: `by` how much (None if not a number), from what to what, in words and records."""

    title: str
    kinds: tuple[str, ...]
    by: Decimal | None
    was: Any
    now: Any
    words: tuple[Why, ...] = ()
    records: Between = NOTHING


@dataclass(frozen=True, eq=False)
class Cause:
    """What one cause changed on the whole sheet: in words, in the figures' grand totals (the figure and by how much,
    None if not a number), and the records added and removed."""

    title: str
    kinds: tuple[str, ...]
    words: tuple[Why, ...]
    totals: tuple[tuple[str, Decimal | None], ...]
    records: Between


def parts(desk: Desk, found: Moved, place: Place, listed: bool = True) -> list[Part]:
    """What each cause changed in a cell, in the fixed order; if `listed`, with the records added and removed.

    Raises DefinitionError for a cell that is on neither sheet.
    """
    first, last = found.steps[0], found.steps[-1]
    if first.places.at(place) is None and last.places.at(place) is None:
        raise DefinitionError("there is no such cell on either sheet")
    result = []
    for before, step in pairwise(found.steps):
        was, now = before.places.value(place), step.places.value(place)
        part = Part(step.title, step.kinds, difference(was, now), was, now)
        if listed:
            records = between(desk, before, step, place)
            part = replace(part, records=records, words=tuple(_words(desk, found.report, before, step, records)))
        result.append(part)
    return result


def causes(desk: Desk, found: Moved) -> list[Cause]:
    """What each cause changed on the whole sheet, in the fixed order; late records in one list."""
    result = []
    for before, step in pairwise(found.steps):
        figures = [f.name for f in step.sheet.figures if before.places.at(Place(f.name, (), ())) is not None]
        places = [Place(name, (), ()) for name in figures]
        totals = [(p.figure, difference(before.places.value(p), step.places.value(p))) for p in places]
        records = between_in_all(desk, before, step, places)
        words = tuple(_words(desk, found.report, before, step, records))
        result.append(Cause(step.title, step.kinds, words, tuple(totals), records))
    return result


def _words(desk: Desk, report: int, before: Step, step: Step, records: Between) -> Iterator[Why]:
    yield from reasons(desk, report, before.after, step)
    if "groupings" in step.kinds:
        yield from placements(before, step, records)


def difference(was: Any, now: Any) -> Decimal | None:
    """The change of a number, with blank as 0; None if not a number."""
    if any(value is not None and not isinstance(value, Decimal) for value in (was, now)):
        return None
    return (now or Decimal(0)) - (was or Decimal(0))
