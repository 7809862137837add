"""The part of a sheet that lies under one member of a level, as a sheet of its own; its numbers are those of the whole,
and of what lies outside it, totals and tie-out too, it tells nothing."""

from dataclasses import replace

import numpy as np

from kalendor.core.sheet.arrange import GRAND, Rows
from kalendor.core.sheet.sheet import Sheet
from kalendor.errors import DefinitionError
from kalendor.output.handover import Handover


def members(sheet: Sheet, level: str) -> list[int]:
    """The lines of a level, in order as shown.

    Raises DefinitionError for a level that does not make lines.
    """
    names = [one.name for one in sheet.lines.levels]
    if level not in names:
        raise DefinitionError(f"there is no level {level!r} among the lines; there are {', '.join(names) or 'none'}")
    depth = names.index(level) + 1
    shown = sheet.lines.shown.lines.tolist()
    return list(dict.fromkeys(line for line in shown if sheet.lines.depth[line] == depth))


def extract(sheet: Sheet, member: int) -> Sheet:
    """The lines at and under a member; the grand total is left to the whole."""
    lines = sheet.lines
    depth = int(lines.depth[member])
    own = lines.above(lines.shown.lines, depth) == member
    kept = [i for i in np.flatnonzero(own).tolist() if lines.shown.roles[i] != GRAND]
    rows = Rows(lines.shown.lines[kept], tuple(lines.shown.roles[i] for i in kept))
    path = " › ".join(lines.path(member))
    note = f"Of {sheet.title}: {path} alone. Shares and ranks are those within the whole report."
    here = set(np.flatnonzero(lines.above(np.arange(lines.count), depth) == member).tolist())
    own_notes = tuple(n for n in sheet.footnotes if not n.gone and (n.line is None or n.line in here))
    return replace(
        sheet,
        title=f"{sheet.title}: {path}",
        lines=replace(lines, shown=rows),
        notes=(*sheet.notes, note),
        footnotes=own_notes,
        part_of=sheet.title,
    )


def parted(given: Handover, level: str) -> list[tuple[str, Handover]]:
    """A sheet once for each member of a level, by their headings, without the words that are of the whole.

    Raises DefinitionError for a level that does not make lines.
    """
    lines = given.sheet.lines
    return [(lines.heading(at), part(given, at)) for at in members(given.sheet, level)]


def part(given: Handover, member: int) -> Handover:
    """The part of a sheet under a member, without the words that are of the whole."""
    return replace(given, sheet=extract(given.sheet, member), headline=(), told=())
