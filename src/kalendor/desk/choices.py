"""What each grouping would give on a column, before one is chosen."""

from dataclasses import dataclass
from typing import cast

import numpy as np

from kalendor.core.formulas import texts
from kalendor.core.groupings import buckets
from kalendor.core.groupings.calendars import calendar
from kalendor.core.groupings.levels import NOT_PLACED
from kalendor.core.groupings.trees import Placer
from kalendor.core.values.columns import DATED, NUMERIC, Column, days_of
from kalendor.core.values.notation import grouped
from kalendor.definitions.buckets import Buckets
from kalendor.definitions.calendar import Calendar
from kalendor.definitions.kinds import Grouping, default_calendar
from kalendor.definitions.tree import Tree
from kalendor.desk.desk import Desk
from kalendor.desk.groupings import uses
from kalendor.desk.records import complete
from kalendor.errors import DefinitionError
from kalendor.store.definitions import MissingError

GRAINS = ("year", "quarter", "month")


@dataclass(frozen=True)
class Choice:
    """A grouping on a column: `levels` with the number of members that have records, and the records that are blank or
    not placed.

    `name` is empty for the column's own values, or the civil year. `problem` says why it cannot be used there; `helps`
    is False for a tree that places none of the values.
    """

    name: str
    levels: list[tuple[str, int]]
    blank: int = 0
    not_placed: int = 0
    problem: str = ""
    helps: bool = True


def choices(desk: Desk, kind: str, source_name: str, column_name: str) -> list[Choice]:
    """The groupings of a kind (tree, calendar, buckets) over a column: none first, then those used last first.

    Raises MissingError where there is no such column.
    """
    source = desk.sources.named(source_name)
    records = complete(desk, source).records if source else None
    if records is None or column_name not in records.columns:
        raise MissingError(f"there is no column {column_name!r} in {source_name}")
    column = records.columns[column_name]
    found = [_plain(kind, column)] if kind != "buckets" else []
    stored = desk.definitions.all(kind)
    last_used = {d.name: max([u.saved_at for u in uses(desk, cast(Grouping, d.body))], default="") for d in stored}
    for definition in sorted(stored, key=lambda d: (last_used[d.name], d.saved_at), reverse=True):
        try:
            found.append(_given(cast(Grouping, definition.body), definition.name, column, desk))
        except DefinitionError as error:
            found.append(Choice(definition.name, [], problem=str(error)))
    return found


def _plain(kind: str, column: Column) -> Choice:
    blank = int(column.blanks.sum())
    if kind == "calendar":
        return Choice("", _periods(default_calendar(), column), blank)
    values = column.values if column.blank is None else column.values[column.present]
    return Choice("", [("value", len(np.unique(values)))], blank)


def _given(document: Grouping, name: str, column: Column, desk: Desk) -> Choice:
    blank = int(column.blanks.sum())
    if isinstance(document, Tree):
        return _tree(document, texts.as_text(column), blank)
    if isinstance(document, Calendar):
        return Choice(name, _periods(document, column), blank)
    return Choice(name, [("range", _ranges(document, name, column, desk))], blank)


def _tree(tree: Tree, text: Column, blank: int) -> Choice:
    codes = text.values if text.blank is None else text.values[text.present]
    counts = np.bincount(codes, minlength=len(text.words))
    used = np.flatnonzero(counts).tolist()
    paths = Placer(tree, [text.words[i] for i in used]).placing(None).paths
    loose = [i for i, path in zip(used, paths, strict=True) if path[0].special == NOT_PLACED]
    levels = []
    for k, level in enumerate(tree.levels):
        members = {path[k].rank for path in paths if path[0].special != NOT_PLACED}
        levels.append((level, len(members)))
    return Choice(tree.name, levels, blank, int(counts[loose].sum()) if loose else 0, helps=len(loose) < len(used))


def _periods(document: Calendar, column: Column) -> list[tuple[str, int]]:
    if column.kind not in DATED:
        raise DefinitionError("not a date")
    days = np.unique(days_of(column)[column.present])
    which = calendar(document)
    return [(grain, len(np.unique(which.ordinals(grain, days)))) for grain in GRAINS]


def _ranges(document: Buckets, name: str, column: Column, desk: Desk) -> int:
    if column.kind in DATED:
        as_of = int(np.datetime64(desk.today()).astype("datetime64[D]").astype(np.int64))
        codes, members = buckets.ages(column, name, document.cut, document.labels, as_of)
    elif column.kind in NUMERIC:
        codes, members = buckets.ranges(column, name, document.cut, document.labels)
    else:
        raise DefinitionError("neither a number nor a date")
    held = np.bincount(codes, minlength=len(members)) > 0
    return int(held.sum()) - int(column.blank is not None)


def said(choice: Choice) -> str:
    """A choice's outcome in words.

    >>> said(Choice("Lines", [("Line", 3), ("Route", 14)], blank=2, not_placed=5))
    'Line 3 · Route 14, 2 blank, 5 not placed'
    >>> said(Choice("", [("value", 1)]))
    '1 value'
    """
    parts = [_counted(level, count) for level, count in choice.levels]
    more = [f"{grouped(n)} {word}" for n, word in ((choice.blank, "blank"), (choice.not_placed, "not placed")) if n]
    return choice.problem or ", ".join([" · ".join(parts), *more])


def _counted(level: str, count: int) -> str:
    if level in ("value", "range", *GRAINS):
        return f"{grouped(count)} {level}{'' if count == 1 else 's'}"
    return f"{level} {grouped(count)}"
