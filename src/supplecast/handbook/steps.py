"""Pages of the steps."""

from __future__ import annotations

import json
import re
import sys
import typing
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from supplecast.document.fields import KIND_WORDS, FieldSpec, row_model, spec_in
from supplecast.document.step import Step, in_order, load_steps
from supplecast.handbook.told import imported, told, used
from supplecast.handbook.topic import Field, Told, Topic

_CHAPTERS = {"part": "Steps of a part", "tool": "Steps of a tool", "assembly": "Steps of an assembly"}
_TYPED = ("length", "angle", "percent", "factor", "list", "count", "choice", "text", "file", "words")
IN_THE_FORMAT = "see [the format](../format.md)"
_OWN = ("id", "type", "name", "skip")


def step_topics() -> Iterator[Topic]:
    """A page for each step, in the order of the list of steps."""
    load_steps()
    for name, kind in in_order():
        path = Path(sys.modules[kind.__module__].__file__ or "")
        yield Topic(
            f"step/{name.replace(' ', '-')}",
            _CHAPTERS["part" if "part" in kind.document_kinds else kind.document_kinds[0]],
            kind.word,
            kind.purpose,
            paragraphs(kind),
            kind.search,
            _said(kind),
            tuple(_fields(kind)),
            name,
            kind.picture,
            partial(_told, path),
        )


def _told(path: Path) -> Told:
    """What a step's module tells, with the refusals of the kernel that it calls and the rules of the trade it goes by."""
    own = told(path)
    trade = [told(other) for other in dict.fromkeys(imported(path, "tooling"))]
    rules = [*own.rules, *(rule for other in trade for rule in other.rules)]
    others = [*trade, *map(told, _called(path))]
    refusals = [*own.refusals, *(row for other in others for row in other.refusals)]
    return Told(tuple(dict.fromkeys(refusals)), own.cautions, tuple(dict.fromkeys(rules)))


def _called(path: Path) -> list[Path]:
    """The modules of the kernel that a step calls for more than to measure."""
    return [p for p in dict.fromkeys(used(path, "kernel")) if p.parent.name in ("verbs", "features", "molds")]


def about(kind: type[BaseModel]) -> str:
    """What a model's docstring says before its example, line by line."""
    text = (kind.__doc__ or "").split("Example:")[0]
    return "\n".join(line.strip() for line in text.strip().splitlines())


def paragraphs(kind: type[BaseModel]) -> tuple[str, ...]:
    """The same in paragraphs."""
    return tuple(" ".join(part.split()) for part in about(kind).split("\n\n") if part.strip())


def example(kind: type[Step]) -> dict[str, Any]:
    """The example of a step's docstring as JSON."""
    found = re.search(r"Example: (\{.*\})", kind.__doc__ or "", re.DOTALL)
    if found is None:
        raise ValueError(f"{kind.__name__} gives no example")
    return dict(json.loads(" ".join(found.group(1).split()).replace("9f86d0…", "9" * 64)))


def sentence(kind: type[Step]) -> str:
    """How the sheet says the example, with the names of its fields in backquotes."""
    return re.sub(r"[{}]", "`", kind.model_validate(example(kind)).sentence())


def _said(kind: type[Step]) -> str:
    """The same with what the example has in its fields; what is picked, or left to a rule, by its name."""
    step = kind.model_validate(example(kind))

    def filled(found: re.Match[str]) -> str:
        path = found.group(1)
        value, field = step.held(path), path.split(".")[0]
        kind_ = kind.spec(field).kind
        if isinstance(value, str | int | float) and value != "" and kind_ in _TYPED:
            return f"`{value}`"
        return "" if kind_ == "rows" or field == "also" else f"({field.replace('_', ' ')})"

    return re.sub(r"\s+([,;])", r"\1", re.sub(r"{([^}]+)}", filled, step.sentence())).strip()


def _fields(kind: type[Step]) -> Iterator[Field]:
    for name, info in kind.model_fields.items():
        takes = kind_words(kind, name, kind.spec(name))
        if name not in _OWN and takes != IN_THE_FORMAT:  # what is drawn, not typed, is left to the drawing sheet
            yield Field(name.replace("_", " "), takes.replace("`", ""), _plain(info))


def kind_words(kind: type[BaseModel], field: str, spec: FieldSpec) -> str:
    """What may be given in a field, in words."""
    if spec.kind == "rows":
        row = row_model(kind, field)
        return "rows of " + ", ".join(f"`{name}` ({kind_words(row, name, spec_in(row, name))})" for name in row.model_fields)
    if spec.kind == "choice":
        words = tuple(str(a) for a in typing.get_args(kind.model_fields[field].annotation))
        if words and all(not word.startswith(("<", "supplecast", "typing", "dict", "list")) for word in words):
            return " · ".join(f"`{word}`" for word in words)
        return IN_THE_FORMAT
    least = {"positive": ", above zero", "zero": ", zero or more"}.get(spec.least, "")
    return KIND_WORDS[spec.kind] + least


def default(info: Any) -> Any:
    """What a field is when it is left out, as JSON has it; None for nothing."""
    value = info.get_default(call_default_factory=True)
    if isinstance(value, BaseModel):
        value = value.model_dump(exclude_none=True, exclude_defaults=True)
    return None if value in (None, (), [], {}, "") else value


def _plain(info: Any) -> str:
    value = None if info.is_required() else default(info)
    return str(value) if isinstance(value, str | int | float) else ""
