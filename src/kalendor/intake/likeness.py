"""How similar a column of a file is to a known one: by its values, and by its name."""

import re
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from difflib import SequenceMatcher

import numpy as np

from kalendor.core.formulas.texts import as_text, written
from kalendor.core.values.columns import DATED, NUMERIC, Column, Kind, days_of
from kalendor.core.values.notation import grouped, noted_day
from kalendor.core.values.occurrences import occurring
from kalendor.core.values.words import quick_hashes_of
from kalendor.intake.together import heading_key

ENOUGH, BY_VALUES = 0.45, 0.65
SAME_VALUES, SAME_SHAPES, ALIKE_NAMES, SAME_RANGE = 0.9, 0.95, 0.6, 0.8
MOST_SHAPES = 2_000
YEARS = 366
SCALES = (1.0, 1e3, 1e-3)
FEWEST_DIFFERENT = 2


@dataclass(frozen=True)
class Likeness:
    """`share` is from 0 to 1; `why` says in words what is similar. `sure`: similar enough to need no confirmation."""

    share: float
    why: str
    sure: bool


NOTHING_ALIKE = Likeness(0.0, "", False)


def likeness(name: str, known: Column, heading: str, came: Column, open_mark: bool = False) -> Likeness:
    """How similar the column `came` of a file, under its heading, is to the `known` one under its name. `open_mark`:
    its numbers may have been read with the wrong decimal mark, and so be wrong by a factor of 1,000."""
    names = names_alike(name, heading)
    found = _by_values(known, came, names, open_mark)
    if found is None:
        return NOTHING_ALIKE
    return Likeness(BY_VALUES * found.share + (1 - BY_VALUES) * names, found.why, found.sure)


def paired(
    absent: Mapping[str, Column], fresh: Mapping[str, Column], open_marks: Collection[str] = ()
) -> dict[str, tuple[str, Likeness]]:
    """For each known column that a file lacks, the most similar heading, if one is similar at all; each heading is used
    once. None is sure if another is also possible. `open_marks` are headings whose numbers may have been read with the
    wrong decimal mark."""
    found = [
        (one.share, name, heading, one)
        for name, known in absent.items()
        for heading, came in fresh.items()
        if (one := likeness(name, known, heading, came, heading in open_marks)).share >= ENOUGH
    ]
    pairs: dict[str, tuple[str, Likeness]] = {}
    taken: set[str] = set()
    for _, name, heading, one in sorted(found, key=lambda f: -f[0]):
        if name not in pairs and heading not in taken:
            others = [f for f in found if (f[1] == name) != (f[2] == heading)]
            doubted = one.sure and any(f[3].sure for f in others)
            pairs[name] = (heading, Likeness(one.share, one.why, False) if doubted else one)
            taken.add(heading)
    return pairs


def names_alike(name: str, heading: str) -> float:
    """How similar two headings are, from 0 to 1: by their letters, or by shared words.

    >>> names_alike("net", "net amount") > names_alike("net", "tax")
    True
    """
    a, b = heading_key(name), heading_key(heading)
    ours, theirs = ({w for w in re.split(r"[\W_]+", text.casefold()) if w} for text in (name, heading))
    both = len(ours & theirs) / max(1, min(len(ours), len(theirs)))
    return max(SequenceMatcher(None, a, b).ratio(), 0.9 * both)


def _by_values(known: Column, came: Column, names: float, open_mark: bool) -> Likeness | None:
    """How similar the values are; None if they are incompatible."""
    if not came.present.any() or not known.present.any():
        return Likeness(0.3, "it has no values to tell it by", False)
    if known.kind is Kind.TEXT:
        return _texts_alike(known, came if came.kind is Kind.TEXT else as_text(came), names)
    if known.kind in DATED and came.kind is known.kind:
        return _dates_alike(known, came, names)
    if known.kind in NUMERIC and came.kind in NUMERIC and known.percent == came.percent:
        return _numbers_alike(known, came, names, open_mark)
    return Likeness(0.6, "it is of the same kind", False) if known.kind is came.kind else None


def _texts_alike(known: Column, came: Column, names: float) -> Likeness | None:
    """The share of known values; for codes, which are always new, by their shape."""
    counts = occurring(came.values[came.present], len(came.words))
    there = np.isin(quick_hashes_of(came.words), quick_hashes_of(known.words)) & (counts > 0)
    share = float(counts[there].sum() / counts.sum())
    different = int((counts > 0).sum())
    if share >= ENOUGH:
        why = f"{grouped(int(there.sum()))} of {grouped(different)} values are known"
        return Likeness(share, why, share >= SAME_VALUES and different >= FEWEST_DIFFERENT)
    shapes = set(_shapes(known))
    alike = [shape in shapes for shape in _shapes(came)]
    shaped = sum(alike) / max(1, len(alike))
    if shaped < ENOUGH:
        return Likeness(share, "", False)
    example = next(word for word, n in zip(came.words, counts.tolist(), strict=True) if n)
    return Likeness(
        0.7 * shaped, f"its values look alike, as {example}", shaped >= SAME_SHAPES and names >= ALIKE_NAMES
    )


def _shapes(column: Column) -> Iterator[str]:
    """The shapes of the first distinct texts: letters, digits and the rest."""
    for word in column.words[:MOST_SHAPES]:
        if word:
            yield re.sub(r"[0-9]+", "9", re.sub(r"[^\W\d_]+", "a", word))


def _numbers_alike(known: Column, came: Column, names: float, open_mark: bool) -> Likeness:
    """The share of the numbers in the range of nearly all known ones."""
    ours, theirs = known.floats()[known.present], came.floats()[came.present]
    share = max(_alike_share(ours, theirs * by) for by in (SCALES if open_mark else (1.0,)))
    same = known.kind is came.kind and known.places >= came.places and not open_mark
    span = "" if open_mark else f", {_span(came)}"
    why = f"its numbers lie alike{span}" if share >= ENOUGH else ""
    return Likeness(0.8 * share, why, same and share >= SAME_RANGE and names >= ALIKE_NAMES)


def _alike_share(ours: np.ndarray, theirs: np.ndarray) -> float:
    low, high = np.percentile(ours, (1, 99))
    inside = float(((theirs >= low) & (theirs <= high)).mean())
    wide = _middle(theirs) / max(_middle(ours), 1e-9)
    return float(inside * min(1.0, wide, 1 / max(wide, 1e-9)) ** 0.5)


def _middle(values: np.ndarray) -> float:
    low, high = np.percentile(values, (10, 90))
    return float(high - low)


def _dates_alike(known: Column, came: Column, names: float) -> Likeness:
    """Whether the days follow the known ones, or lie among them."""
    ours, theirs = days_of(known)[known.present], days_of(came)[came.present]
    near = (theirs >= ours.min() - YEARS) & (theirs <= ours.max() + YEARS)
    share = float(near.mean())
    first, last = noted_day(int(theirs.min())), noted_day(int(theirs.max()))
    return Likeness(0.7 * share, f"its dates are of {first} – {last}", share >= SAME_VALUES and names >= ALIKE_NAMES)


def _span(column: Column) -> str:
    values = column.values[column.present]
    ends = Column(column.kind, np.array([values.min(), values.max()]), None, column.places)
    return f"{written(ends.item(0))} – {written(ends.item(1))}"
