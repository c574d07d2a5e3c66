"""Writes what can be told from the code itself: docs/format.md, docs/steps/, the kernel's type stub, and the
types of the wire for the scripts.

python -m scripts.docs           # writes them
python -m scripts.docs --check   # says whether they are current
"""

from __future__ import annotations

import json
import sys
import typing
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from scripts import wire_types
from supplecast import kernel
from supplecast.document.fields import AxisPick, LinkPick, PlanePick, Profile, Spot
from supplecast.document.model import VERSION, Document
from supplecast.document.step import Step, in_order, load_steps
from supplecast.geometry import STANDARD_PLANES, Vec
from supplecast.handbook.steps import about, default, example, kind_words, sentence
from supplecast.naming import EdgeRef, FaceRef, Rule, tag
from supplecast.naming.reference import Order
from supplecast.naming.tag import ROLES
from supplecast.sketch.belongings import Figure, Size
from supplecast.sketch.figures import CircleRequest, PolygonRequest, RectangleRequest, SlotRequest
from supplecast.sketch.model import Arc, Circle, Constraint, Line

DOCS = Path(__file__).parent.parent / "docs"
_STUB = Path(kernel.__file__).with_suffix(".pyi")
_MADE = "<!-- Written by scripts/docs.py from the code; change the code, then run make docs. -->\n\n"


def pages() -> dict[Path, str]:
    """Every generated page and its text."""
    load_steps()
    kinds = sorted(in_order(), key=lambda row: _folder(row[1]))
    made = {
        wire_types.TARGET: wire_types.text(),
        _STUB: _kernel_stub(),
        DOCS / "format.md": _format(kinds),
        DOCS / "steps" / "README.md": _index(kinds),
        DOCS / "names.md": _names(),
    }
    for name, kind in kinds:
        made[DOCS / "steps" / f"{_file(name)}.md"] = _step(name, kind)
    return made


def _folder(kind: type[Step]) -> str:
    return kind.__module__.split(".")[-2]


def _file(name: str) -> str:
    return name.replace(" ", "-")


def _index(kinds: list[tuple[str, type[Step]]]) -> str:
    rows = [f"| [{kind.word}]({_file(name)}.md) | {kind.purpose} | {_folder(kind)} |" for name, kind in kinds]
    return _MADE + "# Build steps\n\n| step | what it is for | sheet |\n|---|---|---|\n" + "\n".join(rows) + "\n"


def _step(name: str, kind: type[Step]) -> str:
    rows = []
    for field, info in kind.model_fields.items():
        if field in ("id", "type", "name", "skip"):
            continue
        spec = kind.spec(field)
        rows.append(f"| `{field}` | {kind_words(kind, field, spec)} | {_default(info)} |")
    module = "/".join(kind.__module__.split(".")[1:])
    text = json.dumps(example(kind), indent=1, ensure_ascii=False)
    return (
        f"{_MADE}# {kind.word}\n\n{about(kind)}\n\nIn the sheet: {sentence(kind)}\n\n"
        f"| field | what may be given | left out |\n|---|---|---|\n" + "\n".join(rows) + "\n\n"
        "Every step also has `id` (a permanent short name), `type`, `name` (for people) and `skip`.\n\n"
        f"```json\n{text}\n```\n\nCode: `src/supplecast/{module}.py`\n"
    )


def _default(info: Any) -> str:
    if info.is_required():
        return "must be given"
    value = default(info)
    return "nothing" if value is None else f"`{json.dumps(value, ensure_ascii=False)}`"


def _names() -> str:
    """How things are called in a document written by hand, from the grammar of tags and the standard planes themselves."""
    planes = [
        f"| `{name}` | {_direction(frame.x)} | {_direction(frame.y)} | {_direction(frame.normal)} |"
        for name, frame in STANDARD_PLANES.items()
    ]
    roles = [f"| `{role}` | {words} |" for role, words in sorted(ROLES.items())]
    grammar = (tag.__doc__ or "").split("\n\n", 1)[1]
    parts = [
        _MADE + "# Names in a document\n",
        "For those who write documents by hand. `supplecast names DOC.json` prints every body, face and edge of a document "
        "with its kind, size and place, and the reference that leads to it.\n",
        "## Planes and axes\n\n| plane | its x | its y | up out of it |\n|---|---|---|---|",
        *planes,
        "\nA sketch is drawn in its plane's x and y; `raised` or `up` goes out of it. Axes are `x`, `y` and `z`.\n",
        "## Bodies\n",
        "A body has the id of the step that made it. Where a step makes several, each has a word behind it: `sp.back` is what "
        "a split keeps behind its plane, `pt.2` the second copy of a pattern, `pt.2-1` the first in its second row, `h.core` "
        "and `h.cavity` are the halves, `m1.2` the second body of an imported file.\n",
        "## Drawn things\n",
        "Points and curves of a sketch have the ids it gives them; `o` is its origin, `x` and `y` are its axes. A figure `f1` "
        "draws `f1_L1`, `f1_L2` … (lines), `f1_A1` … (arcs) or `f1_C1` (a circle).\n",
        f"## Faces\n\nA face is known by a tag.\n\n{grammar.strip()}\n\n| role | in words |\n|---|---|",
        *roles,
    ]
    return "\n".join(parts) + "\n"


