"""Routes of the queries that feed sources. Database addresses come from the environment and are never returned."""

from fastapi import APIRouter

from kalendor.api.desk import AtDesk, AtJobs
from kalendor.api.job_view import SOON, job_view
from kalendor.api.models import JobView
from kalendor.api.strict import BaseModel
from kalendor.definitions.fetching import Fetching
from kalendor.desk import fetching as asking
from kalendor.desk.fetching import Connection
from kalendor.desk.jobs import Job

router = APIRouter(prefix="/api", tags=["bringing in"])


class FirstFetch(BaseModel):
    """A query, and the source for its result: an existing one, or a new one."""

    source: str
    fetching: Fetching


@router.get("/connections")
def connections() -> list[Connection]:
    """List the databases that can be queried."""
    return asking.connections()


@router.post("/fetches")
def look_at_result(desk: AtDesk, jobs: AtJobs, asked: FirstFetch) -> JobView:
    """Run a query as a job that can be cancelled. The result waits under the job's token; keeping it makes the query feed that
    source."""
    asking.check(asked.fetching)

    def work(job: Job) -> str:
        return asking.look_at_result(desk, asked.fetching, asked.source, job.read_so_far).token

    job = jobs.start(0, work, desk.workspace.close)
    job.finished.wait(SOON)
    return job_view(job)


@router.put("/sources/{id}/fetching", status_code=204)
def set_fetching(desk: AtDesk, id: int, asked: Fetching) -> None:
    """Set the query that feeds a source."""
    asking.set_fetching(desk, desk.sources.one(id), asked)


@router.delete("/sources/{id}/fetching", status_code=204)
def stop_fetching(desk: AtDesk, id: int) -> None:
    """Remove a source's query; its records stay."""
    asking.set_fetching(desk, desk.sources.one(id), None)


@router.post("/sources/{id}/fetch")
def fetch_now(desk: AtDesk, jobs: AtJobs, id: int) -> JobView:
    """Run a source's query now and import its result, as a job that can be cancelled."""
    source = desk.sources.one(id)

    def work(job: Job) -> int:
        return asking.fetch(desk, source, job.read_so_far).source_id

    job = jobs.start(0, work, desk.workspace.close)
    job.finished.wait(SOON)
    return job_view(job)
