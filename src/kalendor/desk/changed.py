"""Files that differ from earlier ones: which columns differ, and what each is proposed to be.

A file is read strictly by the recipes of the source's earlier files. Columns that do not fit are matched by values and
names, and the file is read again with the proposed matching, which a person accepts or corrects.
"""

from collections.abc import Collection, Iterator, Mapping, Sequence

from kalendor.core.formulas.expressions import names_in
from kalendor.core.values.columns import DATED, EXACT, Records
from kalendor.definitions.recipe import ColumnReading, Recipe
from kalendor.definitions.report import FormulaColumn
from kalendor.desk.changes import Changes, ColumnChange, FreshHeading, What
from kalendor.desk.desk import Desk
from kalendor.desk.examples import examples
from kalendor.desk.turned import Turned, order_said, turned_columns
from kalendor.errors import DefinitionError, IntakeError
from kalendor.intake.apart import Asked
from kalendor.intake.likeness import Likeness, paired
from kalendor.intake.raw import ReadSoFar, unwatched
from kalendor.intake.together import heading_key
from kalendor.intake.typed import Misfit, Reading
from kalendor.store.sources import Source


def read_beside(
    desk: Desk, source: Source, asked: Asked, so_far: ReadSoFar = unwatched
) -> tuple[Reading, Changes | None]:
    """A file read by a source's recipe, and how it differs from earlier files; None if it does not.

    Raises IntakeError if it cannot be read at all, or has none of the source's columns.
    """
    earlier = tuple(desk.intakes.earlier_recipes(source))
    reading = desk.readers.read(Asked(asked.path, asked.name, source.recipe, strict=True, earlier=earlier), so_far)
    if not source.columns:
        return reading, None
    known = desk.sources.records(source)
    turned = dict(turned_columns(known, reading))
    fresh = _fresh(source, reading)
    if not reading.misfits and not turned and not fresh:
        return reading, None
    pairs = _pairs(known, reading, fresh)
    if not pairs and sum(one.absent for one in reading.misfits) == len(source.columns):
        ours, theirs = ", ".join(c.name for c in source.columns), ", ".join(reading.headings)
        raise IntakeError(
            f"{asked.name}: none of its columns is one of {source.name}, which has {ours}; it has {theirs}"
        )
    changes = Changes(
        tuple(_changes(source, known, reading, pairs, turned, fresh)),
        tuple(fresh.values()),
        tuple(c.name for c in source.columns if c.name not in {m.column for m in reading.misfits} | set(turned)),
        sum(i.undone_at is None and i.mends is None for i in desk.intakes.of(source)),
        next((one.said for one in reading.misfits if not one.column), ""),
    )
    recipe = _proposed(source, reading, changes, turned)
    if recipe != reading.recipe:
        reading = read_matched(desk, known, asked, recipe, pairs, so_far)
    return reading, changes


def read_matched(
    desk: Desk, known: Records, asked: Asked, recipe: Recipe, names: Collection[str], so_far: ReadSoFar = unwatched
) -> Reading:
    """A file read by a recipe in which the columns `names` have new headings; ambiguous formats are decided by
    comparison with the existing records."""
    reading = desk.readers.read(Asked(asked.path, asked.name, recipe, guarded=asked.guarded), so_far)
    turned = {name: one for name, one in turned_columns(known, reading) if name in names}
    if not turned:
        return reading
    columns = reading.recipe.columns
    columns = columns | {name: columns[name].model_copy(update=one.told) for name, one in turned.items()}
    told = reading.recipe.model_copy(update={"columns": columns})
    return desk.readers.read(Asked(asked.path, asked.name, told, guarded=asked.guarded), so_far)


def matched(recipe: Recipe, source: Source, changes: Changes, pairs: Mapping[str, str | None]) -> Recipe:
    """A recipe in which columns of the source have the given headings, or are blank for None.

    Raises DefinitionError for a column that the source does not have, or a heading that is not among the file's new
    ones.
    """
    fresh = {one.heading: one.reading for one in changes.fresh}
    _check_pairs(source, fresh, pairs)
    columns = dict(recipe.columns)
    for name, heading in pairs.items():
        before = columns.get(name) or source.recipe.columns.get(name) or ColumnReading()
        kept = [h for h in before.headings if h not in fresh]
        if heading is None:
            columns[name] = before.model_copy(update={"headings": kept, "optional": True})
            continue
        for other, reading in list(columns.items()):
            if heading in reading.headings and other != name:
                left = [h for h in reading.headings if h != heading]
                columns[other] = reading.model_copy(update={"headings": left, "optional": True})
        columns.pop(heading, None)
        columns[name] = _as_paired(before, fresh.get(heading), kept, heading)
    return recipe.model_copy(update={"columns": columns})


def _check_pairs(source: Source, fresh: Mapping[str, ColumnReading], pairs: Mapping[str, str | None]) -> None:
    names = [column.name for column in source.columns]
    for name, heading in pairs.items():
        if name not in names:
            raise DefinitionError(f"{source.name} has no column {name!r}; it has {', '.join(names)}")
        if heading is not None and heading not in fresh:
            raise DefinitionError(
                f"{name!r} cannot be {heading!r}: the file's new headings are {', '.join(fresh) or 'none'}"
            )


