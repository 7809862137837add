"""Keys under which things are remembered: each names, part by part, all that the thing rests on.

Every key in the product is made here. A part says its type and its length, so that no two lists of parts run together;
nothing is ever named by where it stands in memory.
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
    """The key of a thing of a kind that rests on `parts`, as 40 hexadecimal digits.

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
    """Something that remembers what was worked out, under a key that names all that it rests on."""

    def __call__(self, key: Key, make: Callable[[], V], /) -> V:
        """The value remembered under `key`, or the one made now."""
        ...


def forget(_: Key, make: Callable[[], V]) -> V:
    """A memo that remembers nothing."""
    return make()


def local() -> Memo:
    """A memo of its own, which goes with whoever holds it; of two made at once the first stays."""
    kept: dict[Key, Any] = {}

    def memo(key: Key, make: Callable[[], V]) -> V:
        found: V = kept[key] if key in kept else kept.setdefault(key, make())
        return found

    return memo
