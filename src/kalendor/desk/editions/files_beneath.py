"""The files that an edition was made from."""

from typing import Any

from kalendor.desk.desk import Desk
from kalendor.desk.ingredients import HeldSource


def files_beneath(desk: Desk, source: HeldSource) -> tuple[int, dict[str, Any]]:
    """The number of files that a sheet was made from, and what an edition stores about those of a linked source: the
    folder, and the SHA-256 of the list of their names and digests."""
    link = desk.linked.of(source.id)
    if link is None:
        standing = desk.intakes.of(desk.sources.one(source.id))
        return sum(1 for one in standing if one.undone_at is None and one.origin != "hand"), {}
    look = desk.intakes.one(max(source.intakes))
    count, _ = desk.linked.counted(look.id)
    return count, {"linked": {"folder": link.folder, "list": look.sha256}}
