"""The cells of a sheet as arrays: innermost cells rolled up to every crossing, and crossings assembled."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from kalendor.core.placing.frame import Frame
from kalendor.core.values.arithmetic import in_one_kind
from kalendor.core.values.columns import Array, Column, room_to_add

Crossing = tuple[int, int]


def rolled_up(frame: Frame, ufunc: Any, leaf: Array) -> Array:
    """Shape (lines, columns): values of the innermost cells combined for the cells of every crossing."""
    deepest = frame.crossings[-1]
    if ufunc is np.add:
        leaf = room_to_add(leaf)
    leaf = leaf.reshape(frame.block_shape(deepest))
    cells = np.zeros(frame.shape, dtype=leaf.dtype)
    for d in range(len(frame.lines.steps) + 1):
        lines = frame.lines.rolled_up(ufunc, leaf, d) if d < deepest[0] else leaf
        for a in range(len(frame.columns.steps) + 1):
            cells[frame.block((d, a))] = frame.columns.rolled_up(ufunc, lines.T, a).T if a < deepest[1] else lines
    return cells


def joined(frame: Frame, blocks: Sequence[Array]) -> Array:
    """The blocks of all crossings, in the frame's order, as one array, shape (lines × columns,)."""
    cells = np.zeros(frame.shape, dtype=np.result_type(*blocks))
    for crossing, block in zip(frame.crossings, blocks, strict=True):
        cells[frame.block(crossing)] = block.reshape(frame.block_shape(crossing))
    return cells.reshape(-1)


def assembled(frame: Frame, blocks: dict[Crossing, Column]) -> Column:
    """The blocks of all crossings as one column, shape (lines × columns,); blank where no block is given."""
    blocks = dict(zip(blocks, in_one_kind([*blocks.values()]), strict=True))
    first = next(iter(blocks.values()))
    wide = any(block.values.dtype == object for block in blocks.values())
    values = np.zeros(frame.shape, dtype=object if wide else first.values.dtype)
    blank, unrounded = np.ones(frame.shape, dtype=bool), np.full(frame.shape, np.nan)
    for crossing, block in blocks.items():
        shape = frame.block_shape(crossing)
        values[frame.block(crossing)] = block.values.reshape(shape)
        blank[frame.block(crossing)] = False if block.blank is None else block.blank.reshape(shape)
        if block.unrounded is not None:
            unrounded[frame.block(crossing)] = block.unrounded.reshape(shape)
    return Column(
        first.kind, values.reshape(-1), blank.reshape(-1), first.places, first.words, unrounded=unrounded.reshape(-1)
    )
