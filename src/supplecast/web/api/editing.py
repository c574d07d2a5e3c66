"""Edits: kept as revisions, tried, undone and done again."""

from __future__ import annotations

from contextlib import suppress

from flask import request

from supplecast.document.beginnings import box, copied
from supplecast.document.edits import Edit, apply, read_edit
from supplecast.document.edits.whole import CatchUp, SetDocument, StandBeside
from supplecast.errors import BusyError, DocumentError, SuppleError
from supplecast.store.library import Revision
from supplecast.tooling.resins import RESINS
from supplecast.web import context, demo, sheet
from supplecast.web.answers import ArtAnswer, InPlaceAnswer, PreviewStarted, RevisionAnswer
from supplecast.web.requests import BeginningRequest, BuildRequest, EditRequest, InPlaceRequest, PreviewRequest, UpTo
from supplecast.web.routing import api
from supplecast.wire import options
from supplecast.wire.results import BuildResult
from supplecast.wire.verbs import BUILD, IN_PLACE


def revision_answer(revision: Revision, job_id: str) -> RevisionAnswer[BuildResult]:
    """A revision as the page hears of it."""
    return RevisionAnswer(revision.number, revision.change, revision.undo, revision.redo, job_id)


def built(revision: Revision, upto: str | None = None) -> RevisionAnswer[BuildResult]:
    """A revision that is being built, up to and including a step if it has that."""
    known = any(step.id == upto for step in revision.document.steps)
    task = context.task(revision.document, upto=upto if known else None)
    return revision_answer(revision, context.engine().submit(BUILD, revision.document.id, task, options.Build()).id)


@api.post("/documents/<document_id>/edits")
def edits(document_id: str, asked: EditRequest) -> RevisionAnswer[BuildResult]:
    """Apply an edit to revision `base`, keep it as a new revision and start building it."""
    head = context.library().head(document_id)
    edit = _with_grade(asked.edit)
    changed, words = apply(head.document, edit, context.parts_beside(head.document))
    kept = context.library().commit(document_id, asked.base, changed, words, instead=asked.instead)
    return built(kept, asked.upto)


@api.post("/documents/<document_id>/beginning")
def beginning(document_id: str, asked: BeginningRequest) -> RevisionAnswer[BuildResult]:
    """Begin an empty part with a `box`, or as a copy of a part of the demo, by its id; one revision, which is being built."""
    head = context.library().head(document_id)
    source = demo.parts().get(asked.like)
    if asked.like != "box" and source is None:
        raise DocumentError("There is no such beginning.", "Reload the page.")
    changed = copied(head.document, source) if source else box(head.document)
    if source:
        demo.bring_pictures(context.library())
    words = f"Begin as a copy of {source.name}" if source else "Begin with a box"
    return built(context.library().commit(document_id, asked.base, changed, words))


@api.post("/documents/<document_id>/catch-up")
def catch_up(document_id: str) -> RevisionAnswer[BuildResult]:
    """Take up what has moved on in all documents that this one builds on, and in this one.

    What others build on comes first; each is one revision of its document. Answers with that of this one, which is being built.
    """
    library = context.library()
    for name in (*sheet.below(library.head(document_id).document, lambda one: library.head(one).document), document_id):
        head = library.head(name)
        with suppress(DocumentError):  # nothing has moved on
            changed, words = apply(head.document, CatchUp(op="catch up"), context.parts_beside(head.document))
            library.commit(name, head.number, changed, words)
    return built(library.head(document_id))


@api.post("/documents/<document_id>/in-place")
def in_place(document_id: str, asked: InPlaceRequest) -> InPlaceAnswer:
    """Open the part that a body of an assembly is, with the others around it.

    Where they stand becomes a step of the part, or its step of that kind is brought up to date.
    """
    library = context.library()
    head = library.head(document_id)
    with context.waiting() as may:
        if not may:
            raise BusyError("Too many are waiting just now.", "Wait a little, then open it again.")
        job = context.engine().submit(IN_PLACE, document_id, context.task(head.document), options.InPlace(asked.body))
        job = context.engine().wait(job.id, 90)
    if job.state != "done" or job.result is None:
        raise SuppleError(job.message or "Finding the places takes too long.", job.hint or "Try again.")
    found = job.result
    bodies = [{"part": one.part.model_dump(exclude_none=True), "placed": list(one.placed)} for one in found.around]
    part = library.head(found.document)
    edit = StandBeside(op="stand beside", assembly=document_id, called=head.document.name, bodies=bodies, left=list(found.left))
    changed, words = apply(part.document, edit)
    if changed != part.document:
        library.commit(found.document, part.number, changed, words)
    return InPlaceAnswer(found.document)


def _with_grade(edit: Edit) -> Edit:
    """Give a change to a resin of one's own the figures kept for it."""
    if isinstance(edit, SetDocument) and edit.resin is not None and edit.resin not in RESINS:
        grade = next((grade for grade in context.library().grades() if grade.name == edit.resin), edit.grade)
        return edit.model_copy(update={"grade": grade})
    return edit


@api.post("/documents/<document_id>/imports")
def imports(document_id: str) -> RevisionAnswer[BuildResult]:
    """Add the bodies of an uploaded STEP, 3MF or STL file as a step at the end."""
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise SuppleError("No file was chosen.", "Choose a STEP, 3MF or STL file.")
    values = context.keep_bodies_file(upload.filename, upload.read())
    head = context.library().head(document_id)
    edit = read_edit({"op": "add", "type": values.pop("type"), "values": values})
    changed, words = apply(head.document, edit)
    return built(context.library().commit(document_id, head.number, changed, words))


@api.post("/documents/<document_id>/pictures")
def pictures(document_id: str) -> ArtAnswer:
    """Keep an uploaded PNG, JPEG or SVG, to be printed by a step."""
    context.library().head(document_id)
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise SuppleError("No file was chosen.", "Choose a PNG, JPEG or SVG picture.")
    return ArtAnswer(context.keep_picture(upload.filename, upload.read()))


@api.post("/documents/<document_id>/preview")
def preview(document_id: str, asked: PreviewRequest) -> PreviewStarted[BuildResult]:
    """Build what an edit would give, without keeping it."""
    head = context.library().head(document_id)
    changed, words = apply(head.document, asked.edit, context.parts_beside(head.document))
    task = context.task(changed, upto=asked.upto or None)
    return PreviewStarted(context.engine().submit(BUILD, document_id, task, options.Build(preview=True)).id, words)


@api.post("/documents/<document_id>/build")
def build(document_id: str, asked: BuildRequest) -> RevisionAnswer[BuildResult]:
    """Build the head, up to and including a step, or the model as it stood before one, with picks to be lit."""
    head = context.library().head(document_id)
    for step in (asked.upto, asked.before):
        if step is not None:
            head.document.position(step)
    task = context.task(head.document, upto=asked.upto, before=asked.before)
    wanted = options.Build(exact=asked.exact, picks=asked.picks)
    return revision_answer(head, context.engine().submit(BUILD, document_id, task, wanted).id)


@api.post("/documents/<document_id>/undo")
def undo(document_id: str, asked: UpTo) -> RevisionAnswer[BuildResult]:
    """Go back to the revision the head was made from."""
    return built(context.library().undo(document_id), asked.upto)


@api.post("/documents/<document_id>/redo")
def redo(document_id: str, asked: UpTo) -> RevisionAnswer[BuildResult]:
    """Go forward again along the newest line of revisions."""
    return built(context.library().redo(document_id), asked.upto)
