"""Routes of linked sources: folders that are read where they lie. Only folders that the server was started with can be linked."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import Field, StringConstraints

from kalendor.api.desk import AtDesk, AtJobs
from kalendor.api.job_view import SOON, job_view
from kalendor.api.linked_view import LinkedFileView, file_views
from kalendor.api.models import JobView
from kalendor.api.strict import BaseModel
from kalendor.desk.jobs import Job
from kalendor.desk.linked import looking
from kalendor.desk.linked.folders import EVERYTHING, Folder, looked_into
from kalendor.store.sources import MOST_NAME

router = APIRouter(prefix="/api", tags=["bringing in"])
Named = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=MOST_NAME)]


class NewLink(BaseModel):
    """A folder to link as a source with a name; `pattern` selects the files beneath it."""

    name: Named
    folder: Annotated[str, Field(min_length=1, max_length=4096)]
    pattern: Annotated[str, Field(min_length=1, max_length=200)] = EVERYTHING


@router.get("/folders")
def list_folders(desk: AtDesk) -> list[str]:
    """List the folders beneath which folders can be linked, as configured when the server was started."""
    return [str(root.resolve()) for root in desk.link_from]


@router.get("/folders/at")
def one_folder(desk: AtDesk, path: str) -> Folder:
    """Return the contents of a folder that can be linked."""
    return looked_into(desk, path)


@router.post("/linked")
def link_folder(desk: AtDesk, jobs: AtJobs, asked: NewLink) -> JobView:
    """Link a folder as a new source, as a job that can be cancelled. Its files are read once to find their columns;
    none is copied."""

    def work(job: Job) -> int:
        return looking.link(desk, asked.name, asked.folder, asked.pattern, job.read_so_far).id

    job = jobs.start(0, work, desk.workspace.close)
    job.finished.wait(SOON)
    return job_view(job)


@router.post("/sources/{id}/look")
def look_again(desk: AtDesk, jobs: AtJobs, id: int) -> JobView:
    """Look at the folder of a linked source again, as a job: added, changed and deleted files count from then on."""
    source = desk.sources.one(id)
    looking.link_of(desk, source)

    def work(job: Job) -> int:
        looking.look(desk, source, job.read_so_far)
        return source.id

    job = jobs.start(0, work, desk.workspace.close)
    job.finished.wait(SOON)
    return job_view(job)


@router.get("/sources/{id}/files")
def files_of(
    desk: AtDesk, id: int, start: Annotated[int, Query(ge=0, le=2**31)] = 0, count: Annotated[int, Query(ge=1, le=1000)] = 200
) -> list[LinkedFileView]:  # fmt: skip
    """List the files of a linked source at the last look."""
    source = desk.sources.one(id)
    looking.link_of(desk, source)
    return file_views(desk, source, start, count)
