"""Jobs: how they fare, and stopping them."""

from __future__ import annotations

from supplecast.web import context, habits
from supplecast.web.answers import JobAnswer
from supplecast.web.requests import JobQuery
from supplecast.web.routing import api
from supplecast.web.spoken import spoken


@api.get("/jobs/<job_id>")
def job(job_id: str, query: JobQuery) -> JobAnswer:
    """A job; waits up to `wait` seconds for its end, unless many wait already."""
    with context.waiting() as may:
        waited = context.engine().wait(job_id, query.wait if may else 0)
    return spoken(JobAnswer.of(waited), habits.voice(context.unit_of(waited.document)))


@api.delete("/jobs/<job_id>")
def cancel(job_id: str) -> JobAnswer:
    """Stop a job."""
    return JobAnswer.of(context.engine().cancel(job_id))
