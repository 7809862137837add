"""The partitions of a linked source's files, and the cache keys of values computed from them."""

from dataclasses import astuple
from pathlib import Path

from kalendor.core.values.keys import Key, key
from kalendor.intake.partitions import Partition
from kalendor.store.linked import LinkedFile, Part


def part_key(base: Key, file: LinkedFile, part: Part) -> Key:
    """The key of a value of a partition; it identifies the file by content, not by path."""
    return key("part", base, file.sha256, *astuple(part)[1:])


def partition(folder: Path, file: LinkedFile, part: Part) -> Partition:
    """A partition of a file, read as the look found it."""
    return Partition(
        folder / file.path, 0, file.size, file.modified, part.weight, part.groups, part.heading, part.first, part.last
    )
