"""Divides data files into partitions that are read separately: row groups of Parquet, byte ranges of delimited text,
other files whole."""

from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from kalendor.core.values.columns import NUMERIC, Kind
from kalendor.definitions.recipe import Recipe
from kalendor.errors import IntakeError
from kalendor.intake.content import Bytes, blocks, content_of, mapped
from kalendor.intake.parquet import headings_in, is_parquet, row_groups, rows_in
from kalendor.intake.reading import read_content
from kalendor.intake.text import Layout
from kalendor.intake.together import heading_key
from kalendor.intake.typed import Reading

NEWLINE, QUOTE = 10, 34
FOOT = 1 << 14  # bytes at the end of a file that are searched for lines of totals
PACKED = (b"PK", b"\x1f\x8b")
Wanted = Callable[[str], bool]


@dataclass(frozen=True)
class Partition:
    """A part of a file: the row groups of Parquet, or the bytes of delimited text from `first` to before `last` below
    the heading lines, which end at byte `heading`; all of the file if both are empty. `number` is its position among
    all partitions; `size` (in bytes) and `modified` (in ns) are those of the file when it was divided, `weight` is the
    part's approximate size in bytes."""

    path: Path
    number: int
    size: int
    modified: int
    weight: int
    groups: tuple[int, ...] = ()
    heading: int = 0
    first: int = 0
    last: int = 0

    @property
    def said(self) -> str:
        """The file and the part of it, in words."""
        if self.groups:
            return f"{self.path.name}, row groups {self.groups[0] + 1} to {self.groups[-1] + 1}"
        return f"{self.path.name}, bytes {self.first} to {self.last}" if self.last else self.path.name

    def numbered(self, number: int) -> "Partition":
        """The same partition at another position."""
        return replace(self, number=number)

    def check(self) -> None:
        """Raises IntakeError if the file changed since it was divided."""
        found = _stat(self.path)
        if found != (self.size, self.modified):
            raise IntakeError(f"{self.path}: it was changed while it was being read; run the report again")


def partitions(paths: Sequence[Path], most: int, layout: Layout | None) -> list[Partition]:
    """The files in parts of about `most` bytes, in order; `layout` is that of delimited files.

    Raises IntakeError for a file that cannot be read.
    """
    found: list[Partition] = []
    for path in paths:
        size, modified = _stat(path)
        content = mapped(path)
        own = Partition(path.absolute(), 0, size, modified, size)
        if is_parquet(content):
            parts = [replace(own, groups=g, weight=w) for g, w in _grouped(row_groups(content, path.name), most)]
        elif size > most and layout is not None and layout.encoding == "utf-8" and _is_text(content):
            parts = list(_stretches(own, content, most, layout))
        else:
            parts = [own]
        found += [replace(part, number=len(found) + k) for k, part in enumerate(parts)]
    return found


def read_partition(
    part: Partition, recipe: Recipe | None, wanted: Wanted | None = None, otherwise: str = "say with --recipe how"
) -> Reading:
    """The records of a partition, with detected kinds or by the recipe of a sample. Of Parquet only the columns
    `wanted` are read.

    A column of whole numbers may turn out to have decimals, and one of decimals more places. Raises IntakeError for a
    partition with columns of other kinds, advising to do `otherwise`, and for a file that was changed or cannot be
    read.
    """
    part.check()
    content = mapped(part.path)
    if part.last:
        content = content_of(content[: part.heading].tobytes() + content[part.first : part.last].tobytes())
        recipe = None if recipe is None else recipe.model_copy(update={"foot_lines": 0})
    reading = read_content(content, part.path, recipe, part.groups, wanted, strict=recipe is not None)
    part.check()
    for misfit in reading.misfits:
        told = recipe.columns.get(misfit.column) if recipe is not None else None
        found = reading.records.columns.get(misfit.column)
        widened = (
            told is not None and found is not None and found.kind in NUMERIC and Kind(told.type or "text") in NUMERIC
        )
        if not widened:
            said = misfit.said.removesuffix("; nothing was brought in")
            raise IntakeError(f"{said}. All files of a source are read in one way; {otherwise}")
    return reading


def recipe_of(reading: Reading) -> Recipe:
    """The recipe for all partitions, from that of a sample; the kind of a column without a value is left open."""
    blank = {
        name for name, column in reading.records.columns.items() if column.blank is not None and column.blank.all()
    }
    columns = {
        name: how.model_copy(update={"type": None} if name in blank else {"places": None})
        for name, how in reading.recipe.columns.items()
    }
    layout = reading.layout
    laid_out = {} if layout is None else {"delimiter": layout.delimiter, "heading_line": layout.heading_line}
    return reading.recipe.model_copy(update={"columns": columns, **laid_out})


