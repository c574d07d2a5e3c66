"""The JSON API that the pages use: edits, previews, jobs, meshes, files."""

from __future__ import annotations

import re
from dataclasses import asdict, replace
from typing import Any

from flask import Blueprint, Response, current_app, jsonify, request, send_from_directory
from pydantic import ValidationError

from supplecast.document.edits import Edit, apply, read_edit
from supplecast.document.edits.whole import SetDocument
from supplecast.document.model import Document, unreadable
from supplecast.errors import DocumentError, StoreError, SuppleError
from supplecast.exchange.handoff import FORMATS, MEDIA, file_name
from supplecast.quantities import LENGTH_UNITS
from supplecast.store.library import Revision
from supplecast.tooling.grades import Grade
from supplecast.tooling.resins import RESINS
from supplecast.web import context
from supplecast.web.openapi import describe

api = Blueprint("api", __name__, url_prefix="/api")

_MEDIA = {"f32": "application/octet-stream", "png": "image/png", "svg": "image/svg+xml", "dxf": "image/vnd.dxf"}
_BLOB = re.compile(r"^[0-9a-f]{24,64}\.(glb|step|stl|3mf|png|f32|dxf|svg)$")


def body() -> dict[str, Any]:
    data = request.get_json(silent=True)
    if not isinstance(data, dict):
        raise DocumentError("The request holds no JSON object.", "Reload the page.")
    return data


def whole(data: dict[str, Any], name: str) -> int | None:
    value = data.get(name)
    if value is not None and (isinstance(value, bool) or not isinstance(value, int) or abs(value) > 2**53):
        raise DocumentError(f"The request's “{name}” is not a whole number.", "Reload the page.")
    return value


def needed(data: dict[str, Any], name: str) -> int:
    value = whole(data, name)
    if value is None:
        raise DocumentError(f"The request does not say which {name} is meant.", "Reload the page.")
    return value


def _revision(revision: Revision, job_id: str | None = None) -> Response:
    return jsonify(
        {
            "revision": revision.number,
            "change": revision.change,
            "undo": revision.undo,
            "redo": revision.redo,
            "job": job_id,
        }
    )


def _build(revision: Revision, upto: str | None = None) -> str:
    known = any(step.id == upto for step in revision.document.steps)
    task = context.task(revision.document, upto=upto if known else None)
    return context.engine().submit("build", revision.document.id, task).id


@api.get("/openapi.json")
def openapi() -> Response:
    """The description of this API."""
    return jsonify(describe(current_app))


@api.get("/documents/<document_id>")
def document(document_id: str) -> Response:
    """The head of a document and what undo and redo can reach."""
    head = context.library().head(document_id)
    return jsonify({"revision": head.number, "undo": head.undo, "redo": head.redo, "document": head.document.to_dict()})


