"""Files to take away: bodies written, pictures, and the blobs that jobs made."""

from __future__ import annotations

import re

from flask import Response, send_from_directory

from supplecast.errors import StoreError
from supplecast.exchange.formats import formats
from supplecast.exchange.handoff import file_name
from supplecast.store import looks
from supplecast.web import context
from supplecast.web.answers import PictureAnswer, Started
from supplecast.web.requests import BlobQuery, ExportRequest, PictureRequest, ShotRequest
from supplecast.web.routing import api
from supplecast.wire import options
from supplecast.wire.results import Picture, WrittenFile
from supplecast.wire.verbs import EXPORT, PICTURE, SHOOT

_BARE = "application/octet-stream"
_MEDIA = {
    "f32": _BARE,
    "print": _BARE,
    "png": "image/png",
    "webp": "image/webp",
    "gif": "image/gif",
    "svg": "image/svg+xml",
    "dxf": "image/vnd.dxf",
}
_BLOB = re.compile(r"^[0-9a-f]{24,64}\.(\w+)$")


def _media(kind: str) -> str:
    """The media type of a kind of blob; blank for what is not handed out."""
    written = formats().get(kind)
    return written.media if written else _MEDIA.get(kind, "")


@api.post("/documents/<document_id>/exports")
def exports(document_id: str, asked: ExportRequest) -> Started[WrittenFile]:
    """Start writing bodies to a file; the job's result names the blob to fetch."""
    task = context.task(context.library().head(document_id).document)
    wanted = options.Export(asked.format, asked.bodies, asked.tolerance)
    return Started(context.engine().submit(EXPORT, document_id, task, wanted).id)


@api.post("/documents/<document_id>/picture")
def picture(document_id: str, asked: PictureRequest) -> PictureAnswer[Picture]:
    """A small picture of the head or of a `revision`: the blob if it is drawn already, else the job that draws it."""
    library = context.library()
    number = asked.revision
    task = context.task(library.head(document_id).document if number is None else library.revision(document_id, number))
    name = looks.picture_name(task)
    if (library.blobs / name).is_file():
        return PictureAnswer(None, name)
    return PictureAnswer(context.engine().submit(PICTURE, document_id, task, options.Draw(name)).id, None)


@api.post("/documents/<document_id>/shots")
def shots(document_id: str, asked: ShotRequest) -> Started[WrittenFile]:
    """Start drawing a picture, or a film that turns once round; the job's result names the blob to fetch."""
    task = context.task(context.library().head(document_id).document)
    return Started(context.engine().submit(SHOOT, document_id, task, options.Shoot(**asked.model_dump())).id)


@api.get("/blobs/<name>")
def blob(name: str, query: BlobQuery) -> Response:
    """A mesh, picture or written file, by a name that never changes its content."""
    if not (matched := _BLOB.match(name)) or not _media(matched[1]) or not (context.library().blobs / name).is_file():
        raise StoreError("That file is no longer there.", "Make it again.")
    kind = name.rsplit(".", 1)[1]
    offered = query.offered
    response = send_from_directory(
        context.library().blobs.resolve(),
        name,
        mimetype=_media(kind),
        as_attachment=offered is not None,
        download_name=file_name(offered.rsplit(".", 1)[0], extension=kind) if offered else None,
        max_age=31_536_000,
    )
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
