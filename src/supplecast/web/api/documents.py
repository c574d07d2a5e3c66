"""Documents as they stand, and the description of this API."""

from __future__ import annotations

from flask import Response, current_app, jsonify

from supplecast.exchange.handoff import file_name
from supplecast.web import context
from supplecast.web.answers import DocumentAnswer
from supplecast.web.openapi import describe
from supplecast.web.routing import api


@api.get("/openapi.json")
def openapi() -> Response:
    """The description of this API."""
    return jsonify(describe(current_app))


@api.get("/documents/<document_id>")
def document(document_id: str) -> DocumentAnswer:
    """The head of a document and what undo and redo can reach."""
    head = context.library().head(document_id)
    return DocumentAnswer(head.number, head.undo, head.redo, head.document.to_dict())


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
