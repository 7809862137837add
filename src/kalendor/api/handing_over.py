"""Routes of exports: files, previews, headlines, packs and bundles."""

from collections.abc import Callable, Sequence
from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Response, UploadFile
from pydantic import Field, Json

from kalendor.api.desk import AtDesk, AtJobs
from kalendor.api.downloads import attachment, whole
from kalendor.api.job_view import SOON, job_view
from kalendor.api.models import JobView
from kalendor.api.strict import BaseModel
from kalendor.api.workers.marking import in_worker
from kalendor.core.sheet.sheet import Sheet
from kalendor.definitions.bundle import Bundle
from kalendor.definitions.document import read_json
from kalendor.definitions.kinds import definition
from kalendor.desk import bundles, packs
from kalendor.desk.editions.since import moves_since_editions
from kalendor.desk.handing_over import Preview, TakenAway, given_headline, handover, previewed, taken_away
from kalendor.desk.jobs import Job
from kalendor.desk.putting_over import Needed
from kalendor.desk.reports import report_at
from kalendor.errors import ConflictError, DefinitionError
from kalendor.output.headline.headline import has_moved
from kalendor.output.moves import Moved
from kalendor.output.pdf.pdf import first_page
from kalendor.output.watching import WATCHER

router = APIRouter(prefix="/api", tags=["handing over"])
Shape = Annotated[str | None, Query(description="sheet or flat; the format's own where left out")]


class HeadlineView(BaseModel):
    """The headline of a sheet, the generated one, and whether the first is the analyst's own. `moved`: the numbers have
    changed since it was written."""

    sentences: list[str]
    given: list[str]
    own: bool
    moved: bool


class PackAsked(BaseModel):
    """The reports of a pack, by id, its title, and its format."""

    title: Annotated[str, Field(min_length=1, max_length=120)]
    reports: Annotated[list[int], Field(min_length=1, max_length=200)]
    format: str = "xlsx"


class BundleView(BaseModel):
    """The contents of a bundle: its report, the source that it refers to and whether that exists here, its groupings,
    name clashes, and what it needs and does not contain."""

    title: str
    source: str
    here: bool
    groupings: list[str]
    clashes: list[bundles.Clash]
    needs: list[bundles.Need]
    columns: list[Needed]


class BroughtView(BaseModel):
    """The report imported from a bundle."""

    id: int
    title: str


def _sent(file: TakenAway) -> Response:
    return Response(file.content, media_type=file.media, headers={"Content-Disposition": attachment(file.name)})


@router.get("/reports/{id}/file", response_class=Response)
@in_worker
def sheet_file(desk: AtDesk, id: int, format: str = "csv", shape: Shape = None) -> Response:
    """Export a report's sheet as a file."""
    return _sent(taken_away(desk, report_at(desk, id), format, shape))


@router.post("/reports/{id}/files")
def make_file(
    desk: AtDesk, jobs: AtJobs, id: int, format: str = "csv", shape: Shape = None, level: str = ""
) -> JobView:
    """Export a report as a job with progress that can be cancelled; with `level`, a zip of one file for each member."""
    report = report_at(desk, id)

    def work(job: Job) -> TakenAway:
        WATCHER.set(job.read_so_far)
        return packs.by_member(desk, report, level, format) if level else taken_away(desk, report, format, shape)

    return _begun(desk, jobs, work)


@router.post("/packs")
def make_pack(desk: AtDesk, jobs: AtJobs, asked: PackAsked) -> JobView:
    """Export several reports as one workbook or PDF, or as a zip of files, as a job."""
    reports = [report_at(desk, id) for id in asked.reports]

    def moves(sheets: Sequence[Sheet]) -> list[Moved]:
        return moves_since_editions(desk, [(id, s.as_of, s) for id, s in zip(asked.reports, sheets, strict=True)])

    def work(job: Job) -> TakenAway:
        WATCHER.set(job.read_so_far)
        return packs.pack(desk, asked.title, reports, asked.format, moves)

    return _begun(desk, jobs, work)


