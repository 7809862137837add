"""Routes for importing files: a file is read and waits, can be read in another way, and is imported as a job that can be
cancelled."""

from collections.abc import Iterator
from typing import Annotated

from fastapi import APIRouter, File, Form, Header, Response, UploadFile

from kalendor.api import models
from kalendor.api.desk import AtDesk, AtJobs
from kalendor.api.job_view import SOON, job_view
from kalendor.desk import bringing_in
from kalendor.desk.belonging import look_at_any
from kalendor.desk.bringing_in import Change
from kalendor.desk.desk import Desk
from kalendor.desk.dropped_files import keep_looked_at, look_at_dropped
from kalendor.desk.jobs import Job
from kalendor.desk.outcomes import fitting, outcome
from kalendor.desk.pushing import Pushed, push
from kalendor.desk.uploads import hold, parts_of
from kalendor.desk.waiting import Waiting
from kalendor.errors import IntakeError
from kalendor.intake.currencies import currencies_in
from kalendor.intake.text import Layout
from kalendor.intake.totals import FootTotal
from kalendor.intake.typed import Reading
from kalendor.store.intakes import days_spanned

router = APIRouter(prefix="/api", tags=["bringing in"])
MOST_BYTES = 16 << 30
SHOWN_REFUSED = 50


def _waiting(desk: Desk, found: Waiting) -> models.WaitingView:
    reading = found.reading
    first, last = days_spanned(reading.records)
    already = found.already
    would = outcome(desk, found)
    return models.WaitingView(
        token=found.token,
        file_name=found.file_name,
        source=found.source,
        is_new=desk.sources.named(found.source) is None,
        records=reading.records.count,
        first_day=first,
        last_day=last,
        already=f"{already.file_name}, brought in {already.brought_at[:10]}" if already else None,
        columns=_columns(reading),
        first_records=bringing_in.first_records(reading.records),
        refused=[
            models.RefusedView(line=r.line, column=r.column, text=r.text, reason=r.reason)
            for r in reading.refused[:SHOWN_REFUSED]
        ],
        refused_count=len(reading.refused),
        sheets=list(reading.sheets),
        layout=_layout(reading.layout),
        area=reading.recipe.area,
        foot_lines=reading.foot_left_out,
        foot=_foot(reading),
        notes=list(reading.notes),
        fits=fitting(desk, found),
        join=found.join,
        join_by=list(found.join_by),
        always=found.always,
        mends=found.mends,
        dropped=found.dropped is not None,
        changes=found.changes,
        sure=found.changes is not None and found.changes.sure and not (would.held or would.problem),
        ignored=[name for name, how in reading.recipe.columns.items() if how.skip and name in reading.headings],
        outcome=would,
        currencies=currencies_in(reading.records) if desk.sources.named(found.source) is None else "",
    )


def _columns(reading: Reading) -> list[models.ReadColumn]:
    how, rivals = reading.recipe.columns, reading.rivals
    return [
        models.ReadColumn(
            name=name,
            heading=reading.headed[name],
            kind=column.kind,
            reading=how[name],
            rival=rivals.get(name),
            open_mark=reading.open_marks.get(name, ""),
        )
        for name, column in reading.records.columns.items()
    ]


def _foot(reading: Reading) -> list[models.FootView]:
    def amounts(found: FootTotal) -> list[models.FootAmount]:
        return [models.FootAmount(column=c, amount=a, above=s, agrees=ok) for c, a, s, ok in found.amounts]

    return [models.FootView(line=one.line, text=one.text, amounts=amounts(one)) for one in reading.foot]


def _layout(layout: Layout | None) -> models.LayoutView | None:
    if layout is None:
        return None
    return models.LayoutView(encoding=layout.encoding, delimiter=layout.delimiter, heading_line=layout.heading_line)


def _parts(file: UploadFile) -> Iterator[bytes]:
    size = 0
    for part in parts_of(file.file):
        size += len(part)
        if size > MOST_BYTES:
            raise IntakeError(f"{file.filename}: larger than {MOST_BYTES >> 30} GiB; bring it in by parts")
        yield part


@router.post("/waiting")
def look_at_file(
    desk: AtDesk,
    jobs: AtJobs,
    file: Annotated[UploadFile, File()],
    source: Annotated[str, Form()] = "",
    mends: Annotated[int | None, Form()] = None,
    match: Annotated[bool, Form()] = False,
) -> models.JobView:
    """Read an uploaded file as a job that can be cancelled. It waits under the job's token and nothing is imported yet; with
    `match` it waits for the source it fits by columns and name."""
    held = hold(desk, _parts(file))
    name = file.filename or "file"

    def work(job: Job) -> str:
        if match:
            return look_at_any(desk, name, held, job.read_so_far).token
        return bringing_in.look_at_held(desk, name, held, source or None, None, mends, job.read_so_far).token

    job = jobs.start(0, work, desk.workspace.close)
    job.finished.wait(SOON)
    return job_view(job)


@router.post("/sources/{id}/dropped/{name}")
def look_at_dropped_file(desk: AtDesk, id: int, name: str) -> models.WaitingView:
    """Open a file that is held or was refused in a source's drop folder as a waiting file."""
    return _waiting(desk, look_at_dropped(desk, desk.sources.one(id).name, name))


@router.post("/sources/{id}/files", status_code=201)
def push_file(
    desk: AtDesk,
    id: int,
    response: Response,
    file: Annotated[UploadFile, File()],
    idempotency_key: Annotated[str, Header()] = "",
) -> Pushed:
    """For programs: import a file by the source's recipe. 201 if imported, 202 if held for review. A repeated request with the
    same `Idempotency-Key` gets the same answer and imports nothing twice."""
    source = desk.sources.one(id)
    done = push(desk, source, file.filename or "file", hold(desk, _parts(file)), idempotency_key)
    if done.state == "held":
        response.status_code = 202
    return done


@router.get("/waiting/{token}")
def waiting_file(desk: AtDesk, token: str) -> models.WaitingView:
    """Return a waiting file: columns, findings and samples."""
    return _waiting(desk, bringing_in.waiting(desk, token))


@router.delete("/waiting/{token}", status_code=204)
def leave_file(desk: AtDesk, token: str) -> None:
    """Discard a waiting file."""
    bringing_in.leave(desk, token)


@router.put("/waiting/{token}")
def read_again(desk: AtDesk, token: str, asked: models.Reread) -> models.WaitingView:
    """Change how a waiting file is read or joined."""
    return _waiting(
        desk, bringing_in.read_again(desk, token, Change(**{k: getattr(asked, k) for k in models.Reread.model_fields}))
    )


@router.post("/waiting/{token}/keep")
def keep_waiting(desk: AtDesk, jobs: AtJobs, token: str, again: bool = False, seen: bool = False) -> models.JobView:
    """Import a waiting file completely or not at all; small files are imported before this answers. A held file needs `seen`."""
    found = bringing_in.waiting(desk, token)

    def work(job: Job) -> int:
        source, _ = keep_looked_at(desk, token, again, job.progress, seen)
        return source.id

    job = jobs.start(found.reading.records.count, work, desk.workspace.close)
    job.finished.wait(SOON)
    return job_view(job)


@router.get("/jobs/{id}")
def one_job(jobs: AtJobs, id: str) -> models.JobView:
    """Return a job's progress."""
    return job_view(jobs.one(id))


@router.post("/jobs/{id}/stop")
def stop_job(jobs: AtJobs, id: str) -> models.JobView:
    """Cancel a job; nothing of it is saved."""
    job = jobs.one(id)
    job.stop.set()
    job.finished.wait(5)
    return job_view(job)
