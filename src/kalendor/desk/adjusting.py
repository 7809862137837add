"""Adjustments: records entered by hand. Each batch is an intake of its own with a reason, and no imported file replaces
it."""

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from kalendor.core.values.columns import DATED, EXACT, NUMERIC, Column, Records, days_of, text_column
from kalendor.core.values.days import month_numbers, month_starts
from kalendor.core.values.notation import grouped
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.desk.desk import Desk
from kalendor.desk.outcomes import sums_of
from kalendor.desk.profile import profiles
from kalendor.desk.uploads import hold
from kalendor.errors import ConflictError, DefinitionError
from kalendor.intake.apart import Asked, Here
from kalendor.intake.findings import find, is_as_told
from kalendor.intake.together import heading_key
from kalendor.intake.typed import WORDS
from kalendor.output.numbers import as_read
from kalendor.store.bringing import Bringing
from kalendor.store.intakes import Intake
from kalendor.store.record_rows import SourceColumn
from kalendor.store.sources import Source

MOST_LINES, LONGEST_REASON = 2_000, 300
Line = Mapping[str, str]
EXAMPLES = {"date": "2026-07-31", "datetime": "2026-07-31 14:30", "time": "14:30", "yes_no": "yes"}


@dataclass(frozen=True)
class LinesRead:
    """Parsed lines: the texts to store, by column, and the sum of each amount column."""

    lines: tuple[dict[str, str], ...]
    sums: tuple[tuple[str, str], ...]


def read_lines(source: Source, lines: Sequence[Line], plain: bool = False) -> LinesRead:
    """Parse lines entered by hand. Values are written as in the source's files, or as dates like 2026-07-31 and numbers
    like 1234.50; with `plain`, only the latter are accepted. Lines without any value are skipped.

    Raises DefinitionError for a column that the source does not have, and for a value that cannot be read, with its
    line.
    """
    _check_takes_lines(source)
    named = {heading_key(column.name): column for column in source.columns}
    unknown = next((name for line in lines for name in line if heading_key(name) not in named), None)
    if unknown is not None:
        raise DefinitionError(
            f"{source.name} has no column {unknown!r}; it has {', '.join(c.name for c in source.columns)}"
        )
    rows = [{named[heading_key(name)].name: text.strip() for name, text in line.items()} for line in lines]
    numbered = [(at, row) for at, row in enumerate(rows, 1) if any(row.values())]
    if not numbered:
        raise DefinitionError("nothing is entered yet; fill in at least one line")
    if len(numbered) > MOST_LINES:
        raise DefinitionError(
            f"{grouped(len(numbered))} lines are too many to enter by hand (at most {grouped(MOST_LINES)}); import a file"
        )
    read = {
        c.name: _read(source, c, [(at, row.get(c.name, "")) for at, row in numbered], plain) for c in source.columns
    }
    texts = tuple({name: column[i] for name, column in read.items() if column[i]} for i in range(len(numbered)))
    return LinesRead(texts, sums_of(_records(source, texts)))


def adjust(
    desk: Desk, source: Source, lines: Sequence[Line], reason: str, reverses: int | None = None, plain: bool = False
) -> Intake:
    """Store lines entered by hand beside the existing records, in one step that can be undone; `plain` as in
    `read_lines`.

    Raises DefinitionError for values that cannot be read and for a missing reason; ConflictError if the same lines are
    already stored with the same reason.
    """
    reason = " ".join(reason.split())
    if not reason or len(reason) > LONGEST_REASON:
        raise DefinitionError(f"say why in 1 to {LONGEST_REASON} characters; the reason stays with the lines")
    content = _file_of(source, read_lines(source, lines, plain).lines)
    name = f"By hand: {reason}"
    held = hold(desk, [content])
    try:
        found = Here().read(Asked(held.path, name, _recipe(source)))
        way = Bringing(
            source.name, found, held.sha256, held.size, desk.now(), again=True, path=held.path,
            origin="hand", reason=reason, reverses=reverses,
        )  # fmt: skip
        return desk.intakes.bring_in(way, then=lambda _, after: _check_once(desk, after, way))[1]
    finally:
        held.path.unlink(missing_ok=True)


