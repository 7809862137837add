"""Made columns: computed by a formula over a record's other columns, or looked up from another source."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from kalendor.core.formulas.formulas import evaluate
from kalendor.core.formulas.scope import Scope
from kalendor.core.placing.lookups import looked_up
from kalendor.core.takes.units import unit_of
from kalendor.core.values.columns import Column, Records
from kalendor.definitions.report import FormulaColumn, Lookup, MadeColumn
from kalendor.errors import DefinitionError


def with_made(records: Records, made: Sequence[MadeColumn], others: Mapping[str, Records]) -> Records:
    """The records with made columns, in order; `others` are the sources to look up from.

    Raises DefinitionError that names the column that cannot be computed.
    """
    for column in made:
        try:
            if isinstance(column, FormulaColumn):
                values = evaluate(column.formula, Scope(records.columns, records.count))
                values = replace(values, unit=unit_of(column.formula, records.columns))
            else:
                values = _fetched(records, column.lookup, others)
        except DefinitionError as error:
            raise DefinitionError(f"made column {column.name!r}: {error}") from None
        records = records.with_column(column.name, values)
    return records


def _fetched(records: Records, lookup: Lookup, others: Mapping[str, Records]) -> Column:
    """A looked-up column; an amount whose unit was one of the match columns has the record's unit."""
    found = looked_up(records, lookup, others).column
    own = {theirs: mine for mine, theirs in lookup.match.items()}
    unit = others[lookup.source].columns[lookup.take].unit
    return replace(found, unit=tuple(own[u] for u in unit if u in own), found_by=tuple(lookup.match))
