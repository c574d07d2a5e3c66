"""What the source of a module tells: its refusals with what would do, and its rules of thumb with their sources."""

from __future__ import annotations

import ast
import re
import tokenize
from collections.abc import Iterator
from functools import cache
from io import StringIO
from pathlib import Path

from supplecast.handbook.topic import Refusal, Rule, Told

ROOT = Path(__file__).parents[1]
"""The folder of the program's own modules."""
_SOURCED = re.compile(r"common practice|from memory|no source|\bISO \d|\bDIN \d|\bEN \d|handbook")
_LONGEST = 60  # characters of a value that is shown: tables are left to the code
_VARIES = "…"


@cache
def parsed(path: Path) -> ast.Module:
    """The syntax of a module."""
    return ast.parse(path.read_text(encoding="utf-8"))


@cache
def told(path: Path) -> Told:
    """What a module's source tells."""
    text, tree = path.read_text(encoding="utf-8"), parsed(path)
    refusals: dict[str, Refusal] = {}
    cautions: dict[str, None] = {}
    for function in (node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)):
        for call in (node for node in ast.walk(function) if isinstance(node, ast.Call)):
            verb = call.func.attr if isinstance(call.func, ast.Attribute) else getattr(call.func, "id", "")
            is_error = verb in ("KernelError", "SketchError")  # `fail` and NoRoomError begin with the field
            args = [_words(function, arg, call.lineno) for arg in call.args[0 if is_error else 1 : 2 if is_error else 3]]
            if (verb in ("fail", "NoRoomError") or is_error) and args and _says(args[0]):
                refusals.setdefault(args[0], Refusal(args[0], args[1] if len(args) > 1 else ""))
            elif verb == "caution" and args and _says(args[0]):
                cautions.setdefault(args[0])
    return Told(tuple(refusals.values()), tuple(cautions), tuple(_rules(tree, text)))


def imported(path: Path, package: str) -> Iterator[Path]:
    """The modules of a package of ours, such as `tooling`, from which a module takes something."""
    start = f"supplecast.{package}"
    for node in parsed(path).body:
        if isinstance(node, ast.ImportFrom) and node.module and (node.module == start or node.module.startswith(f"{start}.")):
            of = ROOT / Path(*node.module.split(".")[1:])
            yield from (p for p in (of.with_suffix(".py"), *(of / f"{name.name}.py" for name in node.names)) if p.is_file())


def used(path: Path, package: str) -> Iterator[Path]:
    """The modules of a package of rooms, such as `kernel`, that a module calls by their own name."""
    for node in ast.walk(parsed(path)):
        if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name) and node.value.id == package:
            yield from (ROOT / package).glob(f"*/{node.attr}.py")


def _says(words: str) -> bool:
    """Whether more than a blank is left of words when what varies is taken out."""
    return len(re.sub(r"[…\s.,:;]", "", words)) > 12


def _words(function: ast.FunctionDef, node: ast.expr, line: int) -> str:
    """A text as far as it is written in the code; what varies is “…”."""
    return re.sub(r"…(\s*…)+", _VARIES, _text(function, node, line)).strip()


def _text(function: ast.FunctionDef, node: ast.expr, line: int) -> str:
    match node:
        case ast.Constant(value=str(words)):
            return words
        case ast.JoinedStr(values=parts):
            return "".join(_text(function, part, line) for part in parts)
        case ast.FormattedValue(value=ast.Name() | ast.Constant() | ast.IfExp() as inner):
            return _text(function, inner, line)
        case ast.BinOp(left=left, op=ast.Add(), right=right):
            return _text(function, left, line) + _text(function, right, line)
        case ast.IfExp(body=body, orelse=other):
            first = _text(function, body, line)
            return first if first.strip() else _text(function, other, line)
        case ast.Name(id=name):
            return _assigned(function, name, line)
    return _VARIES


@cache
def _assignments(function: ast.FunctionDef) -> dict[str, list[ast.Assign]]:
    """What is assigned in a function, by the name."""
    found: dict[str, list[ast.Assign]] = {}
    for node in (node for node in ast.walk(function) if isinstance(node, ast.Assign)):
        for target in node.targets:
            if isinstance(target, ast.Name):
                found.setdefault(target.id, []).append(node)
    return found


def _assigned(function: ast.FunctionDef, name: str, line: int) -> str:
    """What a name stood for just before a line of its function, if that is a text."""
    before = [node for node in _assignments(function).get(name, ()) if node.lineno < line]
    if not before:
        return _VARIES
    last = max(before, key=lambda node: node.lineno)
    return _text(function, last.value, last.lineno)


def _rules(tree: ast.Module, text: str) -> Iterator[Rule]:
    """Constants whose comment, or the text under them, names a source."""
    comments = {
        token.start[0]: token.string.lstrip("# ")
        for token in tokenize.generate_tokens(StringIO(text).readline)
        if token.type == tokenize.COMMENT
    }
    for node, after in zip(tree.body, [*tree.body[1:], None], strict=True):
        value = node.value if isinstance(node, ast.Assign | ast.AnnAssign) else None
        if value is None:
            continue
        words = comments.get(node.end_lineno or node.lineno, "")
        if isinstance(after, ast.Expr) and isinstance(after.value, ast.Constant) and isinstance(after.value.value, str):
            words = " ".join(after.value.value.split())
        shown = ast.unparse(value)
        if _SOURCED.search(words):
            yield Rule(shown.strip("()") if len(shown) <= _LONGEST else "", words)
