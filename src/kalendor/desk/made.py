"""Evaluates a made column on a source's records before it is stored."""

from collections.abc import Sequence

from kalendor.core.placing.made_columns import with_made
from kalendor.core.values.columns import Column, Records
from kalendor.definitions.report import MadeColumn
from kalendor.desk.desk import Desk
from kalendor.desk.records import looked_up_from
from kalendor.store.sources import Source


def tried(desk: Desk, source: Source, before: Sequence[MadeColumn], made: MadeColumn) -> tuple[Records, Column]:
    """The records with the made columns `before` it, and the column itself.

    Raises DefinitionError if it cannot be computed.
    """
    columns = (*before, made)
    records = with_made(desk.sources.records(source), columns, looked_up_from(desk, columns, source.name))
    return records, records.columns[made.name]