@api.get("/documents/<document_id>/file")
def document_file(document_id: str) -> Response:
    """The document's own JSON as a file."""
    found = context.library().head(document_id).document
    name = file_name(found.name, extension="supple.json")
    return Response(
        found.to_json(pretty=True),
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@api.post("/documents/<document_id>/edits")
def edits(document_id: str) -> Response:
    """Apply an edit to revision `base`, keep it as a new revision and start building it."""
    data = body()
    head = context.library().head(document_id)
    edit = _with_grade(read_edit(data.get("edit")))
    changed, words = apply(head.document, edit, context.parts_beside(head.document))
    revision = context.library().commit(document_id, needed(data, "base"), changed, words)
    return _revision(revision, _build(revision, data.get("upto")))


def _with_grade(edit: Edit) -> Edit:
    """Give a change to a resin of one's own the figures kept for it."""
    if isinstance(edit, SetDocument) and edit.resin is not None and edit.resin not in RESINS:
        grade = next((grade for grade in context.library().grades() if grade.name == edit.resin), edit.grade)
        return edit.model_copy(update={"grade": grade})
    return edit


@api.post("/documents/<document_id>/imports")
def imports(document_id: str) -> Response:
    """Add the bodies of an uploaded STEP, 3MF or STL file as a step at the end."""
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise SuppleError("No file was chosen.", "Choose a STEP, 3MF or STL file.")
    values = context.keep_bodies_file(upload.filename, upload.read())
    head = context.library().head(document_id)
    edit = read_edit({"op": "add", "type": values.pop("type"), "values": values})
    changed, words = apply(head.document, edit)
    revision = context.library().commit(document_id, head.number, changed, words)
    return _revision(revision, _build(revision))


@api.post("/documents/<document_id>/preview")
def preview(document_id: str) -> Response:
    """Build what an edit would give, without keeping it."""
    data = body()
    head = context.library().head(document_id)
    changed, words = apply(head.document, read_edit(data.get("edit")), context.parts_beside(head.document))
    task = context.task(changed, upto=data.get("upto") or None, options={"preview": True})
    return jsonify({"job": context.engine().submit("build", document_id, task).id, "change": words})


@api.post("/documents/<document_id>/build")
def build(document_id: str) -> Response:
    """Build the head, up to and including a step, or the model as it stood before one, with `picks` to be lit.

    `exact` weighs steel to the last digit too.
    """
    data = body()
    head = context.library().head(document_id)
    for name in ("upto", "before"):
        if data.get(name) is not None:
            head.document.position(str(data[name]))
    options = {"picks": data.get("picks", []), "exact": bool(data.get("exact"))}
    task = context.task(head.document, upto=data.get("upto"), before=data.get("before"), options=options)
    return _revision(head, context.engine().submit("build", document_id, task).id)


@api.post("/documents/<document_id>/references")
def references(document_id: str) -> Response:
    """Lasting references for faces and edges picked by number."""
    data = body()
    head = context.library().head(document_id)
    options = {"picked": _picked(data)[:200], "spots": bool(data.get("spots"))}
    task = context.task(head.document, upto=data.get("upto"), before=data.get("before"), options=options)
    return jsonify({"job": context.engine().submit("refer", document_id, task).id})


def _picked(data: dict[str, Any]) -> list[dict[str, Any]]:
    """Things picked by number in the view."""
    picked = data.get("picked")
    if not isinstance(picked, list) or not all(isinstance(p, dict) and isinstance(p.get("body"), str) for p in picked):
        raise DocumentError("Nothing was picked.", "Click a face or an edge.")
    return picked


@api.post("/documents/<document_id>/measures")
def measures(document_id: str) -> Response:
    """Start measuring one or two things picked by number."""
    data = body()
    picked = _picked(data)
    if not 1 <= len(picked) <= 2:
        raise DocumentError("One or two things can be measured.", "Click a face, an edge or a corner.")
    task = context.task(context.library().head(document_id).document, upto=data.get("upto"), options={"picked": picked})
    return jsonify({"job": context.engine().submit("gauge", document_id, task).id})


@api.post("/documents/<document_id>/gauges")
def gauges(document_id: str) -> Response:
    """Start judging the head, up to and including a step: its gauges and the maps behind them."""
    head = context.library().head(document_id)
    upto = body().get("upto")
    known = any(step.id == upto for step in head.document.steps)
    task = context.task(head.document, upto=str(upto) if known else None)
    return jsonify({"job": context.engine().submit("judge", document_id, task).id, "revision": head.number})


@api.post("/documents/<document_id>/pulls")
def pulls(document_id: str) -> Response:
    """Start finding out which pull would hide least of the part."""
    task = context.task(context.library().head(document_id).document)
    return jsonify({"job": context.engine().submit("suggest_pull", document_id, task).id})


@api.post("/documents/<document_id>/compare")
def compare(document_id: str) -> Response:
    """Start comparing a document, or a `first` revision of it, with another one, or with a `second` revision."""
    data = body()
    other_id = str(data.get("other") or document_id)
    first, second = (_at(name, whole(data, which)) for name, which in ((document_id, "first"), (other_id, "second")))
    task = context.task(first, options={"other": context.task(second)})
    return jsonify({"job": context.engine().submit("compare_two", document_id, task, deadline=180).id})


def _at(document_id: str, number: int | None) -> Document:
    """A document as it is, or as it was at a revision."""
    library = context.library()
    return library.head(document_id).document if number is None else library.revision(document_id, number)


@api.post("/documents/<document_id>/report")
def report(document_id: str) -> Response:
    """Start the report of the head: its gauges, and pictures from four sides."""
    head = context.library().head(document_id)
    task = context.task(head.document, options={"revision": head.number})
    return jsonify({"job": context.engine().submit("sheet_report", document_id, task, deadline=180).id})


@api.post("/documents/<document_id>/sections")
def sections(document_id: str) -> Response:
    """Start cutting the bodies by a plane: their outlines there, the wall at a `spot`, or a file of a `format`."""
    data = body()
    plane = data.get("plane")
    if not isinstance(plane, dict) or not _is_place(plane.get("origin")) or not _is_place(plane.get("normal")):
        raise DocumentError("The request does not say which plane is meant.", "Reload the page.")
    if not any(abs(c) > 1e-9 for c in plane["normal"]):
        raise DocumentError("The plane looks no way.", "Choose the plane again.")
    spot, format = data.get("spot"), data.get("format")
    if (spot is not None and not _is_place(spot)) or format not in (None, "dxf", "svg"):
        raise DocumentError("The request cannot be read.", "Reload the page.")
    named = data.get("hidden")
    hidden = [name for name in named if isinstance(name, str)] if isinstance(named, list) else []
    options = {"plane": plane, "spot": spot, "format": format, "hidden": hidden}
    head = context.library().head(document_id)
    upto = data.get("upto")
    known = any(step.id == upto for step in head.document.steps)
    task = context.task(head.document, upto=str(upto) if known else None, options=options)
    return jsonify({"job": context.engine().submit("section_file" if format else "section", document_id, task).id})


def _is_place(value: Any) -> bool:
    """Whether a value is three numbers that can be a place or a direction."""
    fits = isinstance(value, list) and len(value) == 3
    return fits and all(isinstance(c, (int, float)) and not isinstance(c, bool) and abs(c) < 1e6 for c in value)


@api.post("/documents/<document_id>/units")
def units(document_id: str) -> Response:
    """Start finding out what another unit would make of the document: the same size, or the same numbers."""
    unit = body().get("unit")
    if unit not in LENGTH_UNITS:
        raise DocumentError(f"There is no unit “{unit}”.", f"Known: {', '.join(LENGTH_UNITS)}.")
    task = context.task(context.library().head(document_id).document, options={"unit": unit})
    return jsonify({"job": context.engine().submit("units", document_id, task).id})


@api.post("/documents/<document_id>/undo")
def undo(document_id: str) -> Response:
    """Go back to the revision the head was made from."""
    revision = context.library().undo(document_id)
    return _revision(revision, _build(revision, body().get("upto")))


@api.post("/documents/<document_id>/redo")
def redo(document_id: str) -> Response:
    """Go forward again along the newest line of revisions."""
    revision = context.library().redo(document_id)
    return _revision(revision, _build(revision, body().get("upto")))


@api.post("/documents/<document_id>/advice")
def advice(document_id: str) -> Response:
    """Start finding the largest value that fits where a step failed for a size."""
    data = body()
    document = context.library().head(document_id).document
    if data.get("edit") is not None:
        document, _ = apply(document, read_edit(data["edit"]))
    task = context.task(document, options={"step": document.step(str(data.get("step"))).id})
    return jsonify({"job": context.engine().submit("advise", document_id, task).id})


@api.post("/documents/<document_id>/places")
def places(document_id: str) -> Response:
    """Start finding where in the sheet a step may stand."""
    head = context.library().head(document_id)
    step = head.document.step(str(body().get("step")))
    return jsonify(
        {"job": context.engine().submit("find_places", document_id, context.task(head.document, options={"step": step.id})).id}
    )


@api.post("/documents/<document_id>/exports")
def exports(document_id: str) -> Response:
    """Start writing bodies to a file; the job's result names the blob to fetch."""
    data = body()
    if data.get("format") not in FORMATS:
        raise DocumentError("There is no such format.", "Known: " + ", ".join(FORMATS) + ".")
    try:
        tolerance = float(data.get("tolerance") or 0.02)
    except (TypeError, ValueError) as fault:
        raise SuppleError("The tolerance is not a number.", "Type one such as 0.02.") from fault
    head = context.library().head(document_id)
    options = {"format": data["format"], "bodies": data.get("bodies"), "tolerance": tolerance}
    job = context.engine().submit("export", document_id, context.task(head.document, options=options), deadline=180)
    return jsonify({"job": job.id})


@api.post("/documents/<document_id>/picture")
def picture(document_id: str) -> Response:
    """A small picture of the head or of a `revision`: the blob if it is drawn already, else the job that draws it."""
    number = whole(body(), "revision")
    library = context.library()
    document = library.head(document_id).document if number is None else library.revision(document_id, number)
    task = context.task(document)
    name = context.picture_name(task)
    if (library.blobs / name).is_file():
        return jsonify({"job": None, "blob": name})
    task = replace(task, options={"name": name})
    return jsonify({"job": context.engine().submit("picture", document_id, task).id, "blob": None})


@api.get("/documents/<document_id>/history")
def history(document_id: str) -> Response:
    """The newest revisions, or the newest `before` one."""
    pasts = context.library().history(document_id, 200, request.args.get("before", type=int))
    return jsonify({"revisions": [{**asdict(past), "made": past.made.isoformat()} for past in pasts]})


@api.post("/documents/<document_id>/milestones")
def milestones(document_id: str) -> Response:
    """Name a revision; a blank name takes the name away."""
    data = body()
    context.library().set_milestone(document_id, needed(data, "revision"), str(data.get("name") or ""))
    return jsonify({"revision": data["revision"]})


@api.post("/documents/<document_id>/restore")
def restore(document_id: str) -> Response:
    """Make an old revision the newest one again, as a new revision."""
    revision = context.library().restore(document_id, needed(body(), "revision"))
    return _revision(revision, _build(revision))


@api.post("/resins")
def keep_resin() -> Response:
    """Keep a grade of one's own, new or in the place of the one `was`."""
    data = body()
    try:
        grade = Grade.model_validate({name: value for name, value in data.items() if name != "was"})
    except ValidationError as fault:
        raise unreadable(fault, "") from fault
    library = context.library()
    was, names = str(data.get("was") or ""), {kept.name for kept in library.grades()}
    if grade.name != was and grade.name in names:
        raise DocumentError(f"There is a grade “{grade.name}” already.", "Give this one another name.")
    library.keep_grade(grade)
    if was in names - {grade.name}:
        library.drop_grade(was)
    return jsonify({"name": grade.name})


@api.delete("/resins/<name>")
def drop_resin(name: str) -> Response:
    """Forget a grade of one's own; documents that use it keep its figures."""
    context.library().drop_grade(name)
    return jsonify({"name": name})


@api.get("/jobs/<job_id>")
def job(job_id: str) -> Response:
    """A job; waits up to `wait` seconds for its end."""
    wait = min(max(request.args.get("wait", 0.0, type=float), 0.0), 10.0)
    return jsonify(context.engine().wait(job_id, wait).told())


@api.delete("/jobs/<job_id>")
def cancel(job_id: str) -> Response:
    """Stop a job."""
    return jsonify(context.engine().cancel(job_id).told())


@api.get("/blobs/<name>")
def blob(name: str) -> Response:
    """A mesh, picture or written file, by a name that never changes its content."""
    if not _BLOB.match(name) or not (context.library().blobs / name).is_file():
        raise StoreError("That file is no longer there.", "Make it again.")
    kind = name.rsplit(".", 1)[1]
    offered = request.args.get("as")
    response = send_from_directory(
        context.library().blobs.resolve(),
        name,
        mimetype=MEDIA.get(kind) or _MEDIA[kind],
        as_attachment=offered is not None,
        download_name=file_name(offered.rsplit(".", 1)[0], extension=kind) if offered else None,
        max_age=31_536_000,
    )
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
