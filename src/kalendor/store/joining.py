"""How a file joins existing records: which ones it replaces, and how its columns fit."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.placing.lookups import matched_keys
from kalendor.core.values.columns import DATED, EXACT, Column, Kind, Records, blank_column, brought_to, days_of
from kalendor.core.values.days import month_numbers
from kalendor.errors import IntakeError
from kalendor.intake.together import heading_key
from kalendor.intake.typed import Reading
from kalendor.store.keys import RecordKeys, found_in
from kalendor.store.record_rows import SourceColumn
from kalendor.store.sources import Source

Index = NDArray[np.int64]
JOINS = ("add", "replace_months", "replace_dates", "replace_all", "update")
ABOUT = 0.2
"""A file covers the months with at least this share of its fullest month's records; records of other months are late ones."""


@dataclass(frozen=True, eq=False)
class Fitted:
    """A file's records in the source's columns and kinds; `added` are columns the source lacks, `wider` those that
    get more decimal places."""

    records: Records
    added: tuple[str, ...]
    wider: dict[str, int]

    def beside(self, before: Records) -> Records:
        """The source's existing records, with the new number of places."""
        columns = dict(before.columns)
        for name, places in self.wider.items():
            column = columns[name]
            values = brought_to(column, places)
            if values is None:
                raise IntakeError(
                    f"{name!r} has amounts that are too large to be kept with {places} places; nothing was brought in."
                    " Round the file's amounts, or bring it in as a source of its own"
                )
            columns[name] = replace(column, kind=Kind.DECIMAL, values=values, places=places)
        return Records(columns, before.count)


def fitted(source: Source, reading: Reading, take_added: bool, widen: bool = False) -> Fitted:
    """The file's records in the source's columns and order, new ones last if they are accepted. With `widen` the source
    adopts the decimal places of numbers that have more.

    Raises IntakeError if a column is missing or reads as another kind; nothing may be stored then.
    """
    here = {heading_key(name): name for name in reading.records.columns}
    columns: dict[str, Column] = {}
    wider: dict[str, int] = {}
    for wanted in source.columns:
        name = here.pop(heading_key(wanted.name), None)
        if name is None:
            raise IntakeError(f"{reading.name}: the column {wanted.name!r} is missing; nothing was brought in")
        found = reading.records.columns[name]
        if widen and wanted.kind in EXACT and found.kind in EXACT and found.places > wanted.places:
            wider[wanted.name] = found.places
            columns[wanted.name] = wanted.told_of(found)
        else:
            columns[wanted.name] = _as_source_has_it(reading, name, wanted)
    added = tuple(here.values())
    if take_added:
        columns |= {name: reading.records.columns[name] for name in added}
    return Fitted(Records(columns, reading.records.count), added, wider)


def _as_source_has_it(reading: Reading, name: str, wanted: SourceColumn) -> Column:
    column = wanted.told_of(reading.records.columns[name])
    if column.kind is wanted.kind and column.places == wanted.places:
        return column
    if not column.present.any():
        return blank_column(wanted.kind, len(column), wanted.places)
    if wanted.kind in EXACT and column.kind in EXACT and column.places <= wanted.places:
        values = brought_to(column, wanted.places)
        if values is None:
            largest = int(np.argmax(np.where(column.blanks, 0, np.abs(column.values))))
            raise IntakeError(
                f"{reading.name}: {column.item(largest)} in {name!r} on line {int(reading.lines[largest])} is too large to"
                f" be kept with the {wanted.places} places that the source has; nothing was brought in. Bring the file in"
                " as a source of its own, or replace all of the source by files read with fewer places"
            )
        return replace(column, kind=wanted.kind, values=values, places=wanted.places)
    if wanted.kind is Kind.APPROXIMATE and column.kind in EXACT:
        return Column(wanted.kind, column.floats(), column.blank)
    raise IntakeError(
        f"{reading.name}: {name!r} reads as {said(column.kind, column.places)}, and in the source it is "
        f"{said(wanted.kind, wanted.places)}; nothing was brought in"
    )


def said(kind: Kind, places: int) -> str:
    """A kind with its places."""
    return f"{kind.value} with {places} places" if kind is Kind.DECIMAL else kind.value


def date_column_of(records: Records, join_by: list[str]) -> str:
    """The date column that `replace_dates` uses: the one named, else the first.

    Raises IntakeError if there is none.
    """
    names = join_by or [name for name, column in records.columns.items() if column.kind in DATED]
    if not names or names[0] not in records.columns or records.columns[names[0]].kind not in DATED:
        raise IntakeError(
            "replacing the dates or months that a file covers needs a date column"
            + (f", and {names[0]!r} is none" if names else "")
        )
    return names[0]


def dated_by(after: Records, join: str, join_by: Sequence[str]) -> str | None:
    """The date column that a way of joining uses; None if it uses none, or one that is missing."""
    with suppress(IntakeError):
        return date_column_of(after, list(join_by)) if join in ("replace_dates", "replace_months") else None
    return None


def _same_kinds(before: Records, after: Records, names: Sequence[str]) -> bool:
    """Whether key columns have equal kinds on both sides and no blanks, so that equal keys mean equal
    values."""
    pairs = [(before.columns[name], after.columns[name]) for name in names]
    return all(
        (a.kind, a.places) == (b.kind, b.places)
        and a.kind is not Kind.APPROXIMATE
        and a.present.all()
        and b.present.all()
        for a, b in pairs
    )


def replaced(
    before: Records, after: Records, join: str, join_by: list[str], keys: tuple[RecordKeys, RecordKeys] | None = None
) -> Index:
    """Positions in `before` of the records that a file with the records `after` replaces; `keys` are the keys of both, if
    known."""
    if join == "add" or not after.count:
        return np.zeros(0, dtype=np.int64)
    if join == "replace_all":
        return np.arange(before.count)
    if join in ("replace_dates", "replace_months"):
        name = date_column_of(after, join_by)
        if name not in before.columns or before.columns[name].kind not in DATED:
            raise IntakeError(
                f"replacing the dates or months that a file covers goes by {name!r}, which is no date column of the source; choose one"
                " that both have"
            )
        new = after.columns[name]
        days = days_of(new)[new.present]
        if not len(days):
            return np.zeros(0, dtype=np.int64)
        old = days_of(before.columns[name])
        if join == "replace_months":
            return np.flatnonzero(np.isin(month_numbers(old), months_about(days)) & before.columns[name].present)
        return np.flatnonzero((old >= days.min()) & (old <= days.max()) & before.columns[name].present)
    missing = [name for name in join_by if name not in before.columns]
    if not join_by or missing:
        raise IntakeError(
            f"updating by key needs key columns{f'; {missing[0]!r} is not one of the source' if missing else ''}"
        )
    if keys is not None and _same_kinds(before, after, join_by):
        return np.flatnonzero(found_in(keys[0].by(join_by), keys[1].by(join_by)))
    old_keys, new_keys = matched_keys([before.columns[n] for n in join_by], [after.columns[n] for n in join_by])
    return np.flatnonzero(np.isin(old_keys, new_keys[new_keys >= 0]) & (old_keys >= 0))


def months_about(days: Index) -> Index:
    """The calendar months that dates cover, counted from January of year 0: those with a sufficient share of them.

    >>> [month % 12 + 1 for month in months_about(np.array([20605] * 90 + [20640] * 80 + [20540] * 4)).tolist()]
    [6, 7]
    """
    months, counts = np.unique(month_numbers(days), return_counts=True)
    about: Index = months[counts >= ABOUT * counts.max()]
    return about
