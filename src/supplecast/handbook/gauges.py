"""Pages of the gauges."""

from __future__ import annotations

import ast
from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path

from supplecast.handbook.told import ROOT, imported, parsed, told
from supplecast.handbook.topic import Rule, Told, Topic

_BEHIND = ("molding", "tooling")


def gauge_topics() -> Iterator[Topic]:
    """A page for each gauge of the strip, from the functions that read them. Their modules are not loaded for it: the kernel
    would come with them.
    """
    found: dict[str, Topic] = {}
    for path in sorted((ROOT / "molding" / "gauges").glob("[a-z]*.py")):
        tree = parsed(path)
        for function in (node for node in tree.body if isinstance(node, ast.FunctionDef)):
            for name, title in _gauges(function):
                about = ast.get_docstring(function) or ast.get_docstring(tree) or ""
                title = f"{title}, of a tool" if path.stem == "tool" else title
                found.setdefault(name, _topic(path, name, title, about, ast.get_docstring(tree) or "", _figures(function)))
    yield from found.values()


def _topic(path: Path, name: str, title: str, about: str, module: str, figures: Sequence[Rule]) -> Topic:
    paragraphs = tuple(" ".join(part.split()) for part in about.split("\n\n"))
    purpose = " ".join(module.split("\n\n")[0].split()).rstrip(".")
    return Topic(f"gauge/{name}", "Gauges", title, purpose, paragraphs, read=partial(_told, path, tuple(figures)))


def _told(path: Path, figures: Sequence[Rule]) -> Told:
    """The figures behind a gauge, and the rules it goes by."""
    others = dict.fromkeys(other for package in _BEHIND for other in imported(path, package))
    rules = [*figures, *told(path).rules, *(rule for other in others for rule in told(other).rules)]
    return Told(rules=tuple(dict.fromkeys(rules)))


def _figures(function: ast.FunctionDef) -> list[Rule]:
    """The figures behind a gauge that are told with their formula or source."""
    found = []
    for call in (node for node in ast.walk(function) if isinstance(node, ast.Call)):
        if isinstance(call.func, ast.Name) and call.func.id == "GaugeFigure":
            texts = [arg.value if isinstance(arg, ast.Constant) and isinstance(arg.value, str) else "" for arg in call.args]
            words = "; ".join(text for text in texts[2:] if text)
            if texts[0] and words:
                found.append(Rule(texts[0], words))
    return found


def _gauges(function: ast.FunctionDef) -> Iterator[tuple[str, str]]:
    """The id and the name of each gauge that a function makes."""
    for call in (node for node in ast.walk(function) if isinstance(node, ast.Call)):
        if isinstance(call.func, ast.Name) and call.func.id == "Gauge" and len(call.args) > 1:
            first, second = call.args[:2]
            if isinstance(first, ast.Constant) and isinstance(second, ast.Constant | ast.JoinedStr):
                words = second.value if isinstance(second, ast.Constant) else second.values[0].value  # type: ignore[attr-defined]
                yield str(first.value), str(words).rstrip(", ")
