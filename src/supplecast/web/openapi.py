"""The OpenAPI description of the JSON API, made from the types of its views."""

from __future__ import annotations

import re
import types
import typing
from collections.abc import Callable, Iterator
from typing import Any

from flask import Flask
from pydantic import BaseModel, TypeAdapter

from supplecast import __version__
from supplecast.document.edits import adapter
from supplecast.document.model import schema as document_schema
from supplecast.web.answers import Problem
from supplecast.web.routing import View, api
from supplecast.wire.verbs import VERBS

Schema = dict[str, Any]
TEXT: Schema = {"type": "string"}
_REF = "#/components/schemas/{model}"
_FILES = {"document_file": "application/json", "openapi": "application/json"}
_UPLOADS = ("imports", "sketch_outlines", "sketch_photos")


def describe(app: Flask) -> Schema:
    """OpenAPI 3.1 of every route of the blueprint `api`."""
    schemas, named = _schemas()
    paths: dict[str, dict[str, Schema]] = {}
    for rule in app.url_map.iter_rules():
        blueprint, _, name = rule.endpoint.partition(".")
        if blueprint != "api":
            continue
        path = re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", rule.rule)
        for method in sorted((rule.methods or set()) - {"HEAD", "OPTIONS"}):
            view = app.view_functions[rule.endpoint]
            paths.setdefault(path, {})[method.lower()] = _operation(name, method, view, rule.arguments, named)
    return {
        "openapi": "3.1.0",
        "info": {"title": "Supple Cast", "version": __version__, "description": "What the pages themselves use."},
        "paths": paths,
        "components": {
            "schemas": schemas,
            "securitySchemes": {"token": {"type": "apiKey", "in": "header", "name": "X-Token"}},
        },
    }


def _schemas() -> tuple[Schema, dict[tuple[str, str], Schema]]:
    """Every schema by its name; and those of requests and answers by the view's name and which it is."""
    asked = [((name, "asked"), "validation", TypeAdapter(view.asked)) for name, view in api.views.items() if view.asked]
    answers = [((name, "answer"), "serialization", view.adapter) for name, view in api.views.items() if view.adapter]
    results = [((verb.name, "result"), "serialization", TypeAdapter(verb.result)) for verb in VERBS]
    problem = (("", "problem"), "serialization", TypeAdapter(Problem))
    inputs: Any = [*asked, *answers, *results, problem]
    named, whole = TypeAdapter.json_schemas(inputs, ref_template=_REF)
    edits, document = adapter().json_schema(ref_template=_REF), document_schema()
    text = {**document.pop("$defs"), **edits.pop("$defs"), **whole["$defs"], "Document": document, "Edit": edits}
    return _relocated(text), {key: schema for (key, _), schema in named.items()}


def _operation(
    name: str, method: str, function: Callable[..., Any], arguments: set[str], named: dict[tuple[str, str], Schema]
) -> Schema:
    view: View = api.views[name]
    problem = {"description": "A problem", "content": {"application/problem+json": {"schema": named["", "problem"]}}}
    operation: Schema = {
        "operationId": name,
        "summary": (function.__doc__ or name).strip().splitlines()[0],
        "parameters": [
            *({"name": a, "in": "path", "required": True, "schema": TEXT} for a in sorted(arguments)),
            *_query(view.query),
        ],
        "responses": {
            "200": _answer(name, view, named),
            **dict.fromkeys(("400", "403", "404", "409", "413", "415", "422", "429", "507"), problem),
        },
    }
    if view.asked is not None:
        content = {"application/json": {"schema": named[name, "asked"]}}
        operation["requestBody"] = {"required": True, "content": content}
    elif name in _UPLOADS:
        form = {"type": "object", "properties": {"file": {"type": "string", "format": "binary"}}, "required": ["file"]}
        operation["requestBody"] = {"required": True, "content": {"multipart/form-data": {"schema": form}}}
    elif method == "POST":
        operation["requestBody"] = {"content": {"application/json": {"schema": {"type": "object"}}}}
    if method != "GET":
        operation["security"] = [{"token": []}]
    started = [result.__name__ for result in _jobs(view.answer)]
    if started:
        operation["x-result"] = started
    return operation


def _answer(name: str, view: View, named: dict[tuple[str, str], Schema]) -> Schema:
    if view.adapter is not None:
        return {"description": "Done", "content": {"application/json": {"schema": named[name, "answer"]}}}
    return {"description": "The file", "content": {_FILES.get(name, "*/*"): {}}}


def _query(model: type[BaseModel] | None) -> Iterator[Schema]:
    for name, schema in (model.model_json_schema()["properties"] if model else {}).items():
        yield {"name": name, "in": "query", "schema": schema}


def _jobs(answer: Any) -> Iterator[type]:
    """What the jobs come to that an answer says were started."""
    if typing.get_origin(answer) in (typing.Union, types.UnionType):
        for one in typing.get_args(answer):
            yield from _jobs(one)
    else:
        yield from typing.get_args(answer)


def _relocated(value: Any) -> Any:
    """Schemas with references to their definitions turned towards the components."""
    if isinstance(value, dict):
        return {
            key: inner.replace("#/$defs/", "#/components/schemas/") if key == "$ref" else _relocated(inner)
            for key, inner in value.items()
        }
    return [_relocated(inner) for inner in value] if isinstance(value, list) else value
