"""Routes of category trees, calendars and bucket sets."""

from datetime import date
from typing import Annotated, Any, Literal, cast

from fastapi import APIRouter, Body, File, Form, Response, UploadFile
from pydantic import Discriminator, Tag

from kalendor.api import grouping_models as models
from kalendor.api.desk import AtDesk
from kalendor.api.downloads import attachment, whole
from kalendor.api.revisions import Expected, tagged
from kalendor.api.workers.marking import in_worker
from kalendor.core.values.days import day_label
from kalendor.definitions.buckets import Buckets
from kalendor.definitions.calendar import Calendar, Table
from kalendor.definitions.kinds import Grouping
from kalendor.definitions.tree import Tree
from kalendor.desk import groupings, impact
from kalendor.desk.choices import choices, said
from kalendor.desk.desk import Desk
from kalendor.desk.grouping_files import table_as_file, table_from_file, tree_as_file, tree_from_columns, tree_from_file
from kalendor.desk.reports import grouping_at, stored_grouping
from kalendor.desk.small_files import small_reader
from kalendor.errors import DefinitionError
from kalendor.store.definitions import Stored

router = APIRouter(prefix="/api", tags=["groupings"])
KINDS = ("tree", "calendar", "buckets")


def _kind(value: Any) -> str | None:
    kind = value.get("kind") if isinstance(value, dict) else getattr(value, "kind", None)
    return f"~{kind}"


Document = Annotated[
    Annotated[Tree, Tag("~tree")] | Annotated[Calendar, Tag("~calendar")] | Annotated[Buckets, Tag("~buckets")],
    Discriminator(_kind),
    Body(),
]


def _view(desk: Desk, response: Response, stored: Stored) -> models.GroupingView:
    tagged(response, stored.revision)
    body = cast(Grouping, stored.body)
    return models.GroupingView(
        id=stored.id, kind=stored.kind, revision=stored.revision, can_undo=stored.can_undo, can_redo=stored.can_redo,
        used_by=[d.name for d in groupings.uses(desk, body)], document=body,
    )  # fmt: skip


def _over(found: groupings.Subject | None) -> models.Over | None:
    if found is None:
        return None
    return models.Over(
        source=found.source.name,
        specimen=found.specimen,
        column=found.name,
        amount=found.amount_name,
        is_age=found.is_age,
        as_of=day_label(found.as_of),
    )


def _said(used: list[Stored]) -> str:
    """The reports that use a grouping, in words."""
    names = ", ".join(repr(one.name) for one in used[:3]) + (f" and {len(used) - 3} more" if len(used) > 3 else "")
    return f"the {'report' if len(used) == 1 else 'reports'} {names}"


@router.get("/groupings")
def list_groupings(desk: AtDesk) -> list[models.GroupingLine]:
    """List category trees, calendars and bucket sets by name."""
    return [
        models.GroupingLine(id=d.id, kind=d.kind, name=d.name, levels=d.body.levels if isinstance(d.body, Tree) else [])
        for d in desk.definitions.all(*KINDS)
    ]


@router.post("/groupings", status_code=201)
def add_grouping(desk: AtDesk, response: Response, document: Document) -> models.GroupingView:
    """Create a grouping."""
    return _view(desk, response, desk.definitions.add(document, desk.now()))


@router.get("/groupings/{id}")
def one_grouping(desk: AtDesk, response: Response, id: int) -> models.GroupingView:
    """Return the current revision of a grouping."""
    return _view(desk, response, stored_grouping(desk, id))


@router.put("/groupings/{id}")
def save_grouping(
    desk: AtDesk, response: Response, expected: Expected, id: int, document: Document
) -> models.GroupingView:
    """Save a new revision of a grouping. One that reports use keeps its name."""
    before = grouping_at(desk, id)
    used = groupings.uses(desk, before)
    if used and document.name != before.name:
        raise DefinitionError(f"{before.name!r} is used by {_said(used)} under that name; change it there first")
    return _view(desk, response, desk.definitions.save(id, document, desk.now(), expected))


@router.delete("/groupings/{id}", status_code=204)
def remove_grouping(desk: AtDesk, expected: Expected, id: int) -> None:
    """Delete a grouping that no report uses."""
    used = groupings.uses(desk, grouping_at(desk, id))
    if used:
        raise DefinitionError(f"it is used by {_said(used)}; change that first")
    desk.definitions.remove(id, desk.now(), expected)


