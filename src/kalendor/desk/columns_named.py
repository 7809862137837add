"""The columns of its source that a report refers to, and the made columns among them that are copied with it."""

from kalendor.core.formulas.expressions import names_in
from kalendor.definitions.renaming import ColumnsNamed
from kalendor.definitions.report import FormulaColumn, Report
from kalendor.desk.desk import Desk

AS_OF = "AS_OF"  # a day in formulas, not a column


def columns_named(report: Report, source: str) -> list[str]:
    """The columns of a source that a report refers to, its own made columns included."""
    seen = ColumnsNamed(source, names_in)
    seen.report(report)
    return [name for name in seen.found if name.upper() != AS_OF]


def with_made_columns(desk: Desk, report: Report) -> Report:
    """A report with copies of the source's made columns that it uses, in order of dependency."""
    source = desk.sources.named(report.source)
    own = {column.name for column in report.columns}
    there = [] if source is None else [column for column in source.made if column.name not in own]
    used = set(columns_named(report, report.source))
    for column in reversed(there):  # each is made from those before it
        if column.name in used:
            used |= set(names_in(column.formula) if isinstance(column, FormulaColumn) else column.lookup.own)
    wanted = [column for column in there if column.name in used]
    return report.model_copy(update={"columns": [*wanted, *report.columns]}) if wanted else report
