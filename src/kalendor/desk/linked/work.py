"""What workers do with the partitions of linked sources. Arguments and results are plain values, never code."""

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from kalendor import VERSION
from kalendor.core.groupings.ground import Groupings
from kalendor.core.partials.condensing import condensed
from kalendor.core.partials.stored import columns_from_bytes, columns_to_bytes, to_bytes
from kalendor.core.placing.made_columns import with_made
from kalendor.core.placing.material import Material, as_of_column
from kalendor.core.values.columns import Records, column_days
from kalendor.definitions.report import MadeColumn
from kalendor.desk.partitioned import check_version, groupings_from, recipe_from, report_from
from kalendor.errors import IntakeError
from kalendor.intake.column_files import read_columns
from kalendor.intake.partitions import Partition, partitions, read_partition, recipe_of, sample_of
from kalendor.intake.specimen import Facts, Specimen, specimen_of
from kalendor.intake.text import Layout
from kalendor.intake.together import heading_key
from kalendor.intake.typed import Reading
from kalendor.store.linked import Part
from kalendor.store.record_rows import SourceColumn
from kalendor.store.sources import recipe_json

PIECE = 1 << 22
SAMPLE_BYTES = 8 << 20
TOLD = "columns.json"
_MADE: TypeAdapter[list[MadeColumn]] = TypeAdapter(list[MadeColumn])


@dataclass(frozen=True)
class Manner:
    """How the files of a linked source are read: by its recipe, as JSON, with the headings of its first file. With
    `wanted`, in lower case, only those columns are read if the format allows it, and computed."""

    recipe: str
    headings: tuple[str, ...]
    wanted: frozenset[str] | None = None
    version: str = VERSION

    def read(self, part: Partition) -> Reading:
        """The records of a partition.

        Raises IntakeError, and DefinitionError if the worker runs another version.
        """
        check_version(self.version)
        wanted = None if self.wanted is None else _wanted(self)
        reading = read_partition(part, recipe_from(self.recipe), wanted, "put others into a folder of their own")
        odd = {heading_key(h) for h in reading.headings} ^ {heading_key(h) for h in self.headings}
        if odd and self.wanted is None:
            heading = next(h for h in (*self.headings, *reading.headings) if heading_key(h) in odd)
            raise IntakeError(f"{part.path}: its columns are not those of the other files; they differ in {heading!r}")
        return reading


def _wanted(manner: Manner) -> Any:
    known = manner.wanted or frozenset()
    how = recipe_from(manner.recipe).columns
    names = {heading_key(h) for n, one in how.items() if n.casefold() in known for h in (n, *one.headings)}
    return lambda heading: heading_key(heading) in names


@dataclass(frozen=True)
class Work:
    """A report over a linked source: documents as JSON, the source's columns and made columns, and the folders of the records of other
    sources, by name, with their made columns."""

    manner: Manner
    report: str
    groupings: tuple[str, ...]
    columns: tuple[SourceColumn, ...]
    made: str
    others: tuple[tuple[str, str], ...]
    as_of: date

    def material(self, part: Partition) -> Material:
        """The material of a partition, without the sources beside.

        Raises IntakeError or DefinitionError.
        """
        return self.of(self.manner.read(part))

    def of(self, reading: Reading) -> Material:
        """The material of given records, likewise."""
        there = reading.records.columns
        own = {c.name: c.told_of(there[c.name]) for c in self.read_columns}
        return replace(
            self.made_of(Records(own, reading.records.count)), refused=len(reading.refused), empty=reading.empty
        )

    def made_of(self, records: Records) -> Material:
        """The material of a partition's records, with the source's made columns that the report depends on."""
        wanted, others = self.manner.wanted, others_from(self.others)
        made = [one for one in _made(self.made) if wanted is None or one.name.casefold() in wanted]
        return Material(with_made(records, made, others), groupings_from(self.groupings), others, part=True)

    @property
    def read_columns(self) -> list[SourceColumn]:
        """The columns of the source that the report depends on."""
        wanted = self.manner.wanted
        return [c for c in self.columns if wanted is None or c.name.casefold() in wanted]


