"""Computes a report partition by partition, on any executor of `concurrent.futures`, in bounded memory.

A worker receives the definition, the partition and the recipe as plain values, and returns a partial.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from functools import lru_cache
from pathlib import Path
from typing import cast

from kalendor import VERSION
from kalendor.core.groupings.ground import Groupings, groupings
from kalendor.core.partials.condensing import RECORDS_OF, condensed, merged
from kalendor.core.placing.made_columns import with_made
from kalendor.core.placing.material import Material, as_of_column
from kalendor.core.values.columns import Records, column_days, day_of
from kalendor.definitions.document import Document, read_json
from kalendor.definitions.kinds import Grouping, definition
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.report import Report
from kalendor.desk.files import Asked, Files
from kalendor.desk.spreading import Spreading
from kalendor.errors import DefinitionError
from kalendor.intake.partitions import (
    Partition,
    check_headings,
    partitions,
    read_partition,
    recipe_of,
    sample_of,
)
from kalendor.intake.reading import read_file
from kalendor.intake.typed import Reading

AT_ONCE = 8  # partials merged at a time
LEAST = 1 << 16  # least bytes of a partition, whatever a worker's memory limit
SAMPLE = 8 << 20  # bytes of the first file from which the recipe for all is found
SHARE = 12  # a partition's bytes as a fraction of a worker's memory


@dataclass(frozen=True)
class Work:
    """What a worker needs beside a partition: documents as JSON, the paths of sources to look up from, the as-of date,
    and whether only the columns that the report needs are read; `worded`: the sheet is put into words. `headings` and
    `name` are those of the sample."""

    report: str
    groupings: tuple[str, ...]
    recipe: str
    lookups: tuple[tuple[str, str], ...]
    as_of: date | None
    pruned: bool
    worded: bool
    headings: tuple[str, ...]
    name: str
    version: str = VERSION

    def read(self, part: Partition) -> Reading:
        """The records of a partition.

        Raises IntakeError, and DefinitionError if the worker runs another version.
        """
        check_version(self.version)
        recipe, wanted = recipe_from(self.recipe), None
        if self.pruned:
            wanted = Asked(report_from(self.report), [], recipe).wanted([part.path])
        reading = read_partition(part, recipe, wanted)
        check_headings(reading, self.headings, self.name)
        return reading


def check_version(asking: str) -> None:
    """Raises DefinitionError if a worker runs another version than the requesting process."""
    if asking != VERSION:
        raise DefinitionError(
            f"the workers have Kalendor {VERSION}, and this is {asking}; install one version everywhere"
        )


def partial_of(work: Work, part: Partition) -> Material:
    """The partial of a partition, without the groupings.

    Raises IntakeError or DefinitionError.
    """
    reading, report = work.read(part), report_from(work.report)
    material = Material(
        reading.records,
        groupings_from(work.groupings),
        _looked_up(work.lookups),
        len(reading.refused),
        empty=reading.empty,
    )
    assert work.as_of is not None
    found = condensed(
        report, material, work.as_of, part.number << RECORDS_OF, whole=part.number == 0, worded=work.worded
    )
    return replace(found, groupings=Groupings())


def last_day_of(work: Work, part: Partition) -> int | None:
    """The last day in the column that determines the as-of date, in days since 1970-01-01; None if the partition has
    none."""
    report = report_from(work.report)
    records = with_made(work.read(part).records, report.columns, _looked_up(work.lookups))
    column = records.columns.get(as_of_column(report) or "")
    span = column_days(column) if column is not None else None
    return None if span is None else span[1]


@lru_cache(maxsize=4)
def report_from(text: str) -> Report:
    """A report from its JSON."""
    found = definition(read_json(text.encode(), "report"), "report", ("report",))
    assert isinstance(found, Report)
    return found


@lru_cache(maxsize=4)
def recipe_from(text: str) -> Recipe:
    """A recipe from its JSON."""
    return Recipe.model_validate_json(text)


@lru_cache(maxsize=4)
def groupings_from(texts: tuple[str, ...]) -> Groupings:
    """Groupings from the JSON of each."""
    kinds = ("tree", "calendar", "buckets")
    return groupings(
        [cast(Grouping, definition(read_json(text.encode(), "grouping"), "grouping", kinds)) for text in texts]
    )


@lru_cache(maxsize=4)
def _looked_up(paths: tuple[tuple[str, str], ...]) -> dict[str, Records]:
    return {name: read_file(Path(path)).records for name, path in paths}


def from_partitions(
    asked: Asked,
    data: Sequence[Path],
    lookups: dict[str, Path],
    as_of: date | None,
    today: date,
    spreading: Spreading,
    memory: int,
    worded: bool,
) -> tuple[Files, date]:
    """A report with the material of all partitions, each read by a worker within about `memory` bytes, and the as-of
    date.

    Raises IntakeError or DefinitionError.
    """
    wanted = None if worded else asked.wanted(data)
    most = max(LEAST, memory // SHARE)
    sample = sample_of(data[0], min(most, SAMPLE), asked.recipe, wanted)
    parts = partitions(data, most, sample.layout)
    work = Work(
        as_json(asked.report),
        tuple(map(as_json, asked.groupings)),
        as_json(recipe_of(sample)),
        tuple((name, str(path.absolute())) for name, path in lookups.items()),
        as_of or asked.report.as_of,
        wanted is not None,
        worded,
        sample.headings,
        sample.name,
    )
    if work.as_of is None:
        work = replace(work, as_of=_last_day(work, parts, spreading) or today)
    assert work.as_of is not None
    return Files(asked.report, _merged(work, parts, spreading), data, sample), work.as_of


def as_json(document: Document) -> str:
    """A document as JSON."""
    return document.model_dump_json(by_alias=True, exclude_none=True)


def _last_day(work: Work, parts: Sequence[Partition], spreading: Spreading) -> date | None:
    """The as-of date given by the data, if neither the report nor an option sets one."""
    if as_of_column(report_from(work.report)) is None:
        return None
    days = [day for day in spreading.each(last_day_of, work, parts) if day is not None]
    return day_of(max(days)) if days else None


def _merged(work: Work, parts: Sequence[Partition], spreading: Spreading) -> Material:
    report, found = report_from(work.report), groupings_from(work.groupings)
    assert work.as_of is not None
    pending: list[list[Material]] = [[]]
    for partial in spreading.each(partial_of, work, parts):
        pending[0].append(replace(partial, groupings=found))
        for level in range(len(pending)):
            if len(pending[level]) < AT_ONCE:
                break
            one = merged(report, pending[level], work.as_of)
            pending[level] = []
            if level + 1 == len(pending):
                pending.append([])
            pending[level + 1].append(one)
    return merged(report, [one for level in pending for one in level], work.as_of)
