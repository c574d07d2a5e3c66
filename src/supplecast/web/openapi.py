"""The OpenAPI description of the JSON API, made from the routes themselves and the schemas here."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from flask import Flask

from supplecast import __version__
from supplecast.document.edits import adapter
from supplecast.document.model import schema as document_schema
from supplecast.exchange.handoff import FORMATS
from supplecast.quantities import LENGTH_UNITS

Schema = dict[str, Any]


def _object(required: list[str] | None = None, **properties: Schema) -> Schema:
    return {"type": "object", "properties": properties, "required": required or list(properties)}


def _ref(name: str) -> Schema:
    return {"$ref": f"#/components/schemas/{name}"}


TEXT: Schema = {"type": "string"}
MAYBE_TEXT: Schema = {"type": ["string", "null"]}
NUMBER: Schema = {"type": "integer"}
JOB_ID: Schema = _object(job=TEXT)
POINT: Schema = {"type": ["array", "null"], "items": {"type": "number"}, "maxItems": 3}
PICKED: Schema = {
    "type": "array",
    "maxItems": 200,
    "items": _object(["body"], body=TEXT, mesh=TEXT, face=NUMBER, edge=NUMBER, point=POINT),
}
PLACE: Schema = {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}
PLACE3: Schema = {"type": "array", "items": {"type": "number"}, "minItems": 3, "maxItems": 3}
OBJECTS: Schema = {"type": "array", "items": {"type": "object"}}
PICKS: Schema = {"type": "array", "items": {"type": "object"}}

SCHEMAS: dict[str, Schema] = {
    "Problem": _object(
        ["type", "status", "title", "detail"],
        type=TEXT,
        status=NUMBER,
        title=TEXT,
        detail=TEXT,
        lit={"type": "array", "items": TEXT},
        drive={"type": "boolean"},
    ),
    "Revision": _object(revision=NUMBER, change=TEXT, undo=NUMBER, redo={"type": "boolean"}, job=MAYBE_TEXT),
    "Job": _object(
        id=TEXT,
        kind=TEXT,
        state={"enum": ["waiting", "running", "done", "failed", "cancelled", "too long", "died"]},
        message=TEXT,
        hint=TEXT,
        seconds={"type": "number"},
        at={"type": ["object", "null"]},
        result={"type": ["object", "null"]},
    ),
    "Past": _object(
        number=NUMBER,
        change=TEXT,
        made=TEXT,
        milestone=TEXT,
        is_head={"type": "boolean"},
        parent={"type": ["integer", "null"]},
    ),
}

BODIES: dict[str, Schema] = {
    "edits": _object(["base", "edit"], base=NUMBER, edit=_ref("Edit"), upto=MAYBE_TEXT),
    "preview": _object(["edit"], edit=_ref("Edit"), upto=MAYBE_TEXT),
    "build": _object([], upto=MAYBE_TEXT, before=MAYBE_TEXT, picks=PICKS, exact={"type": "boolean"}),
    "references": _object(["picked"], picked=PICKED, upto=MAYBE_TEXT, before=MAYBE_TEXT, spots={"type": "boolean"}),
    "measures": _object(["picked"], picked=PICKED, upto=MAYBE_TEXT),
    "gauges": _object([], upto=MAYBE_TEXT),
    "pulls": _object([]),
    "report": _object([]),
    "compare": _object([], other=MAYBE_TEXT, first={"type": ["integer", "null"]}, second={"type": ["integer", "null"]}),
    "sections": _object(
        ["plane"],
        plane=_object(origin=PLACE3, normal=PLACE3),
        spot={"anyOf": [PLACE3, {"type": "null"}]},
        format={"enum": ["dxf", "svg", None]},
        hidden={"type": "array", "items": TEXT},
        upto=MAYBE_TEXT,
    ),
    "keep_resin": _ref("Grade"),
    "units": _object(unit={"enum": list(LENGTH_UNITS)}),
    "advice": _object(["step"], step=TEXT, edit={"anyOf": [_ref("Edit"), {"type": "null"}]}),
    "places": _object(step=TEXT),
    "exports": _object(
        ["format"],
        format={"enum": list(FORMATS)},
        bodies={"type": ["array", "null"], "items": TEXT},
        tolerance={"type": ["number", "string", "null"]},
    ),
    "picture": _object([], revision={"type": ["integer", "null"]}),
    "milestones": _object(revision=NUMBER, name=TEXT),
    "restore": _object(revision=NUMBER),
    "undo": _object([], upto=MAYBE_TEXT),
    "redo": _object([], upto=MAYBE_TEXT),
    "sketch_acts": _object(["base", "acts"], base=NUMBER, acts=OBJECTS, **{"try": {"type": "boolean"}}),
    "sketch_guess": _object(
        ["cursor"],
        cursor=PLACE,
        unit={"type": "number"},
        tool=TEXT,
        picks=OBJECTS,
        sizes={"type": "object"},
        woken={"type": "array", "items": TEXT},
        free={"type": "boolean"},
    ),
    "sketch_take": _object(
        how={"enum": ["edge", "section", "silhouette"]},
        picked=_object(["body"], body=TEXT, mesh=MAYBE_TEXT, face=NUMBER, edge=NUMBER),
    ),
    "sketch_trims": _object(entity=TEXT, at=PLACE),
    "sketch_drag": _object(["name", "from", "to"], name=TEXT, to=PLACE, begin={"type": "boolean"}, **{"from": PLACE}),
}

ANSWERS: dict[str, Schema] = {
    "document": _object(revision=NUMBER, undo=NUMBER, redo={"type": "boolean"}, document=_ref("Document")),
    "document_file": _ref("Document"),
    "edits": _ref("Revision"),
    "imports": _ref("Revision"),
    "build": _ref("Revision"),
    "undo": _ref("Revision"),
    "redo": _ref("Revision"),
    "restore": _ref("Revision"),
    "preview": _object(job=TEXT, change=TEXT),
    "references": JOB_ID,
    "measures": JOB_ID,
    "gauges": _object(job=TEXT, revision=NUMBER),
    "pulls": JOB_ID,
    "report": JOB_ID,
    "compare": JOB_ID,
    "sections": JOB_ID,
    "keep_resin": _object(name=TEXT),
    "drop_resin": _object(name=TEXT),
    "units": JOB_ID,
    "advice": JOB_ID,
    "places": JOB_ID,
    "exports": JOB_ID,
    "picture": _object(job=MAYBE_TEXT, blob=MAYBE_TEXT),
    "sketch": _object(
        revision=NUMBER,
        undo=NUMBER,
        redo={"type": "boolean"},
        name=TEXT,
        unit=TEXT,
        scene={"type": "object"},
        tools=OBJECTS,
    ),
    "sketch_acts": _object(
        revision=NUMBER,
        undo=NUMBER,
        redo={"type": "boolean"},
        words=TEXT,
        made={"type": "array", "items": TEXT},
        scene={"type": ["object", "null"]},
    ),
    "sketch_guess": _object(
        pick={"type": "object"},
        words=TEXT,
        guides=OBJECTS,
        preview=OBJECTS,
        measures={"type": "object"},
        refusal=TEXT,
    ),
    "sketch_outlines": JOB_ID,
    "sketch_photos": _object(photo=_object(asset=TEXT, name=TEXT, pixels={"type": "array", "items": NUMBER})),
    "sketch_take": JOB_ID,
    "sketch_trims": _object(piece={"type": "object"}),
    "sketch_drag": _object(scene={"type": "object"}, radii={"type": "object"}, revision=NUMBER),
    "history": _object(revisions={"type": "array", "items": _ref("Past")}),
    "milestones": _object(revision=NUMBER),
    "job": _ref("Job"),
    "cancel": _ref("Job"),
    "openapi": {"type": "object"},
}
QUERIES: dict[str, dict[str, Schema]] = {
    "job": {"wait": {"type": "number"}},
    "blob": {"as": TEXT},
    "history": {"before": NUMBER},
    "sketch_file": {"format": {"enum": ["dxf", "svg"]}},
}


def describe(app: Flask) -> Schema:
    """OpenAPI 3.1 of every route of the blueprint `api`."""
    paths: dict[str, dict[str, Schema]] = {}
    for rule in app.url_map.iter_rules():
        blueprint, _, name = rule.endpoint.partition(".")
        if blueprint != "api":
            continue
        path = re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", rule.rule)
        for method in sorted((rule.methods or set()) - {"HEAD", "OPTIONS"}):
            paths.setdefault(path, {})[method.lower()] = _operation(name, app.view_functions[rule.endpoint], rule.arguments)
    edits = adapter().json_schema()
    edit_parts = edits.pop("$defs")
    document = document_schema()
    parts = document.pop("$defs")
    text = {"Document": document, **parts, "Edit": edits, **edit_parts, **SCHEMAS}
    return {
        "openapi": "3.1.0",
        "info": {"title": "Supple Cast", "version": __version__, "description": "What the pages themselves use."},
        "paths": paths,
        "components": {
            "schemas": _relocated(text),
            "securitySchemes": {"token": {"type": "apiKey", "in": "header", "name": "X-Token"}},
        },
    }


def _operation(name: str, view: Callable[..., Any], arguments: set[str]) -> Schema:
    parameters = [{"name": a, "in": "path", "required": True, "schema": TEXT} for a in sorted(arguments)]
    parameters += [{"name": q, "in": "query", "schema": schema} for q, schema in QUERIES.get(name, {}).items()]
    problem = {"description": "A problem", "content": {"application/problem+json": {"schema": _ref("Problem")}}}
    kind = "application/json" if name in ANSWERS else "application/octet-stream"
    answer = {"description": "Done", "content": {kind: {"schema": ANSWERS.get(name, {})}}}
    if name in ("blob", "sketch_file", "sketch_photo"):
        answer = {"description": "The file", "content": {"*/*": {}}}
    told: Schema = {
        "operationId": name,
        "summary": (view.__doc__ or name).strip().splitlines()[0],
        "parameters": parameters,
        "responses": {"200": answer, **dict.fromkeys(("400", "403", "404", "409", "413", "415", "422"), problem)},
    }
    if name in BODIES:
        told["requestBody"] = {"required": True, "content": {"application/json": {"schema": BODIES[name]}}}
    if name in ("imports", "sketch_outlines", "sketch_photos"):
        form = _object(file={"type": "string", "format": "binary"})
        told["requestBody"] = {"required": True, "content": {"multipart/form-data": {"schema": form}}}
    if name not in ("document", "document_file", "history", "job", "blob", "openapi", "sketch", "sketch_file", "sketch_photo"):
        told["security"] = [{"token": []}]
    return told


def _relocated(value: Any) -> Any:
    """Schemas with references to their definitions turned towards the components."""
    if isinstance(value, dict):
        return {
            key: inner.replace("#/$defs/", "#/components/schemas/") if key == "$ref" else _relocated(inner)
            for key, inner in value.items()
        }
    return [_relocated(inner) for inner in value] if isinstance(value, list) else value