def reversed_lines(desk: Desk, intake: Intake) -> list[dict[str, str]]:
    """The lines of an adjustment with the signs of their amounts reversed, dated the first day of the following month.

    Raises DefinitionError for an intake that was not entered by hand, was undone, or has no date or no amount.
    """
    source = desk.sources.one(intake.source_id)
    if intake.origin != "hand" or intake.undone_at is not None:
        raise DefinitionError("only an adjustment that stands is reversed; a file is undone")
    if intake.reverses is not None:
        raise DefinitionError("this is a reversal itself; undo it instead")
    held = desk.workspace.files / intake.sha256
    records = Here().read(Asked(held, intake.file_name, desk.intakes.recipe_of(intake))).records
    dated = next((c.name for c in source.columns if c.kind in DATED), None)
    if dated is None or not records.columns[dated].present.all():
        raise DefinitionError("a line has no date, so it has no next month; enter the reversal by hand")
    amounts = _amounts(desk, source)
    turned = dict(zip(records.columns, map(as_read, records.columns.values()), strict=True))
    turned[dated] = [str(day) for day in _next_months(records.columns[dated])]
    for name in amounts:
        turned[name] = [_turned(text) for text in turned[name]]
    if not any(any(turned[name]) for name in amounts):
        raise DefinitionError("no line has an amount to turn round; enter the reversal by hand")
    return [{name: texts[i] for name, texts in turned.items()} for i in range(records.count)]


def reverse(desk: Desk, intake: Intake) -> Intake:
    """Reverse an adjustment in the following month: the same lines on its first day, with the signs of their amounts
    reversed.

    Raises DefinitionError as `reversed_lines` does; ConflictError if it has been reversed already.
    """
    source = desk.sources.one(intake.source_id)
    return adjust(
        desk,
        source,
        reversed_lines(desk, intake),
        f"Reversal of {intake.reason}"[:LONGEST_REASON],
        intake.id,
        plain=True,
    )


def reversal_of(desk: Desk, intake: Intake) -> Intake | None:
    """The adjustment in effect that reverses another, if any."""
    source = desk.sources.one(intake.source_id)
    return next((i for i in desk.intakes.of(source) if i.reverses == intake.id and i.undone_at is None), None)


def check_pair(desk: Desk, intake: Intake, undo: bool) -> None:
    """Raises ConflictError if undoing an adjustment would leave its reversal alone, or redoing it would reverse it
    twice."""
    other = reversal_of(desk, intake) if undo else None
    if other is not None:
        raise ConflictError(f"{intake.file_name}: it was reversed on {other.brought_at[:10]}; undo the reversal first")
    if not undo and intake.reverses is not None:
        first = desk.intakes.one(intake.reverses)
        if first.undone_at is not None or reversal_of(desk, first) is not None:
            raise ConflictError(f"{intake.file_name}: what it reverses was undone, or is reversed already")


def _check_takes_lines(source: Source) -> None:
    if source.report_id is not None:
        raise DefinitionError(f"{source.name} is a report's summary, and is always what the report is now")


def _check_once(desk: Desk, source: Source, way: Bringing) -> None:
    """Raises ConflictError if the new lines duplicate an adjustment in effect. Runs within the transaction, which the
    error rolls back."""
    standing = [one for one in desk.intakes.of(source) if one.undone_at is None]
    if way.reverses is not None:
        if way.reverses not in [one.id for one in standing]:
            raise ConflictError("the adjustment was undone meanwhile; nothing was reversed")
        if [one.reverses for one in standing].count(way.reverses) > 1:
            raise ConflictError("the adjustment is reversed already; nothing was added")
    alike = [one for one in standing if (one.sha256, one.reason) == (way.sha256, way.reason)]
    if len(alike) > 1:
        since = alike[-1].brought_at[:10]
        raise ConflictError(f"the same lines stand already for the same reason, since {since}; nothing was added")


# -- how values are read and kept


