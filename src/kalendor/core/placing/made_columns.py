"""Made columns: by a formula over a record's others, or looked up from another source."""

from collections.abc import Mapping, Sequence

from kalendor.core.formulas.formulas import evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.placing.lookups import looked_up
from kalendor.core.values.columns import Records
from kalendor.definitions.report import FormulaColumn, MadeColumn
from kalendor.errors import DefinitionError


def with_made(records: Records, made: Sequence[MadeColumn], others: Mapping[str, Records]) -> Records:
    """The records with made columns, in order; `others` are the sources looked up from.

    Raises DefinitionError that names the column which cannot be worked out.
    """
    for column in made:
        try:
            if isinstance(column, FormulaColumn):
                values = evaluate(column.formula, Scope(records.columns, records.count))
            else:
                values = looked_up(records, column.lookup, others).column
        except DefinitionError as error:
            raise DefinitionError(f"made column {column.name!r}: {error}") from None
        records = records.with_column(column.name, values)
    return records
