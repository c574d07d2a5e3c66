"""Looks: what was last shown of a document as it is, kept by its content, so that it is seen at once when it is opened.

A look is the answer of a build, or of the gauges, as a worker gave it. It is shown until the document has been built anew, and
says nothing that the build does not; all of it can be thrown away.
"""

from __future__ import annotations

import contextlib
import json
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

from pydantic import TypeAdapter, ValidationError

from supplecast.atomic import write_atomically
from supplecast.document.keys import digest
from supplecast.store import shelf
from supplecast.wire.results import BuildResult, Gauges
from supplecast.wire.task import Task

_MOST = 400
R = TypeVar("R", BuildResult, Gauges)
_WHAT: dict[type[Any], str] = {BuildResult: "build 3", Gauges: "gauges 2"}


def picture_name(task: Task) -> str:
    """Name of the picture of a document as it is, known without building it; its name and id do not count."""
    data = json.loads(task.document)
    whole = {name: value for name, value in data.items() if name not in ("name", "id")}
    return f"{digest('picture 4', json.dumps(whole, sort_keys=True), *_linked(task))}.png"


def look_name(task: Task, kind: type[Any]) -> str:
    """Name of the file that a look lies in."""
    whole = json.dumps(json.loads(task.document), sort_keys=True)
    return f"{digest('look', _WHAT[kind], whole, *_linked(task))}.look"


def _linked(task: Task) -> list[str]:
    return [f"{key} {text}" for key, text in sorted(task.linked.items(), key=str)]


def keep(task: Task, answer: BuildResult | Gauges) -> None:
    """Keep what a worker answered about the whole of a document, and as many of the newest as are of use."""
    if task.upto is not None or task.before is not None:
        return
    folder = Path(task.blobs)
    with contextlib.suppress(OSError):  # no build fails because its look cannot be kept
        write_atomically(folder / look_name(task, type(answer)), shelf.sealed(_adapters()[type(answer)].dump_json(answer)))
        for path in sorted(folder.glob("*.look"), key=lambda path: path.stat().st_mtime_ns)[:-_MOST]:
            path.unlink(missing_ok=True)


def kept(task: Task, kind: type[R]) -> R | None:
    """What was last answered about the document as it is; None where nothing sound is kept, or a mesh of it is gone."""
    content = shelf.opened(Path(task.blobs) / look_name(task, kind))
    if content is None:
        return None
    try:
        answer: R = _adapters()[kind].validate_json(content)
    except ValidationError:
        return None
    return answer if all((Path(task.blobs) / blob).exists() for blob in drawn_by(answer)) else None


def drawn_by(answer: BuildResult | Gauges) -> list[str]:
    """The blobs that show what a build answered: meshes, and what is printed on them."""
    if not isinstance(answer, BuildResult):
        return []
    meshes = [body.mesh for body in answer.bodies if body.mesh]
    return [*meshes, *(blob for body in answer.bodies for one in body.prints for blob in (one.skin, one.picture))]


@cache
def _adapters() -> dict[type[Any], TypeAdapter[Any]]:
    return {kind: TypeAdapter(kind) for kind in _WHAT}
