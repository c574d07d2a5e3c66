"""The demo project, shipped as document files."""

from __future__ import annotations

import io
import zipfile
from functools import cache
from importlib import resources

from supplecast.atomic import write_atomically
from supplecast.document.model import Document, parse_document
from supplecast.store.library import Library, ProjectCard

NAME = "Dusk recorder"
FILES = (
    "back-shell.supple.json",
    "back-shell-tool.supple.json",
    "front-shell.supple.json",
    "front-shell-tool.supple.json",
    "tuning-knob.supple.json",
    "knob-casting-mold.supple.json",
    "horn.supple.json",
    "back-shell-first-try.supple.json",
)
PICTURES = ("bat.svg",)
"""What is printed on the demo's parts."""
LOOKS = "looks.zip"
"""Pictures, meshes and what was last shown of the demo's documents, as files of a library (`make looks`)."""


def documents() -> list[Document]:
    folder = resources.files("supplecast.demo")
    return [parse_document((folder / name).read_bytes()) for name in FILES]


@cache
def parts() -> dict[str, Document]:
    """The demo's parts by id, that a new part can begin as a copy of."""
    return {document.id: document for document in documents() if document.kind == "part"}


def add(library: Library) -> ProjectCard:
    """Put the demo project into a library; its documents get new ids where theirs are taken, and links follow."""
    project = library.create_project(NAME)
    bring_pictures(library)
    ids: dict[str, str] = {}
    for document in documents():
        steps = []
        for step in document.steps:
            pick = getattr(step, "part", None)
            if pick is not None and getattr(pick, "document", None) in ids:
                step = step.model_copy(update={"part": pick.model_copy(update={"document": ids[pick.document], "revision": 1})})
            steps.append(step)
        card = library.add_document(project.id, document.model_copy(update={"steps": steps}), "Demo")
        ids[document.id] = card.id
    return library.project(project.id)


def bring_pictures(library: Library) -> None:
    """Let a library have what is printed on the demo's parts."""
    for name in PICTURES:
        library.add_asset(name, (resources.files("supplecast.demo") / name).read_bytes())


def seed(library: Library) -> None:
    """Add the demo project to a library that has none yet."""
    if not library.projects():
        add(library)
        with zipfile.ZipFile(io.BytesIO((resources.files("supplecast.demo") / LOOKS).read_bytes())) as looks:
            for name in looks.namelist():
                write_atomically(library.blobs / name, looks.read(name))
