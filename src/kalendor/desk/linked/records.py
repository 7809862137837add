"""The records behind a number of a linked source; only the partitions that contain some are read."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.figures.operand import Operand
from kalendor.core.figures.takings import Takings
from kalendor.core.groupings.entries import grouped as levels_of
from kalendor.core.partials.condensing import RECORDS_OF, rows_of
from kalendor.core.partials.joining import shifted, under
from kalendor.core.placing.material import Material
from kalendor.core.plan import Plan, grounded
from kalendor.core.takes.takes import TAKES
from kalendor.core.trail.trail import Trail
from kalendor.core.values.columns import Column, Records
from kalendor.core.values.keys import Key, key
from kalendor.core.values.notation import grouped
from kalendor.definitions.figure import Taken
from kalendor.desk.kept_parts import LostError, Node
from kalendor.desk.linked.sheets import Over, check_as_looked_at
from kalendor.errors import DefinitionError
from kalendor.intake.partitions import Partition, lines_before
from kalendor.intake.typed import Reading

Index = NDArray[np.int64]
MOST_LISTED = 200_000
Origin = tuple[str, int]


@dataclass(frozen=True, eq=False)
class Read:
    """Records that were read: the trail with them in place of the rows that represent them, the file and line of each,
    and whether they are complete. `beside`, shape (records,), is the position of each among the records of the sources
    beside, −1 for those that were read."""

    trail: Trail
    origins: Sequence[Origin]
    beside: Index
    whole: bool


def read_for(over: Over, plan: Plan, trail: Trail, most: int | None) -> Read:
    """The records behind each part of a number, at least `most` of each if there are as many, in the order of the
    files; None for all of them.

    Raises DefinitionError if all are too many to be listed, IntakeError for files that changed.
    """
    parts = dict(trail.operand.parts())
    if most is None and trail.operand.counted > MOST_LISTED:
        raise DefinitionError(
            f"{grouped(trail.operand.counted)} records stand behind this number; up to {grouped(MOST_LISTED)} can be sorted, searched"
            " and taken away: question a smaller one, or leave some out"
        )
    reading = _Reading(over, plan, {name: part for name, part in parts.items() if part.rows is not None}, most)
    reading.read()
    return reading.result(trail)


class _Reading:
    """Reads partitions one by one, until there are enough records of each part."""

    def __init__(self, over: Over, plan: Plan, parts: Mapping[str, Operand], most: int | None) -> None:
        every = replace(over.work, manner=replace(over.work.manner, wanted=None))
        self.over, self.plan, self.parts, self.most = replace(over, work=every), plan, parts, most
        self.whole = plan.material
        self.masks = {name: self._mask(part) for name, part in parts.items()}
        self.any = (
            np.logical_or.reduce(list(self.masks.values())) if parts else np.zeros(self.whole.records.count, bool)
        )
        self.records: list[Records] = []
        self.rows: dict[str, list[Index]] = {name: [] for name in parts}
        self.amounts: dict[str, list[Column | None]] = {name: [] for name in parts}
        self.origins: list[Origin] = []
        self.beside: list[Index] = []
        self.left = False

    def _mask(self, part: Operand) -> NDArray[np.bool_]:
        mask = np.zeros(self.whole.records.count, dtype=bool)
        mask[part.rows] = True
        return mask

    def read(self) -> None:
        """Read partitions in their order until there are enough."""
        report, as_of = self.over.report, self.over.work.as_of
        partitions = self.over.parts
        for at in self._holding(self.over.node):
            if self._enough():
                self.left = True
                return
            part = partitions[at][1]
            check_as_looked_at(self.over.own.name, [part])
            reading = self._reading(partitions[at][0], part)
            material = self.over.work.of(reading)
            rows = rows_of(report, self.whole, material, as_of, at << RECORDS_OF)
            file, before = part.path.relative_to(self.over.link.folder).as_posix(), lines_before(part)
            self._add(material, rows, file, reading.lines.astype(np.int64) + before)
        if report.beside and not self._enough():
            material = self.over.beside(condense=False)
            rows = rows_of(report, self.whole, material, as_of)
            self._add(material, rows)

    def _reading(self, own: Key, part: Partition) -> Reading:
        manner = self.over.work.manner
        return self.over.desk.memory(key("read whole", own, manner.recipe), lambda: manner.read(part))

    def _enough(self) -> bool:
        if self.most is None:
            return False
        return all(self._count(name) >= min(self.most, one.counted) for name, one in self.parts.items())

    def _holding(self, node: Node, first: int = 0) -> Iterator[int]:
        """Positions of the partitions that contain some of the rows, in order."""
        if node.size > 1 or self._holds(node, first):
            if not node.under:
                yield first
            at = first
            for one in node.under:
                if one.size == 1 or self._holds(one, at):
                    yield from self._holding(one, at)
                at += one.size

    def _holds(self, node: Node, first: int) -> bool:
        try:
            partial = shifted(self.over.keeping.value(node), first << RECORDS_OF)
        except LostError:  # unknown until the partitions beneath are read
            return True
        rows = rows_of(self.over.report, self.whole, partial, self.over.work.as_of)
        return bool(self.any[rows[rows >= 0]].any())

    def _add(self, material: Material, rows: Index, file: str = "", lines: Index | None = None) -> None:
        """Add the wanted records of a partition, from these lines of a file, or from sources beside."""
        own = {name: np.flatnonzero((rows >= 0) & mask[rows]) for name, mask in self.masks.items()}
        if self.most is not None:
            first = {name: found[: max(0, self.most - self._count(name))] for name, found in own.items()}
            self.left = self.left or any(len(first[name]) < len(own[name]) for name in own)
            own = first
        chosen = np.unique(np.concatenate([np.zeros(0, dtype=np.int64), *own.values()]))
        if not len(chosen):
            return
        report, as_of = self.over.report, self.over.work.as_of
        beside = lines is None
        ground = grounded(report, material if beside else _some(material, chosen), as_of, as_of)
        takings = Takings(ground, levels_of(ground, report.down, report.across).signs)
        start = sum(one.count for one in self.records)
        for name, part in self.parts.items():
            figure = next(f for f in report.figures if f.name == part.figure)
            assert isinstance(figure, Taken)
            at = np.searchsorted(chosen, own[name])
            self.rows[name].append(at + start)
            self.amounts[name].append(TAKES[figure.take].gives(own[name] if beside else at, takings.of(figure)[0]))
        self.records.append(ground.records.take(chosen) if beside else ground.records)
        self.origins += [("", 0)] * len(chosen) if lines is None else [(file, line) for line in lines[chosen].tolist()]
        self.beside.append(chosen if beside else np.full(len(chosen), -1))

    def _count(self, name: str) -> int:
        return sum(map(len, self.rows[name]))

    def result(self, trail: Trail) -> Read:
        """The trail with the records that were read."""
        count = sum(one.count for one in self.records)
        records = self.plan.ground.records.take(np.zeros(0, dtype=np.int64))
        if count:
            names = list(self.records[0].columns)
            records = Records({name: under([one.columns[name] for one in self.records]) for name in names}, count)
        ground = replace(self.plan.ground, records=records, condensed=None, origin=None)
        parts = {name: self._listed(name, part) for name, part in self.parts.items()}
        operand = _with_parts(trail.operand, parts)
        found = replace(trail, ground=ground, operand=operand, own=count)
        beside = np.concatenate([np.zeros(0, dtype=np.int64), *self.beside])
        return Read(found, self.origins, beside, not self.left)

    def _listed(self, name: str, part: Operand) -> Operand:
        rows = self.rows[name]
        given = self.amounts[name]
        amounts = None if not given or any(one is None for one in given) else under([a for a in given if a is not None])
        found = np.concatenate(rows) if rows else np.zeros(0, dtype=np.int64)
        return replace(part, rows=found, amounts=amounts, times=None, view=None)


def _some(material: Material, rows: Index) -> Material:
    """Some of the records of a material."""
    return replace(material, records=material.records.take(rows))


def _with_parts(operand: Operand, parts: Mapping[str, Operand]) -> Operand:
    """An operand whose parts taken from records are those given, by their names among its parts."""
    by_own = {id(part): parts[name] for name, part in operand.parts() if name in parts}

    def put(one: Operand) -> Operand:
        found = by_own.get(id(one))
        return found if found is not None else replace(one, of=tuple(put(other) for other in one.of), times=None)

    return put(operand)
