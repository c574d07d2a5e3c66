"""The house kept in order: what a stranger may count on, held for every file, step, field and word."""

from __future__ import annotations

import ast
import importlib
import pkgutil
import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import get_args

import pytest
from flask import Flask

import supplecast
from supplecast import kernel
from supplecast.document.fields import KIND_WORDS, FieldKind
from supplecast.document.state import Role
from supplecast.document.step import in_order
from supplecast.exchange.triangles import ROLE_COLOURS
from supplecast.molding import gauges
from supplecast.web import controls
from supplecast.web.api import api
from supplecast.web.openapi import describe

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "supplecast"
SCRIPTS = SOURCE / "web" / "static" / "js"
WRITTEN_BY_HAND = [
    *(path for folder in ("src", "tests", "scripts") for path in (ROOT / folder).rglob("*.py")),
    *SCRIPTS.rglob("*.js"),
    *(ROOT / "frontend" / "tests").glob("*.js"),
]


def names(path: Path) -> str:
    return str(path.relative_to(ROOT))


# --- files and imports ----------------------------------------------------------------------------------------------


def test_no_file_is_long_without_a_reason() -> None:
    for path in WRITTEN_BY_HAND:
        lines = path.read_text(encoding="utf-8").splitlines()
        assert len(lines) <= 400 or any(line.startswith("Long, since") for line in lines[:14]), names(path)


def test_lines_of_scripts_and_pages_can_be_read() -> None:
    for path in (*SCRIPTS.rglob("*.js"), *(SOURCE / "web" / "templates").rglob("*.html")):
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
            assert len(line) <= 140, f"{names(path)}:{number}"


def imports(module: str, path: Path, known: set[str]) -> Iterator[str]:
    """The modules that one imports at its top or for its types; not within functions."""
    waiting: list[ast.AST] = list(ast.parse(path.read_text(encoding="utf-8")).body)
    while waiting:
        node = waiting.pop()
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names if alias.name in known)
        elif isinstance(node, ast.ImportFrom) and node.module:
            for alias in node.names:
                inner = f"{node.module}.{alias.name}"
                found = inner if inner in known else node.module
                # A package that its own module imports is there already: it holds what all its modules share.
                if found in known and not module.startswith(f"{found}."):
                    yield found
        elif isinstance(node, ast.If):
            waiting += node.body + node.orelse


def test_no_module_imports_itself_round_a_corner() -> None:
    """Counted with what is imported for types only."""
    paths = {name_of(path): path for path in SOURCE.rglob("*.py")}
    graph = {module: set(imports(module, path, set(paths))) - {module} for module, path in paths.items()}
    done: set[str] = set()

    def walk(module: str, trail: tuple[str, ...]) -> None:
        assert module not in trail, " → ".join((*trail[trail.index(module) :], module))
        if module in done:
            return
        for other in sorted(graph[module]):
            walk(other, (*trail, module))
        done.add(module)

    for module in sorted(graph):
        walk(module, ())


def name_of(path: Path) -> str:
    parts = path.relative_to(SOURCE.parent).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def test_every_module_can_be_the_first_to_be_imported() -> None:
    for module in pkgutil.walk_packages(supplecast.__path__, "supplecast."):
        if "migrations" not in module.name:
            importlib.import_module(module.name)


def test_modules_of_the_kernel_have_names_of_their_own() -> None:
    found = [path.stem for path in (SOURCE / "kernel").glob("*/[a-z]*.py")]
    assert len(found) == len(set(found)) == len(kernel.ROOMS)


def test_the_program_starts_without_kernel_and_compiler() -> None:
    """They take seconds to load, and the workers have them."""
    heavy = ("OCP", "numba", "manifold3d", "playwright")
    asked = f"import supplecast.web.serve, sys; print([name for name in {heavy} if name in sys.modules])"
    found = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True)
    assert found.stdout.strip() == "[]"


# --- words ----------------------------------------------------------------------------------------------------------


def test_every_kind_of_field_has_words_and_a_control_with_a_template() -> None:
    kinds = set(get_args(FieldKind))
    assert kinds == set(KIND_WORDS) == set(controls.controls())
    printed = (SOURCE / "web" / "controls").glob("*.py")
    wanted = {name for path in printed for name in re.findall(r'template="(\w+)"', path.read_text(encoding="utf-8"))}
    assert wanted
    for template in wanted:
        assert (SOURCE / "web" / "templates" / "controls" / f"{template}.html").is_file(), template


def test_the_glossary_knows_every_step_and_gauge() -> None:
    page = (ROOT / "docs" / "glossary.md").read_text(encoding="utf-8")
    for _, kind in in_order():
        module = kind.__module__.removeprefix("supplecast.").replace(".", "/")
        assert re.search(rf"^\| {re.escape(kind.word)} \| .+ \| `{kind.__name__}`, `{module}\.py` \|$", page, re.MULTILINE), (
            kind.word
        )
    for make in gauges._STRIP:
        assert f"`{make.__module__.rsplit('.', 1)[1]}.{make.__name__}`" in page
    for named in re.findall(r"Gauge\(\s*\"(\w+)\"", (SOURCE / "molding" / "gauges" / "tool.py").read_text(encoding="utf-8")):
        assert f"`tool.{named}`" in page, named


@pytest.mark.parametrize("page", ["the-way-of-a-number.svg", "glossary.md", "ARCHITECTURE.md"])
def test_files_that_the_pages_speak_of_are_there(page: str) -> None:
    text = (ROOT / "docs" / page).read_text(encoding="utf-8")
    found = set(re.findall(r"(?<![\w/.])[\w-]+(?:/[\w-]+)*/[\w-]+\.(?:py|js|html|sh|json|d\.ts)\b", text))
    assert found
    for path in found:
        roots = (ROOT, SOURCE, SCRIPTS, SOURCE / "web", SOURCE / "molding" / "gauges")
        assert any((root / path).exists() for root in roots), path


# --- the wire -------------------------------------------------------------------------------------------------------


def test_no_two_schemas_of_the_wire_share_a_name() -> None:
    """A name met twice would be written with its module before it."""
    app = Flask(__name__)
    app.register_blueprint(api)
    schemas = describe(app)["components"]["schemas"]
    assert [name for name in schemas if "__" in name] == []


def test_every_role_of_a_body_has_a_colour() -> None:
    assert set(get_args(Role)) == set(ROLE_COLOURS)
