"""Matches corrected lines in a file to the refused lines they correct."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kalendor.core.formulas.texts import written
from kalendor.core.values.columns import Records

MOST_COMPARED = 1_000


def matched_lines(refused: Sequence[Sequence[str]], records: Records) -> list[int]:
    """The positions of the refused lines, given by their cells, that the records correct: each record has a line of its
    own, those with the most cells in common are matched first, of equally similar lines the earlier.

    Beyond a thousand lines they are matched in order.
    """
    count = min(len(refused), records.count)
    if len(refused) > MOST_COMPARED or records.count > MOST_COMPARED:
        return list(range(count))
    alike = _alike(refused, records)
    lines, taken = set[int](), set[int]()
    for at in np.argsort(-alike, axis=None, kind="stable").tolist():
        line, record = divmod(at, records.count)
        if line not in lines and record not in taken:
            lines.add(line)
            taken.add(record)
        if len(lines) == count:
            break
    return sorted(lines)


def _alike(refused: Sequence[Sequence[str]], records: Records) -> NDArray[np.float64]:
    """Shape (refused, records): how many cells each line has in common with each record, in any column."""
    found = np.zeros((len(refused), records.count))
    texts = [[_text(column.item(i)) for i in range(records.count)] for column in records.columns.values()]
    for at, cells in enumerate(refused):
        own = {cell.strip() for cell in cells if cell.strip()}
        for column in texts:
            found[at] += [text in own for text in column]
    return found


def _text(value: object) -> str:
    return "" if value is None else written(value)
