"""The source of each record, where records of several sources are combined."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.columns import Mask
from kalendor.errors import DefinitionError


@dataclass(frozen=True, eq=False)
class Origin:
    """The source of each record: `of`, shape (n,), is 0 for the report's own and k for the k-th beside it.

    `columns[k - 1]` are the names under which the k-th has values.
    """

    of: NDArray[np.int8]
    names: tuple[str, ...]
    columns: tuple[frozenset[str], ...]

    @property
    def own(self) -> Mask:
        """Shape (n,): True for the report's own records."""
        return self.of == 0

    def taken_from(self, source: str | None) -> Mask:
        """Shape (n,): True for the records that a figure of that source takes; None is the report's own.

        Raises DefinitionError for a source that is not set beside.
        """
        if source is None:
            return self.own
        if source not in self.names:
            raise DefinitionError(
                f'the source {source!r} does not stand beside the report\'s own; name it under "beside"'
            )
        return self.of == self.names.index(source) + 1

    def spared(self, named: set[str]) -> Mask:
        """Shape (n,): True for records beside that lack one of the columns `named` in a condition, which therefore does
        not apply to them."""
        spared = np.zeros(len(self.of), dtype=bool)
        for k, columns in enumerate(self.columns, start=1):
            if not named <= columns:
                spared |= self.of == k
        return spared
