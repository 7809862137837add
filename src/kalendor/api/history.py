"""Routes of the workspace's history: who changed which definition and when, and restoring a revision."""

from typing import Annotated

from fastapi import APIRouter, Query

from kalendor.api.desk import AtDesk
from kalendor.api.strict import BaseModel
from kalendor.definitions.report import Report
from kalendor.desk.history import change_words
from kalendor.sentence.writing import brief
from kalendor.store.definitions import MissingError, Revision, dumped, name_of

router = APIRouter(prefix="/api", tags=["history"])
Most = Annotated[int, Query(ge=1, le=2_000)]


class ChangeView(BaseModel):
    """A revision: which definition, when and by whom, and what it changed. `stands`: it is the current one."""

    id: int
    kind: str
    name: str
    revision: int
    saved_at: str
    saved_by: str
    words: list[str]
    stands: bool
    removed: bool


class RevisionView(BaseModel):
    """An earlier revision: in words if it is a report, and as a document."""

    change: ChangeView
    said: str
    document: str


class BroughtBack(BaseModel):
    """The current definition after a revision was restored."""

    id: int
    kind: str
    revision: int


def _view(one: Revision) -> ChangeView:
    return ChangeView(
        id=one.id, kind=one.kind, name=name_of(one.body), revision=one.revision, saved_at=one.saved_at, saved_by=one.saved_by,
        words=change_words(one), stands=one.stands, removed=one.removed,
    )  # fmt: skip


@router.get("/history")
def history(desk: AtDesk, definition: int | None = None, most: Most = 200) -> list[ChangeView]:
    """List the changes of all definitions, or of one, latest first."""
    return [_view(one) for one in desk.definitions.revisions(definition, most)]


@router.get("/definitions/{id}/revisions/{revision}")
def one_revision(desk: AtDesk, id: int, revision: int) -> RevisionView:
    """Return a revision."""
    found = next((one for one in desk.definitions.revisions(id, 4_096) if one.revision == revision), None)
    if found is None:
        raise MissingError(f"there is no revision {revision} of {id} here")
    said = brief(found.body) if isinstance(found.body, Report) else ""
    return RevisionView(change=_view(found), said=said, document=dumped(found.body))


@router.post("/definitions/{id}/revisions/{revision}/bring-back")
def bring_back(desk: AtDesk, id: int, revision: int) -> BroughtBack:
    """Restore a revision as a new one; restores removed definitions too."""
    stored = desk.definitions.bring_back(id, revision, desk.now())
    return BroughtBack(id=stored.id, kind=stored.kind, revision=stored.revision)
