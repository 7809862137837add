"""Answers a typed sentence over files alone, or says why it cannot."""

from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import cast

from kalendor.core.groupings.ground import groupings
from kalendor.core.placing.material import Material
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.recipe import Recipe
from kalendor.definitions.report import Report
from kalendor.desk.files import Files, read_definition
from kalendor.errors import DefinitionError
from kalendor.intake.reading import read_file, read_files
from kalendor.sentence.dictionary import dictionary
from kalendor.sentence.names import Names
from kalendor.sentence.nearest import nearest
from kalendor.sentence.reading import Read, read
from kalendor.sentence.writing import title


def asked(
    text: str,
    data: Sequence[Path],
    recipe: Path | None,
    with_: Sequence[Path],
    lookups: dict[str, Path],
    as_of: date,
) -> tuple[Files, Names]:
    """The reading of a sentence over data files, and the dictionary used to read it.

    Raises DefinitionError that names each word that was not understood, or IntakeError.
    """
    how = cast(Recipe, read_definition(recipe, "recipe")) if recipe else None
    reading = read_files(data, how)
    found = groupings([cast(Grouping, read_definition(path, "tree", "calendar", "buckets")) for path in with_])
    source = data[0].name.partition(".")[0]
    names = dictionary(reading.records, found, source, sources=list(lookups))
    report = understood(read(text, names, as_of, {"source": source}), names)
    report = report.model_copy(update={"title": title(report, names)[:200]})
    looked_up = {name: read_file(path).records for name, path in lookups.items()}
    material = Material(reading.records, found, looked_up, len(reading.refused), empty=reading.empty)
    return Files(report, material, data, reading), names


def understood(found: Read, names: Names) -> Report:
    """The report of a reading in which every word was understood.

    Raises DefinitionError that names the words that were not, with the most similar names.
    """
    if found.report is not None and not found.unknown:
        return found.report
    if found.why:
        raise DefinitionError(f"this cannot be worked out: {found.why}")
    said = []
    for word in dict.fromkeys(found.unknown):
        near = [f"{one.text} ({one.what})" for one in nearest(word, names)]
        if word.casefold() in ("fiscal", "financial"):
            near = ["a calendar of your own, which is given by --with or made under Groupings"]
        said.append(f"“{word}”" + (f", nearest to it: {', '.join(near)}" if near else ""))
    raise DefinitionError(f"not understood: {'; '.join(said)}")
