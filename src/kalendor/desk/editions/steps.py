"""The steps from an edition's sheet to another's, or to the current one, one for each cause: records first, then
look-ups, groupings and calendars, then the report itself."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from kalendor.core.sheet.moves import Move, Place, Places, moves
from kalendor.core.sheet.sheet import Sheet
from kalendor.core.values.keys import key
from kalendor.desk.desk import Desk
from kalendor.desk.editions.issuing import opened
from kalendor.desk.editions.standing import ingredients_now
from kalendor.desk.ingredients import HeldGrouping, HeldSource, Ingredients, looked_up_by
from kalendor.desk.sheets import sheet_from
from kalendor.errors import KalendorError

TITLES = {
    "taken_back": "Files were taken back", "late": "Records came late",
    "by_hand": "Adjustments were entered by hand", "corrected": "Records were corrected",
    "looked_up": "Look-ups and made columns changed", "groupings": "Groupings and calendars changed",
    "report": "The report changed",
}  # fmt: skip


@dataclass(frozen=True, eq=False)
class Step:
    """One step from the earlier sheet to the later: its kinds (several if a sheet between them cannot be computed), the
    ingredients after it, and the sheet."""

    kinds: tuple[str, ...]
    after: Ingredients
    sheet: Sheet
    places: Places

    @property
    def title(self) -> str:
        """What changed, in words."""
        return "; ".join([TITLES[self.kinds[0]], *(TITLES[k][:1].lower() + TITLES[k][1:] for k in self.kinds[1:])])


@dataclass(frozen=True, eq=False)
class Moved:
    """All steps from an edition to another, or to the current data: the sheet first (`steps[0]`), then a step for each
    cause in the fixed order, and the changed cells; `report` is the report's id."""

    report: int
    steps: tuple[Step, ...]
    cells: tuple[Move, ...]

    def values(self, place: Place) -> list[Any]:
        """A cell's value after each step, from the earlier sheet on."""
        return [step.places.value(place) for step in self.steps]


def moved(desk: Desk, edition_id: int, against: int | None) -> Moved:
    """The differences between an edition and another (issued before or after), or the current data (None).

    Raises MissingError if one does not exist, DefinitionError if the report cannot be computed now.
    """
    before = opened(desk, edition_id)
    if against is None:
        after = ingredients_now(desk, before.edition)
        sheet = sheet_from(desk, after)
    else:
        other = opened(desk, against)
        after, sheet = other.ingredients, other.sheet
    own = key("moved", before.edition.sha256, after.rests, against)
    return desk.sheets(
        own, lambda: _moved(desk, before.edition.report_id, before.ingredients, before.sheet, after, sheet)
    )


def _moved(desk: Desk, report: int, before: Ingredients, was: Sheet, after: Ingredients, now: Sheet) -> Moved:
    first, last = Places(was), Places(now)
    steps = [Step((), before, was, first)]
    pending: list[str] = []
    between = list(_between(before, after, desk))
    for kind, ingredients in between[:-1]:
        pending.append(kind)
        if ingredients.rests == steps[-1].after.rests:
            pending.remove(kind)
            continue
        try:
            sheet = sheet_from(desk, ingredients)
        except KalendorError:
            continue  # cannot be computed alone: combined with the next step
        steps.append(Step(tuple(pending), ingredients, sheet, Places(sheet)))
        pending = []
    steps.append(Step((*pending, "report"), after, now, last))
    return Moved(report, tuple(steps), tuple(moves(first, last)))


def _between(before: Ingredients, after: Ingredients, desk: Desk) -> Iterator[tuple[str, Ingredients]]:
    """The ingredients of the sheets in between, in the fixed order; the last are those of the later sheet."""
    later = {source.id: source for source in after.sources}
    laid = {name.casefold() for name in (before.report.source, *(b.source for b in before.report.beside))}

    def with_files(found: Ingredients, kind: str) -> Ingredients:
        changed = []
        for source in found.sources:
            now = later.get(source.id)
            if source.name.casefold() in laid and now is not None:
                fresh = _with_columns(source, now)
                changed.append(_stepped(desk, fresh, now, kind))
            else:
                changed.append(source)
        return replace(found, sources=tuple(changed))

    found = before
    for kind in ("taken_back", "late", "by_hand", "corrected"):
        found = with_files(found, kind)
        yield kind, found
    found = replace(found, sources=_looked_up(found, later, after))
    yield "looked_up", found
    found = replace(found, groupings=tuple(_later(grouping, after) for grouping in found.groupings))
    yield "groupings", found
    yield "report", after


def _later(grouping: HeldGrouping, after: Ingredients) -> HeldGrouping:
    """A grouping's later state, under the name that the report uses; one created anew under its name replaces it."""
    own = next((g for g in after.groupings if g.id == grouping.id), None)
    alike = (g for g in after.groupings if (g.body.kind, g.body.name) == (grouping.body.kind, grouping.body.name))
    now = own or next(alike, None)
    if now is None:
        return grouping
    return HeldGrouping(now.id, now.revision, now.body.model_copy(update={"name": grouping.body.name}))


def _stepped(desk: Desk, source: HeldSource, now: HeldSource, kind: str) -> HeldSource:
    """A source's files after a step: without undone ones, then with those that came and replaced nothing, then with
    records entered by hand, then all."""
    stay = set(source.intakes) & set(now.intakes)
    if kind == "taken_back":
        return replace(source, intakes=tuple(sorted(stay)))
    fresh = [id for id in now.intakes if id not in source.intakes]
    if kind == "corrected":
        return replace(now, name=source.name, columns=source.columns, made=source.made)
    came = [
        one for one in map(desk.intakes.one, fresh) if one.replaced == 0 and (kind == "by_hand" or one.origin != "hand")
    ]
    by_hand = now.by_hand if kind == "by_hand" else source.by_hand
    return replace(source, intakes=tuple(sorted([*stay, *(one.id for one in came)])), by_hand=by_hand)


def _with_columns(source: HeldSource, now: HeldSource) -> HeldSource:
    """A source with its later columns, if those it had are among them unchanged."""
    here = {c.name: c for c in now.columns}
    return replace(source, columns=now.columns) if all(here.get(c.name) == c for c in source.columns) else source


def _looked_up(found: Ingredients, later: dict[int, HeldSource], after: Ingredients) -> tuple[HeldSource, ...]:
    """The sources with their later look-ups and made columns, under the names that the report uses."""
    there = [replace(later[s.id], name=s.name) if s.id in later else s for s in found.sources]
    names = {s.name.casefold() for s in there}
    wanted = {name.casefold() for s in there for name in looked_up_by(s.made)}
    more = [s for s in after.sources if s.name.casefold() in wanted - names]
    return (*there, *more)
