"""The revisions of a document."""

from __future__ import annotations

from supplecast.web import context
from supplecast.web.answers import HistoryAnswer, NumberedRevision, PastRevision, RevisionAnswer
from supplecast.web.api.editing import built
from supplecast.web.requests import HistoryQuery, MilestoneRequest, RevisionRequest
from supplecast.web.routing import api
from supplecast.wire.results import BuildResult


@api.get("/documents/<document_id>/history")
def history(document_id: str, query: HistoryQuery) -> HistoryAnswer:
    """The newest revisions, or the newest `before` one."""
    pasts = context.library().history(document_id, 200, query.before)
    return HistoryAnswer(
        [PastRevision(p.number, p.change, p.made.isoformat(), p.milestone, p.is_head, p.parent) for p in pasts]
    )


@api.post("/documents/<document_id>/milestones")
def milestones(document_id: str, asked: MilestoneRequest) -> NumberedRevision:
    """Name a revision; a blank name takes the name away."""
    context.library().set_milestone(document_id, asked.revision, asked.name)
    return NumberedRevision(asked.revision)


@api.post("/documents/<document_id>/restore")
def restore(document_id: str, asked: RevisionRequest) -> RevisionAnswer[BuildResult]:
    """Make an old revision the newest one again, as a new revision."""
    return built(context.library().restore(document_id, asked.revision))
