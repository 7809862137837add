"""Builds the response model of a source's link to a folder."""

from kalendor.api.strict import BaseModel
from kalendor.desk.desk import Desk
from kalendor.desk.linked.looking import since
from kalendor.store.linked import Link
from kalendor.store.sources import Source


class LinkedView(BaseModel):
    """The folder of a linked source: the pattern of its files, their number and bytes, when it was last looked at, and
    how many were added, changed or deleted since; `said` says that in words, empty if none were."""

    folder: str
    pattern: str
    files: int
    size: int
    looked_at: str
    came: int
    changed: int
    gone: int
    said: str


class LinkedFileView(BaseModel):
    """A file of a linked source at the last look: its path beneath the folder, its size in bytes, its SHA-256, and its
    numbers of records and refused lines. `state` is that on the disk now: same, changed or gone."""

    path: str
    size: int
    sha256: str
    records: int
    refused: int
    state: str


def linked_view(desk: Desk, source: Source, link: Link | None) -> LinkedView | None:
    """A source's link; None where it has none."""
    if link is None:
        return None
    files, differ = desk.linked.files(source.id), since(desk, source)
    look = desk.intakes.one(max(desk.intakes.standing(source)))
    return LinkedView(
        folder=link.folder, pattern=link.pattern, files=len(files), size=sum(one.size for one in files),
        looked_at=look.brought_at, came=len(differ.came), changed=len(differ.changed), gone=len(differ.gone),
        said=differ.said if differ else "",
    )  # fmt: skip


def file_views(desk: Desk, source: Source, start: int, count: int) -> list[LinkedFileView]:
    """Some of a linked source's files, by their paths."""
    differ = since(desk, source)
    state = dict.fromkeys(differ.changed, "changed") | dict.fromkeys(differ.gone, "gone")
    return [
        LinkedFileView(
            path=one.path, size=one.size, sha256=one.sha256, records=one.records, refused=one.refused,
            state=state.get(one.path, "same"),
        )
        for one in desk.linked.files(source.id)[start : start + count]
    ]  # fmt: skip