def check_headings(reading: Reading, headings: Sequence[str], name: str) -> None:
    """Raises IntakeError if the columns of a partition differ from those of the first file, which has the `headings`."""
    here, there = ({heading_key(h) for h in those} for those in (reading.headings, headings))
    if here != there:
        odd = sorted(here ^ there)[0]
        heading = next(h for h in (*headings, *reading.headings) if heading_key(h) == odd)
        raise IntakeError(f"{reading.name}: its columns are not those of {name}; they differ in {heading!r}")


def sample_of(path: Path, most: int, recipe: Recipe | None, wanted: Wanted | None) -> Reading:
    """The first records of a file, about `most` bytes, from which the recipe for all files is found.

    Raises IntakeError if it cannot be read.
    """
    content = mapped(path)
    groups: tuple[int, ...] = ()
    if is_parquet(content):
        groups = next(_grouped(row_groups(content, path.name), most))[0]
    elif len(content) > most and _is_text(content):
        quotes, ends = np.flatnonzero(content[:most] == QUOTE), np.flatnonzero(content[:most] == NEWLINE)
        whole = ends[np.searchsorted(quotes, ends) % 2 == 0]
        content = content[: int(whole[-1]) + 1] if len(whole) else content
    return read_content(content, path, recipe, groups, wanted, strict=False)


def only(columns: Collection[str], made: Collection[str], path: Path) -> Wanted | None:
    """The headings of a Parquet file to read if only `columns`, in lower case, are used, some of them `made` of others;
    None for all, also if the file lacks one, so that the error can list all that it has."""
    content = mapped(path)
    there = [name.casefold() for name in headings_in(content, path.name)]
    if len(set(there)) < len(there) or not {*columns} - {*made} - {"as_of"} <= {*there}:
        return None
    return lambda heading: heading.casefold() in columns


def _is_text(content: Bytes) -> bool:
    """Whether a file may be delimited text: not compressed, not a workbook and not JSON."""
    return content[:2].tobytes() not in PACKED and content[:1].tobytes() not in (b"{", b"[")


def _stat(path: Path) -> tuple[int, int]:
    try:
        found = path.stat()
    except OSError as error:
        raise IntakeError(f"{path}: cannot be read ({error.strerror or error})") from None
    return found.st_size, found.st_mtime_ns


def _grouped(weights: Sequence[int], most: int) -> Iterator[tuple[tuple[int, ...], int]]:
    """Consecutive row groups, given their bytes, in parts of at most `most` bytes, or one group."""
    groups: list[int] = []
    weight = 0
    for at, own in enumerate(weights):
        if groups and weight + own > most:
            yield tuple(groups), weight
            groups, weight = [], 0
        groups.append(at)
        weight += own
    if groups or not weights:
        yield tuple(groups), weight


def _stretches(whole: Partition, content: Bytes, most: int, layout: Layout) -> Iterator[Partition]:
    """The byte ranges of whole records in a delimited file: cut at line ends preceded by an even number of quotes."""
    ends, heading, quotes, lines, foot = [], 0, 0, 0, 0
    wanted = most
    for at, block in blocks(content):
        stops = np.flatnonzero(block == NEWLINE)
        before = quotes + np.searchsorted(np.flatnonzero(block == QUOTE), stops)
        quotes += int(np.count_nonzero(block == QUOTE))
        if lines < layout.heading_line <= lines + len(stops):
            heading = at + int(stops[layout.heading_line - 1 - lines]) + 1
            wanted = heading + most
        lines += len(stops)
        whole_records = stops[before % 2 == 0] + at + 1
        early = whole_records[whole_records <= max(heading, len(content) - FOOT)]
        foot = int(early[-1]) if heading and len(early) else foot
        while heading and len(whole_records) and whole_records[-1] >= wanted:
            end = int(whole_records[np.searchsorted(whole_records, wanted)])
            ends.append(end)
            wanted = end + most
    if quotes % 2 or not heading or not ends or _has_totals(whole, content, heading, foot):
        yield whole
        return
    ends += [] if ends[-1] == len(content) else [len(content)]
    for first, last in zip([heading, *ends], ends, strict=False):
        yield replace(whole, heading=heading, first=first, last=last, weight=last - first)


def _has_totals(whole: Partition, content: Bytes, heading: int, foot: int) -> bool:
    """Whether the last lines, from byte `foot` on, may be totals, which only the sums of all records can prove."""
    last = content_of(content[:heading].tobytes() + content[max(foot, heading) :].tobytes())
    found = read_content(last, whole.path, None)
    columns = found.records.columns.values()
    sparse = found.records.count > 0 and 2 * sum(bool(column.blanks[-1]) for column in columns) >= len(columns)
    return sparse or bool(found.foot)


def lines_before(part: Partition) -> int:
    """The number of lines of a delimited file (records of Parquet) before those of a partition, without heading lines."""
    content = mapped(part.path)
    if part.groups:
        return sum(rows_in(content, part.path.name)[: part.groups[0]])
    return int(np.count_nonzero(content[part.heading : part.first] == NEWLINE)) if part.last else 0
