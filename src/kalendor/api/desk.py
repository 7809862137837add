"""FastAPI dependencies: the desk and the jobs of the server."""

from typing import Annotated

from fastapi import Depends, Request

from kalendor.desk.desk import Desk
from kalendor.desk.jobs import Jobs


async def _desk(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


async def _jobs(request: Request) -> Jobs:
    jobs: Jobs = request.app.state.jobs
    return jobs


AtDesk = Annotated[Desk, Depends(_desk)]
AtJobs = Annotated[Jobs, Depends(_jobs)]
