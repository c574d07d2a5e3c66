"""The types of all that goes over the wire, for the scripts to be checked against: made from the API's own description."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from flask import Flask

from supplecast.web.api import api
from supplecast.web.openapi import describe

TARGET = Path(__file__).parent.parent / "frontend" / "wire.d.ts"
_WHOLE = ("Document", "Edit")
"""Not spelled out: the pages hand these on as they are."""
_PLAIN = {"string": "string", "number": "number", "integer": "number", "boolean": "boolean", "null": "null"}


def text() -> str:
    """The declarations: every request, answer and job result, and what they are made of."""
    app = Flask(__name__)
    app.register_blueprint(api)
    description = describe(app)
    schemas = description["components"]["schemas"]
    wanted = list(dict.fromkeys(_roots(description)))
    for name in wanted:
        inner = dict.fromkeys(_references(schemas[name]))
        wanted += [one for one in inner if one not in wanted and one not in _WHOLE]
    lines = ["// Written by scripts/docs.py from the API's description; change the code, then run make docs.", ""]
    lines += ["declare namespace Wire {", *(f"  type {name} = Record<string, any>;" for name in _WHOLE)]
    lines += ["  type Job<Result> = string & { comesTo?: Result };"]
    for name in sorted(wanted):
        made = _type(schemas[name], "  ")
        if result := re.search(r"_(\w+?)_$", name):  # an answer that says a job was started, and what the job comes to
            made = made.replace("job: string", f"job: Job<{result.group(1)}>")
        lines += ["", f"  type {_name(name)} = {made};"]
    return "\n".join([*lines, "}", ""])


def _roots(description: dict[str, Any]) -> Iterator[str]:
    for operations in description["paths"].values():
        for operation in operations.values():
            yield from _references({"asked": operation.get("requestBody", {}), "told": operation["responses"]["200"]})
            yield from operation.get("x-result", ())


def _references(value: Any) -> Iterator[str]:
    if isinstance(value, dict):
        for key, inner in value.items():
            if key == "$ref":
                yield str(inner).rsplit("/", 1)[1]
            else:
                yield from _references(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from _references(inner)


def _name(name: str) -> str:
    return re.sub(r"\W+|_+$", "", name.rstrip("_"))


def _type(schema: dict[str, Any], indent: str) -> str:
    if "$ref" in schema:
        return _name(schema["$ref"].rsplit("/", 1)[1])
    for key in ("anyOf", "oneOf", "allOf"):
        if key in schema:
            return " | ".join(dict.fromkeys(_type(inner, indent) for inner in schema[key]))
    if "const" in schema:
        return repr(schema["const"])
    if "enum" in schema:
        return " | ".join(repr(value) for value in schema["enum"])
    kind = schema.get("type")
    if isinstance(kind, list):
        return " | ".join(_type({**schema, "type": one}, indent) for one in kind)
    if kind == "array":
        if "prefixItems" in schema:
            return f"[{', '.join(_type(inner, indent) for inner in schema['prefixItems'])}]"
        return f"Array<{_type(schema.get('items', {}), indent)}>"
    if kind == "object" and schema.get("properties"):
        needed = set(schema.get("required", ()))
        rows = [
            f"{indent}  {_key(name)}{'' if name in needed else '?'}: {_type(inner, indent + '  ')};"
            for name, inner in schema["properties"].items()
        ]
        return "\n".join(["{", *rows, f"{indent}}}"])
    if kind == "object":
        inner = schema.get("additionalProperties")
        return f"Record<string, {_type(inner, indent) if isinstance(inner, dict) and inner else 'any'}>"
    return _PLAIN.get(str(kind), "any")


def _key(name: str) -> str:
    return name if re.fullmatch(r"\w+", name) else repr(name)
