"""Reference implementations in fractions: order statistics, variances, and comparisons with a base."""

import math
from fractions import Fraction
from statistics import median
from typing import Any

Value = Any


def against(shown: str, value: Value, base: Value) -> Value:
    if shown == "base":
        return base
    if shown == "difference":
        return None if value is None and base is None else (value or 0) - (base or 0)
    if value is None or base is None or base <= 0:
        return None
    return (value - base) / base if shown == "percent" else 100 * value / base


def of_numbers(f: dict[str, Any], values: list[Fraction]) -> Value:
    n, ranked = len(values), sorted(values)
    mean = sum(values) / n
    squares = sum((v - mean) ** 2 for v in values)
    match f["take"]:
        case "sum":
            return sum(values)
        case "mean":
            return mean
        case "median":
            return median(ranked)
        case "percentile":
            place = Fraction(n - 1) * Fraction(f["p"]) / 100
            low = math.floor(place)
            return ranked[low] + (ranked[min(low + 1, n - 1)] - ranked[low]) * (place - low)
        case "nth_largest":
            return ranked[-f["n"]] if f["n"] <= n else None
        case "nth_smallest":
            return ranked[f["n"] - 1] if f["n"] <= n else None
        case "min":
            return ranked[0]
        case "max":
            return ranked[-1]
        case "variance" | "stdev" if n < 2:
            return None
        case "variance":
            return squares / (n - 1)
        case "stdev":
            return math.sqrt(squares / (n - 1))
        case "variance_pop":
            return squares / n
        case "stdev_pop":
            return math.sqrt(squares / n)
    raise AssertionError(f["take"])