def _begun(desk: AtDesk, jobs: AtJobs, work: Callable[[Job], TakenAway]) -> JobView:
    job = jobs.start(0, work, desk.workspace.close)
    job.finished.wait(SOON)
    return job_view(job)


@router.get("/jobs/{id}/file", response_class=Response)
def job_file(jobs: AtJobs, id: str) -> Response:
    """Return the file a job made, once; 409 if the job is not finished or the file was fetched already."""
    job = jobs.one(id)
    file = job.result
    if not isinstance(file, TakenAway):
        raise ConflictError(
            job.message or ("the file is not ready yet" if job.state == "working" else "export it again")
        )
    job.result = None  # a large file is not kept longer than needed
    return _sent(file)


@router.get("/reports/{id}/preview")
@in_worker
def preview(desk: AtDesk, id: int, format: str = "pdf", shape: Shape = None) -> Preview:
    """Preview a report's file."""
    return previewed(desk, report_at(desk, id), format, shape)


@router.get("/reports/{id}/preview.png", response_class=Response)
@in_worker
def preview_picture(desk: AtDesk, id: int, revision: int = 0) -> Response:
    """Return the first page of a report as a PNG; `revision` keeps caches apart."""
    return Response(first_page(handover(desk, report_at(desk, id), True)), media_type="image/png")


@router.get("/reports/{id}/headline")
@in_worker
def report_headline(desk: AtDesk, id: int) -> HeadlineView:
    """Return the headline of a report's sheet."""
    report = report_at(desk, id)
    given = given_headline(desk, report)
    own = report.headline
    return HeadlineView(
        sentences=given if own is None else own.sentences, given=given, own=own is not None,
        moved=own is not None and has_moved(own.given, given),
    )  # fmt: skip


@router.get("/reports/{id}/bundle", response_class=Response)
def report_bundle(desk: AtDesk, id: int, notes: bool = False, delivery: bool = False) -> Response:
    """Export a report with all definitions it needs as one file that is readable in a diff; notes and receivers on request."""
    report = report_at(desk, id)
    content = bundles.as_file(bundles.bundle_of(desk, report, notes, delivery)).encode()
    return _sent(TakenAway(f"{report.title} bundle.json", "application/json", content))


def _bundle(file: UploadFile) -> Bundle:
    name = file.filename or "bundle"
    try:
        text = whole(file).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise DefinitionError(f"{name}: not a bundle, which is JSON in UTF-8") from None
    found = definition(read_json(text, name), name, ("bundle",))
    assert isinstance(found, Bundle)
    return found


@router.post("/bundles/look")
def look_at_bundle(
    desk: AtDesk, file: Annotated[UploadFile, File()], source: Annotated[str, Form()] = ""
) -> BundleView:
    """Preview a bundle: what it would import and what is missing. Saves nothing."""
    bundle = _bundle(file)
    report = bundle.report()
    return BundleView(
        title=report.title, source=report.source, here=desk.sources.named(report.source) is not None,
        groupings=[grouping.name for grouping in bundle.groupings()],
        clashes=list(bundles.clashes(desk, bundle)), needs=bundles.needs(desk, bundle, source or None),
        columns=list(bundles.stand_ins(desk, bundle, source or None)),
    )  # fmt: skip


@router.post("/bundles", status_code=201)
def bring_bundle_in(
    desk: AtDesk,
    file: Annotated[UploadFile, File()],
    source: Annotated[str, Form()] = "",
    replace: Annotated[list[str], Form()] = [],  # noqa: B006
    rename: Annotated[list[str], Form()] = [],  # noqa: B006
    columns: Annotated[Json[dict[str, str]], Form()] = {},  # noqa: B006
) -> BroughtView:
    """Import a bundle. On a name clash the existing grouping is kept, unless the name is in `replace` or `rename`. `columns`
    (JSON) maps the report's columns to the source's."""
    said: dict[str, bundles.Resolved] = dict.fromkeys(replace, "replace")
    said |= dict.fromkeys(rename, "rename")
    stored = bundles.bring_in(desk, _bundle(file), said, source or None, columns)
    return BroughtView(id=stored.id, title=stored.name)
