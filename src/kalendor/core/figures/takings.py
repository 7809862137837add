"""What figures take, and of which records."""

from collections.abc import Container, Iterator
from contextlib import contextmanager
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.formulas import holds
from kalendor.core.formulas.scope import Scope
from kalendor.core.groupings.ground import Ground
from kalendor.core.placing.views import Where
from kalendor.core.takes.aggregate import Of
from kalendor.core.takes.condensed import Condensed, taking_key
from kalendor.core.takes.takes import TAKES, what_of
from kalendor.core.takes.units import amounts_of, is_of_units
from kalendor.core.values.columns import NUMERIC, Column, Mask
from kalendor.core.values.keys import key
from kalendor.definitions.figure import Taken
from kalendor.errors import DefinitionError


@contextmanager
def naming_in_errors(name: str) -> Iterator[None]:
    """Context in which a DefinitionError says which figure it is about."""
    try:
        yield
    except DefinitionError as error:
        if str(error).startswith("figure "):
            raise
        raise DefinitionError(f"figure {name!r}: {error}") from None


class Takings:
    """What figures take; `signs`, shape (n,), is −1 for records whose amounts count negative, except in the figures
    named `unturned`."""

    def __init__(self, ground: Ground, signs: NDArray[np.int8] | None = None, unturned: Container[str] = ()) -> None:
        self.ground, self.signs, self.unturned = ground, signs, unturned
        self._wheres: dict[tuple[str | None, str | None], Where | None] = {}
        self._turned: dict[str, Column] = {}
        self._found: dict[str, tuple[Taken, Of]] = {}

    def of(self, figure: Taken) -> tuple[Of, Where | None]:
        """What a figure takes, and of which records: by its own condition, and by its source if there are several.

        Raises DefinitionError.
        """
        own = (figure.source, figure.where)
        if own not in self._wheres:
            self._wheres[own] = self._where(figure)
        if figure.name not in self._found or self._found[figure.name][0] is not figure:
            found, condensed = self._of_columns(figure), self.ground.condensed
            self._found[figure.name] = figure, found if condensed is None else _of_rows(figure, found, condensed)
        return self._found[figure.name][1], self._wheres[own]

    def _of_columns(self, figure: Taken) -> Of:
        ground = self.ground
        if self.signs is None or TAKES[figure.take].counts or figure.name in self.unturned:
            return what_of(figure, ground.column, ground.value_order)
        turned = self._signed(figure.of or "")
        return replace(what_of(figure, ground.column), column=turned, column_key=key("turned", figure.of))

    def _where(self, figure: Taken) -> Where | None:
        ground = self.ground
        mask: Mask | None = None
        if figure.where is not None:
            mask = holds(figure.where, Scope(ground.records.columns, ground.records.count, ground.as_of))
        if ground.origin is not None:
            there = ground.origin.taken_from(figure.source)
            mask = there if mask is None else mask & there
        elif figure.source is not None:
            raise DefinitionError(
                f'the source {figure.source!r} does not stand beside the report\'s own; name it under "beside"'
            )
        return None if mask is None else Where(ground.key("where", figure.source, figure.where, ground.as_of), mask)

    def _signed(self, name: str) -> Column:
        """A number column with the signs of categories that count negative reversed."""
        column = self.ground.column(name)
        if column.kind not in NUMERIC or self.signs is None:
            return column
        if name not in self._turned:
            self._turned[name] = replace(column, values=column.values * self.signs)
        return self._turned[name]


def _of_rows(figure: Taken, of: Of, condensed: Condensed) -> Of:
    """What a figure takes of condensed records, where `of` is what it takes of their columns."""
    if TAKES[figure.take].by_value:
        return replace(of, times=condensed.times)
    if is_of_units(figure.of or ""):
        column = of.column
        assert column is not None
        if figure.take != "balance":
            return replace(of, column=replace(column, values=column.values * condensed.times))
        known = condensed.taken.get(taking_key(figure, amounts_of(figure.of or "")))
        return of if known is None else replace(of, by=known.by, places=known.places)
    known = condensed.taken.get(taking_key(figure, figure.of))
    return of if known is None else replace(known, p=of.p, n=of.n, keys=of.keys, column_key=of.column_key)
