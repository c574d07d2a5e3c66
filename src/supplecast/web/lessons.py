"""The lessons: what there is, how far one is in each, and a project begun for one."""

from __future__ import annotations

from dataclasses import dataclass
from importlib import resources

from flask import Blueprint, abort, redirect, render_template, url_for
from werkzeug.wrappers import Response

from supplecast import lessons as school
from supplecast.document.fields import LinkPick
from supplecast.document.model import Document
from supplecast.store import looks
from supplecast.store.library import DocumentCard
from supplecast.web import context, habits
from supplecast.web.spoken import said
from supplecast.wire.results import BuildResult, Gauges

lessons = Blueprint("lessons", __name__, url_prefix="/lessons")
_LATEST = 60
"""Documents that are looked through for lessons begun, the newest ones."""


@dataclass(frozen=True)
class _Begun:
    """The document in which a lesson was last worked on, and how many tasks are done."""

    document: str
    done: int


@lessons.get("")
def contents() -> str:
    """All lessons, with how far those are that were begun."""
    return render_template(
        "lessons.html", lessons=school.lessons(), begun=_begun(), spoken=lambda words: said(words, habits.voice())
    )


@lessons.get("/<name>.png")
def picture(name: str) -> Response:
    """What a lesson ends with."""
    if name not in school.lessons():
        abort(404)
    content = (resources.files("supplecast.lessons") / f"{name}.png").read_bytes()
    return Response(content, mimetype="image/png", headers={"Cache-Control": "private, max-age=3600"})


@lessons.post("/<name>")
def begin(name: str) -> Response:
    """A project of its own for a lesson, and its document."""
    lesson = school.lessons().get(name)
    if lesson is None:
        abort(404)
    card, _ = made(name, f"Lesson: {lesson.title}")
    return redirect(url_for("pages.document", document_id=card.id))


def made(name: str, project_name: str, *, whole: bool = False) -> tuple[DocumentCard, Document]:
    """A project for a lesson: with the document that it begins with, or the whole of what it ends with."""
    library, known = context.library(), school.lessons()
    lesson, parts = known[name], list[LinkPick]()
    project = library.create_project(project_name)
    if lesson.of:
        source = library.add_document(project.id, school.ended(known[lesson.of]), "Lesson")
        parts = [LinkPick(document=source.id, revision=source.head)]
    document = school.ended(lesson, parts) if whole else school.begun(lesson, name, parts)
    return library.add_document(project.id, document, "Lesson"), document


def _begun() -> dict[str, _Begun]:
    library = context.library()
    cards = sorted((card for project in library.projects() for card in project.documents), key=lambda card: card.changed)
    found: dict[str, _Begun] = {}
    for card in cards[-_LATEST:]:
        document = library.head(card.id).document
        lesson = school.lessons().get(document.lesson)
        if lesson is not None:
            task = context.task(document)
            done = school.done(lesson, document, looks.kept(task, BuildResult), looks.kept(task, Gauges))
            found[document.lesson] = _Begun(card.id, sum(done))
    return found
