"""Conditions over columns: yes, no and unknown (ISO/IEC 9075, three-valued logic)."""

from collections.abc import Callable, Sequence

import numpy as np
from sqlglot import exp

from kalendor.core.formulas import times
from kalendor.core.values import arithmetic as ar
from kalendor.core.values.columns import EXACT, Column, Kind, Mask, brought_to
from kalendor.errors import DefinitionError


def three_valued(yes: Mask, no: Mask) -> Column:
    """The condition that is true where `yes`, false where `no` and unknown elsewhere."""
    unknown = ~(yes | no)
    return Column(Kind.YES_NO, yes, unknown if unknown.any() else None)


def yes_and_no(column: Column, said: exp.Expression) -> tuple[Mask, Mask]:
    """Where a condition is true and where it is false; DefinitionError, quoting the text, if it is not a condition."""
    if ar.is_null(column):
        return np.zeros(len(column), dtype=bool), np.zeros(len(column), dtype=bool)
    if column.kind is not Kind.YES_NO:
        raise DefinitionError(f"{said.sql()!r} is not a condition")
    if column.blank is None:
        return column.values, ~column.values
    return column.values & column.present, ~column.values & column.present


def negated(column: Column) -> Column:
    """NOT of a condition; unknown stays unknown."""
    return Column(Kind.YES_NO, ~column.values, column.blank)


def compare(op: Callable[..., object], left: Column, right: Column) -> Column:
    """Two columns compared, texts beside dates read as dates; unknown where either side is blank."""
    if ar.is_null(left) or ar.is_null(right):
        n = max(len(left), len(right))
        return Column(Kind.YES_NO, np.zeros(n, dtype=bool), np.ones(n, dtype=bool))
    left, right = times.read_as(left, right), times.read_as(right, left)
    return ar.compared(op, left, right)


def listed(column: Column, items: Sequence[Column]) -> Mask | None:
    """Whether a column's value is in a list of single values, looked up at once; None if they must be compared one by
    one, for example because one is blank or of another kind."""
    if any(len(item) != 1 or item.blank is not None for item in items) or len(column) == 1:
        return None
    if column.kind is Kind.TEXT and all(item.kind is Kind.TEXT for item in items):
        wanted = {item.words[0] for item in items}
        table = np.fromiter((word in wanted for word in column.words), bool, len(column.words))
        return table[column.values] if len(table) else np.zeros(len(column), dtype=bool)
    if column.kind in EXACT and all(item.kind in EXACT for item in items):
        places = max(column.places, *(item.places for item in items))
        scaled = [brought_to(part, places) for part in (column, *items)]
        if all(part is not None and part.dtype != object for part in scaled):
            return np.isin(scaled[0], np.concatenate(scaled[1:]))  # type: ignore[arg-type]
    return None
