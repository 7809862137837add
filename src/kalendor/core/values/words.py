"""Many different texts in two arrays, which take a fraction of the memory of Python strings."""

from collections.abc import Iterator, Sequence
from hashlib import blake2b
from itertools import pairwise
from typing import overload

import numpy as np
from numpy.typing import NDArray

from kalendor.core.values.cores import each, pieces

BLOCK = 1 << 16
LONG = 256
_GOLDEN = np.uint64(0x9E3779B97F4A7C15)
_PRIME = np.uint64(0x100000001B3)
_SPREAD = np.uint64(0xFF51AFD7ED558CCD)
_FIRST = np.array([(1 << 8 * n) - 1 for n in range(9)], dtype=np.uint64)  # keeps the first n of eight bytes


class Words(Sequence[str]):
    """Texts by their number. `data`, shape (bytes,), is their UTF-8; text i is `data[offsets[i]:offsets[i + 1]]`."""

    __slots__ = ("data", "offsets")

    def __init__(self, data: NDArray[np.uint8], offsets: NDArray[np.int64]) -> None:
        self.data, self.offsets = data, offsets

    @classmethod
    def of(cls, texts: Sequence[str]) -> "Words":
        """The same texts, laid out in two arrays."""
        if isinstance(texts, Words):
            return texts
        encoded = [text.encode("utf-8", "surrogatepass") for text in texts]
        offsets = np.zeros(len(encoded) + 1, dtype=np.int64)
        np.cumsum([len(part) for part in encoded], out=offsets[1:])
        return cls(np.frombuffer(b"".join(encoded), dtype=np.uint8), offsets)

    @property
    def sizes(self) -> NDArray[np.int64]:
        """Shape (n,): the length of each text in bytes."""
        return np.diff(self.offsets)

    def __len__(self) -> int:
        return len(self.offsets) - 1

    @overload
    def __getitem__(self, i: int) -> str: ...
    @overload
    def __getitem__(self, i: slice) -> tuple[str, ...]: ...
    def __getitem__(self, i: int | slice) -> str | tuple[str, ...]:
        if isinstance(i, slice):
            start, stop, step = i.indices(len(self))
            return tuple(self._between(start, stop)) if step == 1 else tuple(self[k] for k in range(start, stop, step))
        at = i + len(self) if i < 0 else i
        if not 0 <= at < len(self):
            raise IndexError(i)
        return self.data[self.offsets[at] : self.offsets[at + 1]].tobytes().decode("utf-8", "surrogatepass")

    def __iter__(self) -> Iterator[str]:
        for start in range(0, len(self), BLOCK):
            yield from self._between(start, min(start + BLOCK, len(self)))

    def _between(self, start: int, stop: int) -> list[str]:
        """The texts from `start` to before `stop`, decoded at once."""
        if stop <= start:
            return []
        offsets = self.offsets[start : stop + 1]
        bytes_here = self.data[offsets[0] : offsets[-1]].tobytes()
        places = (offsets - offsets[0]).tolist()
        if bytes_here.isascii():
            text = bytes_here.decode("ascii")
            return [text[a:b] for a, b in pairwise(places)]
        return [bytes_here[a:b].decode("utf-8", "surrogatepass") for a, b in pairwise(places)]

    def hashes(self) -> NDArray[np.uint64]:
        """Shape (n,): a 64-bit hash of each text, the same in every version, since digests of them are stored."""
        sizes = self.sizes
        found = sizes.astype(np.uint64) * _GOLDEN
        for place in range(min(LONG, int(sizes.max(initial=0)))):
            here = np.flatnonzero(sizes > place)
            found[here] = (found[here] ^ self.data[self.offsets[here] + place]) * _PRIME
            if place % 8 == 7:
                found[here] ^= found[here] >> np.uint64(29)
        self._hash_long(found, slice(0, len(self)))
        found ^= found >> np.uint64(32)
        return found

    def quick_hashes(self) -> NDArray[np.uint64]:
        """Shape (n,): a 64-bit hash of each text, eight bytes at a time; several times as fast, not to be stored."""
        found = np.empty(len(self), dtype=np.uint64)
        each(lambda here: self._hash_quickly(found, here), pieces(len(self), BLOCK), len(self))
        return found

    def _hash_quickly(self, found: NDArray[np.uint64], here: slice) -> None:
        offsets = self.offsets[here.start : here.stop + 1]
        data = np.zeros(int(offsets[-1] - offsets[0]) + 8, dtype=np.uint8)
        data[:-8] = self.data[offsets[0] : offsets[-1]]
        eights = np.ndarray(len(data) - 7, np.dtype("<u8"), data.data, strides=(1,))  # from each byte on
        at, sizes = offsets[:-1] - offsets[0], np.diff(offsets)
        total = sizes.astype(np.uint64) * _GOLDEN
        fewest, most = int(sizes.min(initial=0)), min(LONG, int(sizes.max(initial=0)))
        for place in range(0, most, 8):
            rows = slice(None) if fewest > place else np.flatnonzero(sizes > place)
            bytes_here = eights[at[rows] + place]
            if fewest < place + 8:
                bytes_here = bytes_here & _FIRST[np.minimum(sizes[rows] - place, 8)]
            mixed = (total[rows] ^ bytes_here) * _SPREAD
            total[rows] = mixed ^ (mixed >> np.uint64(29))
        found[here] = total
        self._hash_long(found, here)

    def _hash_long(self, found: NDArray[np.uint64], here: slice) -> None:
        """The numbers of long texts among those `here`, which are of all their bytes."""
        for i in (here.start + np.flatnonzero(np.diff(self.offsets[here.start : here.stop + 1]) > LONG)).tolist():
            whole = self.data[self.offsets[i] : self.offsets[i + 1]].tobytes()
            found[i] = int.from_bytes(blake2b(whole, digest_size=8).digest(), "little")

    def take(self, index: NDArray[np.int64]) -> "Words":
        """The texts at `index`."""
        sizes = self.sizes[index]
        offsets = np.zeros(len(index) + 1, dtype=np.int64)
        np.cumsum(sizes, out=offsets[1:])
        places = np.repeat(self.offsets[index] - offsets[:-1], sizes) + np.arange(offsets[-1])
        return Words(self.data[places], offsets)


