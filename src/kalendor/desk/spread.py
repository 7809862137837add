"""Histograms over the full range of values, whatever their size."""

import numpy as np
from numpy.typing import NDArray


def spread(values: NDArray[np.float64], bins: int) -> NDArray[np.int64]:
    """The number of values in each of `bins` equal parts from the lowest to the highest, shape (bins,).

    >>> spread(np.array([0.0, 1.0, 9.0]), 3).tolist(), spread(np.array([1e308, -1e308]), 2).tolist()
    ([2, 0, 1], [1, 1])
    """
    if not len(values):
        return np.zeros(bins, dtype=np.int64)
    halves = values / 2
    low, high = halves.min(), halves.max()
    if not high > low:
        return np.bincount(np.zeros(len(values), dtype=np.int64), minlength=bins)
    place = np.clip(np.floor((halves - low) / (high - low) * bins), 0, bins - 1).astype(np.int64)
    return np.bincount(place, minlength=bins)
