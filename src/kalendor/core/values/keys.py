"""Cache keys: each names, part by part, everything that the cached value depends on.

Every key in the product is made here. A part is encoded with its type and its length, so that no two lists of parts
collide; nothing is ever identified by its address in memory.
"""

import hashlib
from collections.abc import Callable, Mapping, Sequence
from datetime import date
from typing import Any, NewType, Protocol, TypeAlias, TypeVar

from kalendor.definitions.document import Document, Part

Key = NewType("Key", str)
V = TypeVar("V")
Plain: TypeAlias = str | int | float | bool | date | Part | None
NO_KEY = Key("")
Keyed: TypeAlias = "Plain | Sequence[Keyed] | Mapping[str, Keyed]"


def key(kind: str, *parts: Keyed) -> Key:
    """The cache key of a value of a kind that depends on `parts`, as 40 hexadecimal digits.

    >>> key("x", "ab", "c") == key("x", "a", "bc"), key("x", 1) == key("x", "1"), key("x", ()) == key("x", None)
    (False, False, False)
    """
    digest = hashlib.blake2b(digest_size=20)
    digest.update(_said((kind, *parts)))
    return Key(digest.hexdigest())


def _said(part: Keyed) -> bytes:
    match part:
        case None:
            return b"n;"
        case bool():
            return b"y1;" if part else b"y0;"
        case int():
            return f"i{part};".encode()
        case float():
            return f"f{part.hex()};".encode()
        case date():
            return f"d{part.isoformat()};".encode()
        case str():
            return _sized(b"s", part.encode("utf-8", "surrogatepass"))
        case Document():
            return _sized(b"D", part.digest.encode())
        case Part():
            return _sized(type(part).__name__.encode() + b":", part.model_dump_json(by_alias=True).encode())
        case Mapping():
            return _sized(b"m", b"".join(_said(name) + _said(part[name]) for name in part))
        case Sequence():
            return _sized(b"l", b"".join(map(_said, part)))
    raise TypeError(f"{type(part).__name__} cannot be part of a key")


def _sized(tag: bytes, said: bytes) -> bytes:
    return tag + str(len(said)).encode() + b":" + said


class Memo(Protocol):
    """A cache of computed values, by keys that name everything they depend on."""

    def __call__(self, key: Key, make: Callable[[], V], /) -> V:
        """The value cached under `key`, or the one computed now."""
        ...


def forget(_: Key, make: Callable[[], V]) -> V:
    """A memo that caches nothing."""
    return make()


def local() -> Memo:
    """A memo that lives as long as its owner; of two values computed at once the first is kept."""
    kept: dict[Key, Any] = {}

    def memo(key: Key, make: Callable[[], V]) -> V:
        found: V = kept[key] if key in kept else kept.setdefault(key, make())
        return found

    return memo
