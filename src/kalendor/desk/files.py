"""Computes a report from files, without workspace or server."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import cast

from kalendor.core.formulas.expressions import names_in
from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.plan import Plan, planned
from kalendor.core.report import sheet_of, traced
from kalendor.core.values.keys import local
from kalendor.definitions.axis import CategoryEntry
from kalendor.definitions.bundle import Bundle
from kalendor.definitions.document import read_json
from kalendor.definitions.kinds import Definition, Grouping, definition
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.renaming import ColumnsNamed
from kalendor.definitions.report import Report
from kalendor.desk.ahead import Ahead
from kalendor.errors import DefinitionError
from kalendor.intake.content import mapped
from kalendor.intake.parquet import is_parquet
from kalendor.intake.partitions import only
from kalendor.intake.reading import read_file, read_files
from kalendor.intake.typed import Reading
from kalendor.output.handover import Handover, handed


def read_definition(path: Path, *kinds: str) -> Definition:
    """The definition document in a file.

    Raises DefinitionError if it cannot be read or is not one of `kinds`.
    """
    try:
        text = path.read_bytes()
    except OSError as error:
        raise DefinitionError(f"{path}: cannot be read ({error.strerror or error})") from None
    return definition(read_json(text, str(path)), str(path), kinds)


@dataclass(frozen=True, eq=False)
class Files:
    """A report with its material, read from files."""

    report: Report
    material: Material
    data: Sequence[Path]
    reading: Reading

    def plan(self, as_of: date | None, today: date) -> Plan:
        """The report's plan."""
        return planned(self.report, self.material, today, as_of, local())

    def handed(self, as_of: date | None, today: date, worded: bool) -> Handover:
        """The report's sheet, with its wording if requested."""
        plan = self.plan(as_of, today)
        sheet = sheet_of(plan)
        if not worded:
            return Handover(sheet, self.report.export, report=self.report)
        return handed(self.report, sheet, lambda cell: traced(plan, sheet, cell, worded=False))

    def origins(self, rows: Sequence[int]) -> list[tuple[str, int]]:
        """The file and line of records, by position; ("", 0) for records of a source beside."""
        return [self._origin(row) for row in rows]

    def _origin(self, row: int) -> tuple[str, int]:
        if row >= len(self.reading.lines):
            return "", 0
        file = 0 if self.reading.files is None else int(self.reading.files[row])
        return self.data[file].name, int(self.reading.lines[row])


def from_files(
    report: Path,
    data: Sequence[Path],
    recipe: Path | None,
    with_: Sequence[Path],
    lookups: dict[str, Path],
    ahead: Ahead | None = None,
    pruned: bool = False,
) -> Files:
    """A report file with its data files, groupings, and sources to look up from; `ahead` are data files that are being
    read already, without a recipe. `pruned`: of Parquet files read only the columns that the report needs.

    Raises DefinitionError or IntakeError.
    """
    asked = asked_for(report, recipe, with_)
    reading = (
        read_files(data, asked.recipe, asked.wanted(data) if pruned else None) if ahead is None else ahead.reading()
    )
    looked_up = {name: read_file(path).records for name, path in lookups.items()}
    material = Material(
        reading.records, groupings(asked.groupings), looked_up, len(reading.refused), empty=reading.empty
    )
    return Files(asked.report, material, data, reading)


@dataclass(frozen=True)
class Asked:
    """A report, the groupings it may refer to, and how its data are read."""

    report: Report
    groupings: Sequence[Grouping]
    recipe: Recipe | None

    def wanted(self, data: Sequence[Path]) -> Callable[[str], bool] | None:
        """Which columns of the data files to read; None for all, as when one file is not Parquet: such a file is read
        whole, and all files must have the same columns."""
        made = {column.name.casefold() for column in self.report.columns}
        units = (
            {one.unit.column.casefold() for one in self.recipe.columns.values() if one.unit} if self.recipe else set()
        )
        columns = columns_read(self.report)
        if columns is None or not all(is_parquet(mapped(path)) for path in data):
            return None
        return only(columns | units, made, data[0])


def asked_for(report: Path, recipe: Path | None, with_: Sequence[Path]) -> Asked:
    """The contents of a report file or bundle, with a recipe and groupings given beside it.

    Raises DefinitionError.
    """
    given = read_definition(report, "report", "bundle")
    own = [cast(Grouping, read_definition(path, "tree", "calendar", "buckets")) for path in with_]
    how = cast(Recipe, read_definition(recipe, "recipe")) if recipe else None
    if not isinstance(given, Bundle):
        return Asked(cast(Report, given), own, how)
    named = {one.name for one in own}
    return Asked(given.report(), [*own, *(g for g in given.groupings() if g.name not in named)], how or given.recipe())


def columns_read(report: Report) -> frozenset[str] | None:
    """The columns of the report's own source that its sheet depends on, in lower case; None for all of them."""
    lists_all = report.records is not None and not report.records.columns
    undated = any(e.placed == "was" and e.placed_by is None for e in report.entries_of(CategoryEntry))
    if lists_all or undated:
        return None
    seen = ColumnsNamed(report.source, names_in)
    seen.report(report)
    return frozenset(name.casefold() for name in seen.found)
