"""Documents as they stand, and the description of this API."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace

from flask import Response, current_app, jsonify, url_for

from supplecast import lessons
from supplecast.errors import DocumentError
from supplecast.exchange.handoff import file_name
from supplecast.store import looks
from supplecast.web import context, habits
from supplecast.web.answers import DocumentAnswer, LessonAnswer, LessonTask, LookAnswer
from supplecast.web.openapi import describe
from supplecast.web.routing import api
from supplecast.web.spoken import said, spoken
from supplecast.wire.results import BuildResult, Gauges, JudgedSkin


@api.get("/openapi.json")
def openapi() -> Response:
    """The description of this API."""
    return jsonify(describe(current_app))


@api.get("/documents/<document_id>")
def document(document_id: str) -> DocumentAnswer:
    """The head of a document and what undo and redo can reach."""
    head = context.library().head(document_id)
    return DocumentAnswer(head.number, head.undo, head.redo, head.document.to_dict())


@api.get("/documents/<document_id>/look")
def look(document_id: str) -> LookAnswer:
    """What was last shown of the head, to be seen until it has been built anew. Maps that are gone are left out."""
    head = context.library().head(document_id).document
    task = context.task(head)
    build, gauges = looks.kept(task, BuildResult), looks.kept(task, Gauges)
    if gauges:
        there = [skin for skin in gauges.skins if all((context.library().blobs / n).exists() for n in _blobs(skin))]
        gauges = replace(gauges, skins=there)
    return spoken(LookAnswer(build, gauges), habits.voice(head.unit))


@api.get("/documents/<document_id>/lesson")
def lesson(document_id: str) -> LessonAnswer | None:
    """How far the lesson is that the document is worked on in, by what was last built of it; nothing where there is none."""
    head = context.library().head(document_id).document
    followed = lessons.lessons().get(head.lesson)
    if followed is None:
        return None
    task = context.task(head)
    build, gauges = looks.kept(task, BuildResult), looks.kept(task, Gauges)
    done = lessons.done(followed, head, build, gauges)
    following = next((one for one, is_done in zip(followed.tasks, done, strict=True) if not is_done), None)
    edit = None
    with suppress(DocumentError):  # one's own way has left no place for it
        edit = lessons.meant(head, following.edit) if following else None
    voice = habits.voice(head.unit)
    return LessonAnswer(
        lessons.is_known(followed, build, gauges),
        followed.title,
        [
            LessonTask(said(one.do, voice), said(one.why, voice), is_done)
            for one, is_done in zip(followed.tasks, done, strict=True)
        ],
        lessons.lights(following, head) if following else [],
        edit,
        said(followed.ends, voice),
        url_for("lessons.contents"),
    )


def _blobs(skin: JudgedSkin) -> list[str]:
    return [skin.skin, *skin.maps.values()]


@api.get("/documents/<document_id>/file")
def document_file(document_id: str) -> Response:
    """The document's own JSON as a file."""
    head = context.library().head(document_id).document
    name = file_name(head.name, extension="supple.json")
    return Response(
        head.to_json(pretty=True),
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
