"""Reads the records of a source from its table."""

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Protocol

import numpy as np

from kalendor.core.values.columns import Column, Kind, Records, concat
from kalendor.store import column_cache
from kalendor.store.column_cache import Kept
from kalendor.store.definitions import MissingError
from kalendor.store.rows import from_sql
from kalendor.store.workspace import Workspace, quoted

STANDING = (
    "i.undone_at IS NULL AND NOT EXISTS (SELECT 1 FROM gone g JOIN intake by_ ON by_.id = g.intake_id"
    " WHERE g.source_id = i.source_id AND g.row_id = r.row_id AND by_.undone_at IS NULL)"
)
OF_INTAKES = (
    "r.intake_id IN (SELECT value FROM json_each(:intakes)) AND NOT EXISTS (SELECT 1 FROM gone g WHERE g.source_id ="
    " i.source_id AND g.row_id = r.row_id AND g.intake_id IN (SELECT value FROM json_each(:intakes)))"
)
ROWS_AT_ONCE = 100_000


@dataclass(frozen=True)
class SourceColumn:
    """A column of a source; `sql_name` is its name in the records table, `unit` the column that holds its amounts' unit."""

    name: str
    sql_name: str
    kind: Kind
    places: int
    percent: bool = False
    unit: str = ""

    def plain(self) -> list[str | int | bool]:
        """Its stored form; the unit is included only if there is one."""
        return [
            self.name,
            self.sql_name,
            self.kind.value,
            self.places,
            self.percent,
            *([self.unit] if self.unit else []),
        ]

    def told_of(self, column: Column) -> Column:
        """Values as a column of this kind."""
        return replace(column, percent=self.percent, unit=(self.unit,) if self.unit else ())


def table_of(id: int) -> str:
    """The table of a source's records, quoted."""
    return quoted(f"records_{id}")


class Held(Protocol):
    """What reading a source's records requires, of its current or an earlier state."""

    @property
    def id(self) -> int: ...
    @property
    def name(self) -> str: ...
    @property
    def columns(self) -> tuple[SourceColumn, ...]: ...
    @property
    def table(self) -> str: ...


class RecordRows:
    """Reads records of a workspace's sources; `opened` returns those of a source that are already mapped as columns."""

    def __init__(self, workspace: Workspace, opened: Callable[[int], Iterable[Kept]]) -> None:
        self.workspace, self.opened = workspace, opened

    def standing(self, source: Held) -> Kept:
        """The records in effect."""
        return self._rebuilt(source)

    def hidden(self, source: Held) -> Kept:
        """Records not in effect: replaced by later files, or of undone intakes."""
        return self.from_rows(source, f"NOT ({STANDING})")

    def kept_of(self, source: Held, intakes: Sequence[int]) -> Kept:
        """The records in effect if exactly these intakes are; `source` names the columns to read.

        Raises MissingError where the records are no longer there.
        """
        table = self.workspace.db.execute("SELECT 1 FROM sqlite_master WHERE name = ?", (f"records_{source.id}",))
        if table.fetchone() is None:
            raise MissingError(f"the records of {source.name!r} are no longer here; the source was deleted")
        return self._rebuilt(source, OF_INTAKES, {"intakes": json.dumps(sorted(intakes))})

    def _rebuilt(self, source: Held, which: str = STANDING, given: Mapping[str, str] = MappingProxyType({})) -> Kept:
        """The records in effect, from another revision's mapped columns as far as possible, else from the rows."""
        found = self._by_another_revision(source, which, given)
        columns = {c.name: c.told_of(found.records.columns[c.name]) for c in source.columns}
        return replace(found, records=Records(columns, found.records.count))

    def _by_another_revision(self, source: Held, which: str, given: Mapping[str, str]) -> Kept:
        before = self._of_another_revision(source)
        if before is None:
            return self.from_rows(source, which, given)
        found = self.workspace.db.execute(
            f"SELECT r.row_id FROM {source.table} r JOIN intake i ON i.id = r.intake_id WHERE {which} ORDER BY r.row_id",
            dict(given),
        )
        rows = np.array([row[0] for row in found], dtype=np.int64)
        known = np.isin(rows, before.rows)
        at = np.searchsorted(before.rows, rows[known])
        if known.all():
            return Kept(before.records.take(at), rows)
        missing = {"rows": json.dumps(rows[~known].tolist())}
        more = self.from_rows(source, "r.row_id IN (SELECT value FROM json_each(:rows))", missing)
        order = np.argsort(np.concatenate([rows[known], more.rows]))
        stay = before.records.take(at).columns
        columns = {name: concat([stay[name], column]).take(order) for name, column in more.records.columns.items()}
        return Kept(Records(columns, len(rows)), rows)

    def _of_another_revision(self, source: Held) -> Kept | None:
        """The source's mapped records at another revision with the same columns, rows ascending; None if there are none."""
        wanted = [(c.name, c.kind, c.places) for c in source.columns]
        for kept in self._at_hand(source):
            if (np.diff(kept.rows) <= 0).any():
                continue
            if [(name, c.kind, c.places) for name, c in kept.records.columns.items()] == wanted:
                return kept
        return None

    def _at_hand(self, source: Held) -> Iterator[Kept]:
        yield from self.opened(source.id)
        for folder in self.workspace.cache.glob(f"{source.id}-*"):
            revision = folder.name.partition("-")[2]
            kept = column_cache.kept_records(folder, int(revision)) if revision.isdigit() else None
            if kept is not None:
                yield kept

    def from_rows(self, source: Held, which: str = STANDING, given: Mapping[str, str] = MappingProxyType({})) -> Kept:
        """The records in effect, or the rows of `which`, read from the records table only."""
        names = ", ".join(["r.row_id", *(f"r.{quoted(c.sql_name)}" for c in source.columns)])
        cursor = self.workspace.db.cursor()
        cursor.row_factory = None
        cursor.execute(
            f"SELECT {names} FROM {source.table} r JOIN intake i ON i.id = r.intake_id WHERE {which} ORDER BY r.row_id",
            dict(given),
        )
        parts: list[list[Column]] = [[] for _ in source.columns]
        numbers = [np.zeros(0, dtype=np.int64)]
        while rows := cursor.fetchmany(ROWS_AT_ONCE):
            first, *values = zip(*rows, strict=True)
            numbers.append(np.array(first, dtype=np.int64))
            for part, column, given_values in zip(parts, source.columns, values, strict=True):
                part.append(from_sql(given_values, column.kind, column.places))
        columns = {
            c.name: c.told_of(concat(part) if part else from_sql((), c.kind, c.places))
            for c, part in zip(source.columns, parts, strict=True)
        }
        ids = np.concatenate(numbers)
        return Kept(Records(columns, len(ids)), ids)
