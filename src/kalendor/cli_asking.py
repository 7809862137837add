"""The commands `ask` and `say`."""

import sys
from pathlib import Path
from typing import Annotated, Any, Optional

import typer

from kalendor.cli_options import AsOf, DataFiles, Groupings, Lookups, RecipeFile, clock_today, day, hand_over, pairs


def ask(
    sentence: Annotated[str, typer.Argument(help='What is asked for, as "net by area, months across".')],
    data: DataFiles,
    recipe: RecipeFile = None,
    with_: Groupings = None,
    lookup: Lookups = None,
    as_of: AsOf = None,
    form: Annotated[Optional[str], typer.Option("--format", help="csv, json, xlsx, ods, pdf, html or parquet.")] = None,
    shape: Annotated[Optional[str], typer.Option(help="sheet or flat.")] = None,
    out: Annotated[Optional[Path], typer.Option(help="The file to write; default: standard output.")] = None,
    definition: Annotated[bool, typer.Option("--definition", help="Write the report document instead.")] = False,
) -> None:
    """Answer a typed sentence over files: an aligned table on a terminal, else as run. Needs no workspace."""
    from kalendor.desk.asking import asked
    from kalendor.output.writers import form_of, write
    from kalendor.sentence.writing import brief

    files, names = asked(sentence, data, recipe, with_ or [], pairs(lookup or []), day(as_of) or clock_today())
    print(brief(files.report, names), file=sys.stderr)
    if definition:
        hand_over(_document(files.report), out)
        return
    on_terminal = form is None and shape is None and out is None and sys.stdout.isatty()
    given = files.handed(day(as_of), clock_today(), form_of(form or "csv").worded)
    if on_terminal:
        from kalendor.output.terminal import aligned

        print(aligned(given))
    else:
        hand_over(write(given, form or "csv", shape), out)


def say(
    report: Annotated[Path, typer.Argument(help="A report or bundle.")],
    with_: Groupings = None,
) -> None:
    """Write a definition as the sentence that asks for it."""
    from kalendor.core.groupings.ground import groupings
    from kalendor.definitions.bundle import Bundle
    from kalendor.desk.files import read_definition
    from kalendor.sentence.names import names
    from kalendor.sentence.writing import say as said

    given: Any = read_definition(report, "report", "bundle")
    own: list[Any] = [read_definition(path, "tree", "calendar", "buckets") for path in with_ or []]
    whole = given.report() if isinstance(given, Bundle) else given
    found = groupings([*(given.groupings() if isinstance(given, Bundle) else ()), *own])
    known = names([], {}, trees={name: (None, tree.levels) for name, tree in found.trees.items()})
    print(said(whole, known))


def _document(report: Any) -> bytes:
    import json

    made = report.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    whole = {"kalendor": 1, "kind": "report", **made}
    return (json.dumps(whole, ensure_ascii=False, indent=1) + "\n").encode()