def _as_paired(before: ColumnReading, found: ColumnReading | None, kept: Sequence[str], heading: str) -> ColumnReading:
    """How a column is read from then on: as before, with the date order and decimal places of the values under its new
    heading."""
    told: dict[str, object] = {"headings": [*kept, heading]}
    if found is not None and found.type == before.type and found.format is not None:
        told["format"] = found.format
    exact = found is not None and before.type in EXACT and found.type in EXACT
    if found is not None and exact and (found.places or 0) > (before.places or 0):
        told |= {"type": found.type, "places": found.places}
    return before.model_copy(update=told)


# -- what differs


def _fresh(source: Source, reading: Reading) -> dict[str, FreshHeading]:
    """The headings that are not columns of the source and not left out by its recipe."""
    known = {heading_key(c.name) for c in source.columns}
    return {
        reading.headed[name]: FreshHeading(
            reading.headed[name], examples(column, reading.recipe.columns[name].format), reading.recipe.columns[name]
        )
        for name, column in reading.records.columns.items()
        if heading_key(name) not in known
    }


def _pairs(known: Records, reading: Reading, fresh: Mapping[str, FreshHeading]) -> dict[str, tuple[str, Likeness]]:
    absent = {
        one.column: known.columns[one.column] for one in reading.misfits if one.absent and one.column in known.columns
    }
    return paired(absent, {heading: reading.records.columns[heading] for heading in fresh}, reading.open_marks)


def _changes(
    source: Source,
    known: Records,
    reading: Reading,
    pairs: Mapping[str, tuple[str, Likeness]],
    turned: Mapping[str, Turned],
    fresh: Mapping[str, FreshHeading],
) -> Iterator[ColumnChange]:
    told = source.recipe.columns
    shown = {n: examples(c, told[n].format if n in told else None) for n, c in known.columns.items()}
    for one in reading.misfits:
        if one.column and one.absent:
            heading, like = pairs.get(one.column, ("", None))
            what: What = "renamed" if like else "missing"
            came = fresh[heading].came if like else ""
            yield ColumnChange(one.column, what, shown.get(one.column, ""), heading, came, like.why if like else "",
                               _used_by(source, one.column), bool(like and like.sure))  # fmt: skip
        elif one.column and one.column not in turned:
            yield _otherwise(source, known, reading, one, shown)
    for name, other in turned.items():
        column = reading.records.columns[name]
        yield ColumnChange(name, "rewritten", shown[name], reading.headed[name],
                           examples(column, reading.recipe.columns[name].format), other.why, other=other.instead)  # fmt: skip


def _otherwise(source: Source, known: Records, reading: Reading, one: Misfit, shown: Mapping[str, str]) -> ColumnChange:
    """A column that is present under its name but written differently."""
    name = next((n for n in known.columns if heading_key(n) == heading_key(one.column)), one.column)
    old, new = known.columns.get(name), reading.records.columns[one.column]
    found = reading.recipe.columns[one.column]
    came, heading = examples(new, found.format), reading.headed[one.column]
    if old is not None and old.kind in DATED and new.kind is old.kind:
        sure, why = order_said(new, found, one.column in reading.rivals)
        rival = reading.rivals.get(one.column)
        return ColumnChange(
            name, "rewritten", shown[name], heading, came, why, sure=sure, other=rival.format if rival else ""
        )
    if old is not None and old.kind in EXACT and new.kind in EXACT:
        sure = one.column not in reading.open_marks
        if new.places > old.places:
            why = f"{new.places} {'place' if new.places == 1 else 'places'}"
            return ColumnChange(name, "wider", shown[name], heading, came, why, sure=sure)
        return ColumnChange(name, "rewritten", shown[name], heading, came, "with another decimal mark", sure=sure)
    return ColumnChange(
        name, "unread", shown.get(name, ""), heading, came, one.said.partition(": ")[2], _used_by(source, name)
    )


def _used_by(source: Source, name: str) -> str:
    """The made columns that use a column, in words."""
    users = [
        made.name
        for made in source.made
        if name in (names_in(made.formula) if isinstance(made, FormulaColumn) else made.lookup.own)
    ]
    return f"used by the made column{'' if len(users) == 1 else 's'} {', '.join(users)}" if users else ""


# -- what it is taken to be


def _proposed(source: Source, reading: Reading, changes: Changes, turned: Mapping[str, Turned]) -> Recipe:
    """The recipe with the proposed matching."""
    recipe = reading.recipe
    columns = dict(recipe.columns)
    for one in changes.columns:
        told = source.recipe.columns.get(one.name)
        if one.what == "unread" and told is not None:
            columns[one.heading] = told
        elif one.name in turned:
            columns[one.name] = columns[one.name].model_copy(update=turned[one.name].told)
    recipe = recipe.model_copy(update={"columns": columns})
    pairs = {one.name: one.heading or None for one in changes.columns if one.what in ("renamed", "missing")}
    return matched(recipe, source, changes, pairs)
