"""The partitions of a linked source's files, and the keys under which values of them are kept."""

from dataclasses import astuple
from pathlib import Path

from kalendor.core.values.keys import Key, key
from kalendor.intake.partitions import Partition
from kalendor.store.linked import LinkedFile, Part


def part_key(base: Key, file: LinkedFile, part: Part) -> Key:
    """The key of a value of a partition: it names the content of the file, wherever that lies."""
    return key("part", base, file.sha256, *astuple(part)[1:])


def partition(folder: Path, file: LinkedFile, part: Part) -> Partition:
    """A partition of a file, to be read as the look found it."""
    return Partition(
        folder / file.path, 0, file.size, file.modified, part.weight, part.groups, part.heading, part.first, part.last
    )