@dataclass(frozen=True)
class Sampled:
    """How all files of a source are read, found from the first records of one: the recipe as JSON, the headings and,
    for delimited text, the layout."""

    recipe: str
    headings: tuple[str, ...]
    layout: Layout | None


def sample_in(recipe: str | None, part: Partition) -> tuple[int, Sampled]:
    """The number of a partition that is a whole file, and what its first records show, read by a recipe if one is
    known.

    Raises IntakeError if it cannot be read.
    """
    found = sample_of(part.path, SAMPLE_BYTES, None if recipe is None else recipe_from(recipe), None)
    return part.number, Sampled(recipe_json(recipe_of(found)), found.headings, found.layout)


def looked_at(how: tuple[Layout | None, int], part: Partition) -> tuple[int, tuple[str, tuple[Part, ...]]]:
    """The number of a partition that is a whole file, the file's SHA-256, and the partitions of about `how[1]` bytes into
    which it is cut.

    Raises IntakeError if it cannot be read.
    """
    layout, most = how
    digest = hashlib.sha256()
    try:
        with part.path.open("rb") as file:
            while piece := file.read(PIECE):
                digest.update(piece)
    except OSError as error:
        raise IntakeError(f"{part.path}: cannot be read ({error.strerror or error})") from None
    cut = partitions([part.path], most, layout)
    part.check()
    return part.number, (digest.hexdigest(), tuple(Part(p.weight, p.groups, p.heading, p.first, p.last) for p in cut))


def specimen_in(manner: Manner, part: Partition) -> tuple[int, bytes]:
    """The number of a partition, and its specimen as bytes.

    Raises IntakeError or DefinitionError.
    """
    return part.number, specimen_to_bytes(specimen_of(manner.read(part)))


def partial_in(work: Work, part: Partition) -> tuple[int, bytes]:
    """The number of a partition, and its partial as bytes, with positions counted from its own first record.

    Raises IntakeError or DefinitionError.
    """
    material = work.material(part)
    found = condensed(report_from(work.report), material, work.as_of, 0, whole=False, worded=True)
    return part.number, to_bytes(replace(found, groupings=Groupings()))


def last_day_in(work: Work, part: Partition) -> tuple[int, bytes]:
    """The number of a partition, and the last day of the column that determines the as-of date, as JSON: days since
    1970-01-01."""
    report = report_from(work.report)
    material = work.material(part)
    records = with_made(material.records, report.columns, material.looked_up or {})
    column = records.columns.get(as_of_column(report) or "")
    span = column_days(column) if column is not None else None
    return part.number, json.dumps(None if span is None else span[1]).encode()


def specimen_to_bytes(found: Specimen) -> bytes:
    """A specimen as bytes."""
    return columns_to_bytes(found.records.columns, [found.facts.as_json(), found.lines.tolist()])


def specimen_from_bytes(content: bytes) -> Specimen:
    """Inverse of `specimen_to_bytes`; DamagedError if it is incomplete."""
    columns, (facts, lines) = columns_from_bytes(content)
    return Specimen(Records(columns, len(lines)), np.array(lines, dtype=np.int64), Facts.from_json(facts))


@lru_cache(maxsize=4)
def others_from(folders: tuple[tuple[str, str], ...]) -> dict[str, Records]:
    """Records of sources from the folders in which they were stored for workers."""
    return {name: read_columns(Path(one), json.loads((Path(one) / TOLD).read_text("utf-8"))) for name, one in folders}


@lru_cache(maxsize=4)
def _made(text: str) -> list[MadeColumn]:
    return _MADE.validate_json(text)


def made_json(made: Sequence[MadeColumn]) -> str:
    """Made columns as JSON."""
    return _MADE.dump_json(list(made), by_alias=True, exclude_none=True).decode()
