"""Lines computed from other lines by a formula: margin = sales − cost. They have no records and are not counted in
totals."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.expressions import names_in, quoted_in
from kalendor.core.formulas.formulas import evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.levels import ORDINARY, WORKED, Level
from kalendor.core.placing.folding import made_room, with_member
from kalendor.core.placing.frame import Always, Axis, Frame
from kalendor.core.placing.placer import LEFT_OUT, Fold
from kalendor.core.values.columns import EXACT, INT64_MOST, Column, Mask, brought_to
from kalendor.definitions.report import WorkedLine
from kalendor.errors import DefinitionError

Index = NDArray[np.int64]


@dataclass(frozen=True)
class Working:
    """A computed line on its level: `depth` counts from 1, `code` is its member, `operands` the members by name."""

    line: WorkedLine
    depth: int
    code: int
    operands: dict[str, tuple[int, ...]]


def with_worked(levels: Sequence[Level], lines: Sequence[WorkedLine]) -> tuple[Level, ...]:
    """The levels with a member for each computed line, after the line given, else after all ordinary ones.

    Raises DefinitionError for an unknown level, and for a name that a line has already.
    """
    found = list(levels)
    for line in lines:
        k = next((i for i, level in enumerate(found) if level.name == line.level), None)
        if k is None:
            raise DefinitionError(
                f"line {line.name!r}: there is no level {line.level!r} among the lines; there are "
                f"{', '.join(level.name for level in found) or 'none'}"
            )
        level = found[k]
        if level.kind != "category":
            raise DefinitionError(
                f"line {line.name!r}: lines are made from lines of categories; {line.level!r} is none"
            )
        if line.name in level.members.labels:
            raise DefinitionError(f"line {line.name!r}: {line.level} has a line of that name already; choose another")
        special = level.members.special
        at = int(np.isin(special, (ORDINARY, WORKED)).sum())
        if line.after in level.members.labels:
            at = max(i for i, label in enumerate(level.members.labels) if label == line.after) + 1
        members = with_member(level.members, at, line.name, WORKED)
        found[k] = replace(level, codes=made_room(level.size, at)[level.codes], members=members)
    return tuple(found)


def workings(levels: Sequence[Level], lines: Sequence[WorkedLine]) -> tuple[Working, ...]:
    """The place and the operands of each computed line; each may use those before it.

    Raises DefinitionError for a formula that cannot be read or that uses the line itself.
    """
    found = []
    for line in lines:
        k = next(i for i, level in enumerate(levels) if level.name == line.level)
        labels = levels[k].members.labels
        code = next(i for i, name in enumerate(labels) if name == line.name and levels[k].members.special[i] == WORKED)
        try:
            exact = quoted_in(line.formula)
            operands = {name: _members(labels, name, name in exact) for name in names_in(line.formula)}
        except DefinitionError as error:
            raise DefinitionError(f"line {line.name!r}: {error}") from None
        if any(code in codes for codes in operands.values()):
            raise DefinitionError(f"line {line.name!r} is made from itself")
        found.append(Working(line, k + 1, code, operands))
    return tuple(found)


def _members(labels: Sequence[str], name: str, exact: bool) -> tuple[int, ...]:
    """The members with that label; ignoring case if none matches exactly, and the name is not quoted."""
    found = tuple(i for i, label in enumerate(labels) if label == name)
    if found or exact:
        return found
    return tuple(i for i, label in enumerate(labels) if label.casefold() == name.casefold())


def missing(made: Sequence[Working]) -> list[str]:
    """The lines used in formulas that do not exist on the sheet, in words."""
    return [
        f"{w.line.name}: there is no line {name!r} here, and it counts as nothing"
        for w in made
        for name, codes in w.operands.items()
        if not codes
    ]


def shown_too(always: Always | None, levels: Sequence[Level]) -> Always | None:
    """The members shown without records, computed lines among them; nothing is under a computed line."""
    worked = [np.flatnonzero(level.members.special == WORKED) for level in levels]
    if not any(len(codes) for codes in worked):
        return always

    def shown(paths: NDArray[np.int32], k: int) -> tuple[Index, Index]:
        above, member = always(paths, k) if always is not None else (np.zeros(0, np.int64), np.zeros(0, np.int64))
        under = np.ones(len(paths), dtype=bool)
        for j in range(k):
            under &= ~np.isin(paths[:, j], worked[j])
        kept = under[above]
        homes = np.flatnonzero(under)
        extra = np.repeat(homes, len(worked[k])), np.tile(worked[k], len(homes))
        return np.concatenate([above[kept], extra[0]]), np.concatenate([member[kept], extra[1]])

    return shown


def with_operands(always: Always | None, made: Sequence[Working], folds: Sequence[Fold]) -> Always:
    """The same, and beside each computed line the members that it is computed from, with or without records there: a
    figure that reaches back to earlier periods has a value on them. Members within a top's rest are excluded."""
    rests = [fold for fold in folds if fold.down and fold.target != LEFT_OUT]

    def shown(paths: NDArray[np.int32], k: int) -> tuple[Index, Index]:
        above, member = always(paths, k) if always is not None else (np.zeros(0, np.int64), np.zeros(0, np.int64))
        for working in made:
            if working.depth != k + 1:
                continue
            homes = above[member == working.code]
            codes = np.array(sorted({c for some in working.operands.values() for c in some}), dtype=np.int64)
            beside = np.repeat(homes, len(codes)), np.tile(codes, len(homes))
            path = [*paths[beside[0]].T, beside[1]]
            out = np.zeros(len(beside[1]), dtype=bool)
            for fold in rests:
                if fold.depth == k + 1:
                    out |= fold.hit(path, len(out))
            above = np.concatenate([above, beside[0][~out]])
            member = np.concatenate([member, beside[1][~out]])
        return above, member

    return shown


