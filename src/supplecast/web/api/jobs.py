"""Jobs: how they fare, and stopping them."""

from __future__ import annotations

from supplecast.web import context
from supplecast.web.answers import JobAnswer
from supplecast.web.requests import JobQuery
from supplecast.web.routing import api


@api.get("/jobs/<job_id>")
def job(job_id: str, query: JobQuery) -> JobAnswer:
    """A job; waits up to `wait` seconds for its end."""
    return JobAnswer.of(context.engine().wait(job_id, query.wait))


@api.delete("/jobs/<job_id>")
def cancel(job_id: str) -> JobAnswer:
    """Stop a job."""
    return JobAnswer.of(context.engine().cancel(job_id))