@router.post("/groupings/{id}/undo")
def undo(desk: AtDesk, response: Response, expected: Expected, id: int) -> models.GroupingView:
    """Undo one change."""
    grouping_at(desk, id)
    return _view(desk, response, desk.definitions.undo(id, expected))


@router.post("/groupings/{id}/redo")
def redo(desk: AtDesk, response: Response, expected: Expected, id: int) -> models.GroupingView:
    """Redo one change."""
    grouping_at(desk, id)
    return _view(desk, response, desk.definitions.redo(id, expected))


@router.post("/groupings/{id}/impact")
@in_worker
def moved_by(desk: AtDesk, id: int, document: Document) -> list[impact.Impact]:
    """Preview which reports a change would affect, and by how much."""
    before = grouping_at(desk, id)
    return impact.impact(desk, before, document)


@router.post("/look/tree")
@in_worker
def look_at_tree(
    desk: AtDesk, document: Annotated[Tree, Body()], source: str | None = None, column: str | None = None
) -> models.TreeLookView:
    """Preview a tree, saved or not, over its data."""
    over = groupings.subject(desk, document, source, column)
    found = groupings.look_at_tree(document, over)
    return models.TreeLookView(
        over=_over(over),
        **vars(found),
    )


@router.post("/look/calendar")
@in_worker
def look_at_calendar(
    desk: AtDesk, document: Annotated[Calendar, Body()], source: str | None = None, column: str | None = None
) -> models.CalendarLookView:
    """Preview a calendar, saved or not, over its data."""
    over = groupings.subject(desk, document, source, column)
    years, periods, quarters = groupings.look_at_calendar(document, over, desk.today())

    return models.CalendarLookView(over=_over(over), years=years, periods=periods, quarters=quarters)


@router.post("/look/buckets")
@in_worker
def look_at_buckets(
    desk: AtDesk,
    document: Annotated[Buckets, Body()],
    source: str | None = None,
    column: str | None = None,
    as_of: date | None = None,
) -> models.BucketLookView:
    """Preview a bucket set, saved or not, over its data; ages are counted to the as-of date if one is given."""
    over = groupings.subject(desk, document, source, column, as_of)
    found = groupings.look_at_buckets(document, over)
    return models.BucketLookView(over=_over(over), **vars(found))


@router.post("/trees/from-file", status_code=201)
def tree_of_file(
    desk: AtDesk, response: Response, file: Annotated[UploadFile, File()], name: Annotated[str, Form()]
) -> models.GroupingView:
    """Create a tree from a delimited file."""
    tree = tree_from_file(name, file.filename or "file", whole(file), small_reader(desk))
    return _view(desk, response, desk.definitions.add(tree, desk.now()))


@router.post("/trees/from-columns", status_code=201)
def tree_of_columns(desk: AtDesk, response: Response, asked: models.FromColumns) -> models.GroupingView:
    """Create a tree from columns of a source."""
    return _view(
        desk,
        response,
        desk.definitions.add(tree_from_columns(desk, asked.name, asked.source, asked.columns), desk.now()),
    )


@router.post("/tables/from-file")
def table_of_file(desk: AtDesk, file: Annotated[UploadFile, File()]) -> Table:
    """Read a calendar's table from a delimited file. Saves nothing."""
    return table_from_file(file.filename or "file", whole(file), small_reader(desk))


@router.get("/groupings/{id}/file", response_class=Response)
def grouping_file(desk: AtDesk, id: int) -> Response:
    """Export a tree, or a calendar by table, as a delimited file."""
    body = grouping_at(desk, id)
    if isinstance(body, Tree):
        data = tree_as_file(body)
    elif isinstance(body, Calendar) and body.table is not None:
        data = table_as_file(body.table)
    else:
        raise DefinitionError("only a category tree or a calendar by table is written to a delimited file")
    headers = {"Content-Disposition": attachment(f"{body.name}.csv")}
    return Response(data, media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/choices")
@in_worker
def list_choices(
    desk: AtDesk, kind: Literal["tree", "calendar", "buckets"], source: str, column: str
) -> list[models.ChoiceView]:
    """List the groupings of a kind with what each would give on a column, most recently used first."""
    return [
        models.ChoiceView(
            name=c.name,
            gives=said(c),
            levels=[level for level, _ in c.levels],
            helps=c.helps and not c.problem,
            problem=bool(c.problem),
        )
        for c in choices(desk, kind, source, column)
    ]