def lines_of(axis: Axis, working: Working) -> tuple[Index, dict[str, Index]]:
    """The lines of a computed line, one under each parent, and beside each the lines it is computed from (−1: none)."""
    here = np.arange(axis.offsets[working.depth], axis.offsets[working.depth + 1])
    here = here[axis.path[here, working.depth - 1] == working.code]
    step, above = axis.steps[working.depth - 1], axis.offsets[working.depth - 1]
    parents = axis.parent[here] - above
    beside = {}
    for name, codes in working.operands.items():
        found = np.full(len(here), -1, dtype=np.int64)
        for code in codes:
            at = step.locate(parents * step.size + code)
            found = np.where(found < 0, at, found)
        beside[name] = np.where(found < 0, -1, found + axis.offsets[working.depth])
    return here, beside


def idle(axis: Axis, made: Sequence[Working], propped: Mask) -> Mask:
    """Shape (lines,): True for computed lines beside none of the lines that they are computed from, and for the
    `propped` ones, which exist only for them."""
    result = propped.copy()
    for working in made:
        here, beside = lines_of(axis, working)
        held = np.zeros(len(here), dtype=bool)
        for lines in beside.values():
            held |= (lines >= 0) & ~result[np.maximum(lines, 0)]
        result[here] = ~held
    return result


def worked_mask(axis: Axis) -> Mask:
    """Shape (lines,): True for worked-out lines."""
    found: Mask = axis.specials() == WORKED
    return found


def filled(cells: Column, frame: Frame, made: Sequence[Working], additive: bool, as_of: int) -> Column:
    """A figure's cells with those of computed lines, by their formulas over the same figure's cells.

    For a figure that adds up, a missing line counts as 0 if another exists. A result that the figure's places cannot
    hold is kept unrounded beside them.
    """
    width = frame.columns.count
    for working in made:
        here, beside = lines_of(frame.lines, working)
        operands = {name: _at(cells, lines, width) for name, lines in beside.items()}
        held = np.zeros(len(here) * width, dtype=bool)
        for operand in operands.values():
            held |= operand.present
        if additive:
            operands = {name: _with_nought(operand, held) for name, operand in operands.items()}
        try:
            result = evaluate(working.line.formula, Scope(operands, len(here) * width, as_of)).broadcast(len(held))
        except DefinitionError as error:
            raise DefinitionError(f"line {working.line.name!r}: {error}") from None
        result = replace(result, blank=result.blanks | ~held)
        cells = _put(cells, (here[:, None] * width + np.arange(width)).reshape(-1), result)
    return cells


def _at(cells: Column, lines: Index, width: int) -> Column:
    at = (np.maximum(lines, 0)[:, None] * width + np.arange(width)).reshape(-1)
    found = cells.take(at)
    return replace(found, blank=found.blanks | np.repeat(lines < 0, width))


def _with_nought(operand: Column, held: Mask) -> Column:
    nought = operand.blanks & held
    values, blank = np.where(nought, 0, operand.values), operand.blanks & ~nought
    unrounded = None if operand.unrounded is None else np.where(nought, np.nan, operand.unrounded)
    return replace(operand, values=values, blank=blank, unrounded=unrounded)


def _put(cells: Column, at: Index, result: Column) -> Column:
    """The cells with a result at the positions `at`; rounded to the cells' places, with the unrounded value where they
    differ."""
    if cells.kind not in EXACT:
        values, blank = cells.floats(), cells.blanks.copy()
        values[at], blank[at] = result.floats(), result.blanks
        return replace(cells, values=values, blank=blank)
    units = brought_to(result, cells.places) if result.kind in EXACT and result.places <= cells.places else None
    own = np.full(len(at), np.nan) if result.unrounded is None else result.unrounded
    if units is None:
        own = np.where(result.present, result.floats(), np.nan)
        units = np.array([round(v * 10**cells.places) for v in result.floats().tolist()], dtype=object)
    wide = object if object in (cells.values.dtype, units.dtype) else cells.values.dtype
    values, blank = cells.values.astype(wide), cells.blanks.copy()
    unrounded = np.full(len(cells), np.nan) if cells.unrounded is None else cells.unrounded.copy()
    values[at], blank[at], unrounded[at] = units, result.blanks, own
    if wide is object and not any(abs(v) > INT64_MOST for v in values.tolist()):
        values = values.astype(np.int64)
    return replace(cells, values=values, blank=blank, unrounded=unrounded)
