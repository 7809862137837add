"""A report worked out over files alone: no workspace and no server."""

from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import cast

from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.core.report import work_out
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.document import read_json
from kalendor.definitions.kinds import Definition, Grouping, definition
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.report import Report
from kalendor.errors import DefinitionError
from kalendor.intake.reading import read_file, read_files


def read_definition(path: Path, *kinds: str) -> Definition:
    """The definition document in a file.

    Raises DefinitionError where it cannot be read or is none of `kinds`.
    """
    try:
        text = path.read_bytes()
    except OSError as error:
        raise DefinitionError(f"{path}: cannot be read ({error.strerror or error})") from None
    return definition(read_json(text, str(path)), str(path), kinds)


def sheet_from_files(
    report: Path,
    data: Sequence[Path],
    recipe: Path | None,
    with_: Sequence[Path],
    lookups: dict[str, Path],
    as_of: date | None,
    today: date,
) -> Sheet:
    """The sheet of a report file over data files.

    Raises DefinitionError, IntakeError or FootingError.
    """
    document = cast(Report, read_definition(report, "report"))
    how = cast(Recipe, read_definition(recipe, "recipe")) if recipe else None
    found = groupings([cast(Grouping, read_definition(path, "tree", "calendar", "buckets")) for path in with_])
    reading = read_files(data, how)
    looked_up = {name: read_file(path).records for name, path in lookups.items()}
    return work_out(document, Material(reading.records, found, looked_up, len(reading.refused)), today, as_of)
