"""Puts a report over another source: which of its columns replaces each that the report refers to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from kalendor.core.formulas.expressions import with_column_renamed
from kalendor.definitions.renaming import ColumnRenamed
from kalendor.definitions.report import Report
from kalendor.desk.columns_named import columns_named, with_made_columns
from kalendor.desk.desk import Desk
from kalendor.desk.records import complete
from kalendor.errors import DefinitionError
from kalendor.intake.likeness import paired
from kalendor.intake.together import heading_key
from kalendor.store.sources import Source


@dataclass(frozen=True)
class Needed:
    """A column that a report refers to, and its most likely counterpart in another source, None if there is none.
    `sure`: it has the same name, or nothing else is as similar; `why` says what is similar."""

    column: str
    found: str | None
    sure: bool
    why: str


def needed(desk: Desk, report: Report, other: Source) -> list[Needed]:
    """The columns of its source that a report refers to, in order, each with its counterpart in the other source. Made
    columns of its source that it uses are copied and not listed."""
    names = _named(with_made_columns(desk, report))
    source = desk.sources.named(report.source)
    ours = {} if source is None else complete(desk, source).records.columns
    theirs = complete(desk, other).records.columns
    by_key = {heading_key(name): name for name in theirs}
    same = {name: by_key[heading_key(name)] for name in names if heading_key(name) in by_key}
    absent = {name: ours[name] for name in names if name not in same and name in ours}
    alike = paired(absent, {name: column for name, column in theirs.items() if name not in same.values()})

    def one(name: str) -> Needed:
        if name in same:
            return Needed(name, same[name], True, "of the same name")
        heading, likeness = alike.get(name, (None, None))
        return Needed(name, heading, likeness is not None and likeness.sure, "" if likeness is None else likeness.why)

    return [one(name) for name in names]


def put_over(desk: Desk, report: Report, other: Source, pairs: Mapping[str, str]) -> Report:
    """The report over another source; `pairs` maps the columns that the report refers to to those of the source.

    Raises DefinitionError for a column without a counterpart, or one that the source lacks.
    """
    report = with_made_columns(desk, report)
    theirs = complete(desk, other).records.columns
    wanted = {name: pairs.get(name, name) for name in _named(report)}
    lacking = [name for name, theirs_name in wanted.items() if theirs_name not in theirs]
    if lacking:
        raise DefinitionError(f"{other.name} has no column for {', '.join(lacking)}; choose one for each")
    own = {column.name for column in report.columns}
    made_too = [name for name in dict.fromkeys(wanted.values()) if name in own]
    if made_too:
        raise DefinitionError(f"{', '.join(made_too)}: the report makes a column of that name; choose another")
    aside = {
        name: f"{name} \N{RIGHTWARDS ARROW}" for name in wanted if wanted[name] != name
    }  # in two steps, so that two names can be swapped
    for name, kept in aside.items():
        report = ColumnRenamed(report.source, name, kept, with_column_renamed).report(report)
    report = report.model_copy(update={"source": other.name})
    for name, kept in aside.items():
        report = ColumnRenamed(other.name, kept, wanted[name], with_column_renamed).report(report)
    return Report.model_validate(report.model_dump(by_alias=True))


def _named(report: Report) -> Sequence[str]:
    own = {column.name for column in report.columns}
    return [name for name in columns_named(report, report.source) if name not in own]