def merged(first: Words, second: Words) -> tuple[Words, NDArray[np.int32]] | None:
    """All different texts of two, those of `first` with their numbers, and the number of each text of `second`.

    None where two different texts share a 64-bit number, which is as good as never; they must be told apart otherwise.
    """
    known, asked = first.quick_hashes(), second.quick_hashes()
    order = np.argsort(known)
    ranked = known[order]
    if (ranked[1:] == ranked[:-1]).any():
        return None
    at = np.minimum(np.searchsorted(ranked, asked), max(len(ranked) - 1, 0))
    found = ranked[at] == asked if len(ranked) else np.zeros(len(second), dtype=bool)
    mine, theirs = order[at[found]], np.flatnonzero(found)
    same, other = first.take(mine), second.take(theirs)
    if not np.array_equal(same.offsets, other.offsets) or not np.array_equal(same.data, other.data):
        return None
    fresh = second.take(np.flatnonzero(~found))
    numbers = np.empty(len(second), dtype=np.int32)
    numbers[theirs] = mine
    numbers[~found] = np.arange(len(first), len(first) + len(fresh))
    offsets = np.concatenate([first.offsets, first.offsets[-1] + fresh.offsets[1:]])
    return Words(np.concatenate([first.data[: first.offsets[-1]], fresh.data]), offsets), numbers


def hashes_of(words: Sequence[str]) -> NDArray[np.uint64]:
    """A 64-bit number for each text; the same text has the same number, different ones practically never."""
    return Words.of(words).hashes()


def quick_hashes_of(words: Sequence[str]) -> NDArray[np.uint64]:
    """The same more quickly, with other numbers, which are not to be kept."""
    return Words.of(words).quick_hashes()