def _kept_as(column: SourceColumn) -> ColumnReading:
    """How a column is read, given these files."""
    if column.kind in EXACT:
        return ColumnReading(type="decimal", decimal_mark=".", places=column.places, percent=column.percent)
    if column.kind in NUMERIC:
        return ColumnReading(type="approximate", decimal_mark=".", percent=column.percent)
    return ColumnReading(type=column.kind.value, format="%Y-%m-%d" if column.kind.value == "date" else None)


def _recipe(source: Source) -> Recipe:
    columns = {column.name: _kept_as(column) for column in source.columns}
    return Recipe(delimiter=",", encoding="utf-8", heading_line=1, foot_lines=0, columns=columns)


def _file_of(source: Source, lines: Sequence[Line]) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    names = [column.name for column in source.columns]
    writer.writerow(names)
    writer.writerows([line.get(name, "") for name in names] for line in lines)
    return out.getvalue().encode()


def _read(source: Source, column: SourceColumn, texts: Sequence[tuple[int, str]], plainly: bool) -> list[str]:
    """Texts of a column in stored form: parsed as the source's files are, then as these files are, then as numbers with
    a decimal comma. `plainly`: only as these files are."""
    told = source.recipe.columns.get(column.name, ColumnReading())
    plain = _kept_as(column)
    kept = [""] * len(texts)
    as_filed = told.model_copy(update={"type": plain.type, "places": None, "skip": False})
    otherwise = plain.model_copy(update={"decimal_mark": ","})
    for how in (plain,) if plainly else (as_filed, plain, otherwise):
        left = [at for at, (_, text) in enumerate(texts) if text and not kept[at]]
        for at, text in zip(left, _texts([texts[at][1] for at in left], how), strict=True):
            kept[at] = text
    for at, (line, text) in enumerate(texts):
        if text and not kept[at]:
            kind = WORDS.get(column.kind.value, column.kind.value)
            example = f"; write it as {EXAMPLES[column.kind.value]}" if column.kind.value in EXAMPLES else ""
            raise DefinitionError(f"line {line}, {column.name}: {text[:60]!r} cannot be read as a {kind}{example}")
        if column.kind in EXACT and not column.percent and kept[at]:
            found = -int(Decimal(kept[at]).normalize().as_tuple().exponent)
            if found > column.places:
                raise DefinitionError(
                    f"line {line}, {column.name}: {text} has {found} places, and the source has {column.places}"
                )
    return kept


def _texts(texts: Sequence[str], how: ColumnReading) -> list[str]:
    """The parsed texts, "" for those that cannot be parsed."""
    if not texts:
        return []
    found = find(text_column(texts), how)
    if found is None or (how.type != "text" and not is_as_told(found.column.kind, how)):
        return [""] * len(texts)
    read = as_read(found.column)
    return read if found.failed is None else ["" if bad else text for text, bad in zip(read, found.failed, strict=True)]


def _records(source: Source, lines: Sequence[Line]) -> Records:
    """The lines as records, to sum them."""
    columns = dict[str, Column]()
    for column in source.columns:
        found = find(text_column([line.get(column.name) or None for line in lines]), _kept_as(column))
        if found is not None:
            columns[column.name] = column.told_of(found.column)
    return Records(columns, len(lines))


def _amounts(desk: Desk, source: Source) -> list[str]:
    """The amount columns: numbers that are not codes, years or percentages."""
    roles = {profile.name: profile.role for profile in profiles(desk.sources.records(source))}
    return [c.name for c in source.columns if c.kind in NUMERIC and not c.percent and roles[c.name] == "number"]


def _next_months(column: Column) -> np.ndarray:
    return month_starts(month_numbers(days_of(column)) + 1).astype("datetime64[D]")


def _turned(text: str) -> str:
    """An amount as text with the sign reversed.

    >>> _turned("12.50"), _turned("-3%"), _turned("0"), _turned("")
    ('-12.50', '3%', '0', '')
    """
    if not text.strip("0.%"):
        return text
    return text[1:] if text.startswith("-") else f"-{text}"