def _direction(v: Vec) -> str:
    axis = max(range(3), key=lambda i: abs(v[i]))
    return f"{'+' if v[axis] > 0 else '−'}{'xyz'[axis]}"


def _kernel_stub() -> str:
    """What a type checker needs to know of modules that are found and loaded when first used."""
    lines = [
        '"""Written by scripts/docs.py from the rooms of the kernel; run make docs."""',
        "",
        "from __future__ import annotations",
        "",
    ]
    for room in sorted(set(kernel.ROOMS.values())):
        names = sorted(name for name, its in kernel.ROOMS.items() if its == room)
        lines += [f"from supplecast.kernel.{room} import {name} as {name}" for name in names]
    return "\n".join([*lines, "", "ROOMS: dict[str, str]", "", "def preload() -> None: ...", ""])


def _format(kinds: list[tuple[str, type[Step]]]) -> str:
    steps = ", ".join(f"[{name}](steps/{_file(name)}.md)" for name, _ in kinds)
    parts = [
        _MADE + f"# The document format, version {VERSION}\n",
        "A document is one JSON file, `.supple.json`: a part or a tool. It is what the program stores and what it reads; "
        "`supplecast schema` prints its JSON Schema. Anything unknown in it is refused with the path to the fault.\n",
        "Sizes are expressions, kept as typed: a number with or without a unit (`mm`, `cm`, `m`, `in`, `deg`, `rad`, `%`), "
        "named values, `+ - * / ( )`, `min max sqrt sin cos tan` and alike. A bare number is in the document's unit, or in "
        "degrees. A number in JSON is taken as if it had been typed.\n",
        "Ids of steps, bodies and drawn things are permanent; names are for people. A step names what it builds on by "
        "reference, never by position.\n",
        "## The document\n\n" + _table(Document),
        f"`steps` holds, in order: {steps}.\n",
        "## Picks\n",
    ]
    for model in (FaceRef, EdgeRef, Order, Rule, PlanePick, AxisPick, Spot, Profile, LinkPick):
        parts.append(f"### {model.__name__}\n\n{about(model)}\n\n{_table(model)}")
    parts.append("## A drawing\n\nA sketch holds `points` (id: [x, y] in mm), `entities`, `constraints` and `figures` by id.\n")
    for model in (Line, Arc, Circle, Constraint, Figure, Size):
        parts.append(f"### {model.__name__}\n\n{about(model)}\n\n{_table(model)}")
    parts.append(
        "## Typed figures\n\n`draw` takes figures as one would type them; on reading they become points, entities and "
        "constraints.\n"
    )
    for model in (RectangleRequest, CircleRequest, PolygonRequest, SlotRequest):
        words = f"{about(model)}\n\n" if "__doc__" in vars(model) and model.__doc__ else ""
        parts.append(f"### {model.__name__.removesuffix('Request')}\n\n{words}{_table(model)}")
    return "\n".join(parts)


def _table(model: type[BaseModel]) -> str:
    rows = [f"| `{name}` | {_type_words(info.annotation)} | {_default(info)} |" for name, info in model.model_fields.items()]
    return "| field | what it holds | left out |\n|---|---|---|\n" + "\n".join(rows) + "\n"


def _type_words(annotation: Any) -> str:
    origin, inner = typing.get_origin(annotation), typing.get_args(annotation)
    if origin is typing.Literal:
        return " · ".join(f"`{json.dumps(word)}`" for word in inner)
    if origin is typing.Annotated:
        return _type_words(inner[0])
    if inner:
        words = list(dict.fromkeys(_words_in(inner)))
        holder = {tuple: "list of ", list: "list of ", dict: "by name: "}.get(origin, "") if origin else ""
        return holder + " or ".join(words)
    return {str: "text", int: "whole number", float: "number", bool: "true or false"}.get(annotation, _plain(annotation))


def _words_in(inner: tuple[Any, ...]) -> Iterator[str]:
    for one in inner:
        if one is not Ellipsis and one is not type(None):
            yield _type_words(one)


def _plain(annotation: Any) -> str:
    return str(getattr(annotation, "__name__", annotation))


def main() -> int:
    made = pages()
    known = {DOCS / "format.md", *(DOCS / "steps").glob("*.md")}
    stale = [path for path, text in made.items() if not path.is_file() or path.read_text(encoding="utf-8") != text]
    stale += sorted(known - set(made))
    if "--check" in sys.argv:
        for path in stale:
            print(f"not current: {path.name}; run make docs", file=sys.stderr)
        return 1 if stale else 0
    (DOCS / "steps").mkdir(exist_ok=True)
    for path in stale:
        if path in made:
            path.write_text(made[path], encoding="utf-8")
        else:
            path.unlink()
    print(f"{len(stale)} pages written, {len(made) - len([p for p in stale if p in made])} were current")
    return 0


if __name__ == "__main__":
    sys.exit(main())
