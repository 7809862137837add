"""Builds the response model of a job."""

from kalendor.api import models
from kalendor.desk.jobs import Job

SOON = 0.4
"""Seconds that an answer waits for a job that may be done soon."""


def job_view(job: Job) -> models.JobView:
    """The response model of a job."""
    return models.JobView(
        id=job.id,
        state=job.state,
        done=job.done,
        total=job.total,
        message=job.message,
        source=job.result if isinstance(job.result, int) else None,
        token=job.result if isinstance(job.result, str) else None,
    )
