"""What changed from one step to the next, in words, each with a link to it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from kalendor.core.groupings.trees import placing
from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.report import Report
from kalendor.definitions.tree import Tree
from kalendor.desk.desk import Desk
from kalendor.desk.editions.behind import Between
from kalendor.desk.editions.steps import Step
from kalendor.desk.ingredients import HeldSource, Ingredients
from kalendor.sentence.writing import brief

SHOWN_VALUES = 12


@dataclass(frozen=True)
class Why:
    """A change in words, and what was changed: a source or a definition (a grouping, the report) by its id."""

    text: str
    kind: Literal["source", "definition"]
    of: int


def reasons(desk: Desk, report: int, before: Ingredients, step: Step) -> Iterator[Why]:
    """The files, made columns, groupings and phrases that changed; `report` is the report's id."""
    after = step.after
    then = {s.id: s for s in before.sources}
    for source in after.sources:
        was = then.get(source.id)
        if was is None or was.intakes == source.intakes:
            continue
        for id in sorted(set(was.intakes) ^ set(source.intakes)):
            intake = desk.intakes.one(id)
            way = "brought in" if intake.origin != "hand" else f"entered by {intake.brought_by or 'hand'}"
            way = way if id in source.intakes else "taken back"
            on = intake.brought_at if id in source.intakes else intake.undone_at or intake.brought_at
            yield Why(f"{intake.file_name}, {way} {on[:10]}", "source", source.id)
    for source in after.sources:
        was = then.get(source.id)
        if was is not None and was.made != source.made:
            yield Why(f"made columns of {source.name}: {_made(was)} → {_made(source)}", "source", source.id)
    known = {g.id: g for g in before.groupings}
    for grouping in after.groupings:
        had = known.get(grouping.id)
        if had is not None and had.body != grouping.body:
            said = f"{grouping.body.name}, revision {had.revision} → {grouping.revision}"
            yield Why(said, "definition", grouping.id)
    if "report" in step.kinds and before.report.worked_part() != after.report.worked_part():
        yield Why(_phrases(before.report, after.report), "definition", report)


def _made(source: HeldSource) -> str:
    return ", ".join(column.name for column in source.made) or "none"


def _phrases(before: Report, after: Report) -> str:
    was, now = brief(before), brief(after)
    return f"{was} → {now}" if was != now else "the same phrases, set otherwise"


def placements(before: Step, step: Step, records: Between) -> Iterator[Why]:
    """Values that moved within the trees, among the records that came and left."""
    then = {g.id: g.body for g in before.after.groupings if isinstance(g.body, Tree)}
    entries = step.after.report.entries_of(CategoryEntry)
    for grouping in step.after.groupings:
        was, body = then.get(grouping.id), grouping.body
        if was is None or not isinstance(body, Tree) or was == body:
            continue
        at = [i for e in entries if e.tree == body.name for i, name in enumerate(records.columns) if name == e.category]
        values = list(dict.fromkeys(one.values[i] for one in records.records for i in at if one.values[i]))
        moved = [(value, _under(was, value), _under(body, value)) for value in values]
        for value, old, new in [one for one in moved if one[1] != one[2]][:SHOWN_VALUES]:
            yield Why(f"{value} from {old} to {new}", "definition", grouping.id)


def _under(tree: Tree, value: str) -> str:
    path = placing(tree, [value]).paths[0]
    labels = [place.label for place in path[:-1]] or [path[-1].label]
    return " › ".join(dict.fromkeys(labels))
