"""What raised, turned and swept outlines do with the body there is: stand alone, add to it, or cut it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

from supplecast import kernel
from supplecast.errors import DocumentError
from supplecast.naming import Body

if TYPE_CHECKING:
    from supplecast.document.builder import Builder
    from supplecast.document.model import Document
    from supplecast.document.state import Entry

Result = Literal["new", "add", "cut"]


def combine(at: Builder, result: Result, target: Entry | None, tools: Sequence[tuple[str, Body]]) -> None:
    """Write `tools` (each with the lasting key of its outline) as bodies, or add them to, or cut them from, `target`."""
    if result == "new" or target is None:
        for key, tool in tools:
            at.new(tool, "part", at.step.name or "Body", key if len(tools) > 1 else "")
        return
    bodies = [tool for _, tool in tools]
    solids = [tool.solid for tool in bodies]
    if result == "add":
        made = at.kernel("profile", kernel.boolean.fuse, target.body.solid, solids)
    else:
        made = at.kernel("profile", kernel.boolean.cut, target.body.solid, solids)[0]
    at.replace(target, at.named(made, target.body, *bodies))


def target_of(at: Builder, result: Result, body: str | None) -> Entry | None:
    return None if result == "new" else at.target(body)


def newest_sketches(document: Document, count: int, word: str) -> list[str]:
    """Ids of the last `count` sketches of a document. DocumentError if it has fewer, saying what the `word` needs."""
    sketches = [step.id for step in document.steps if step.type == "sketch"]
    if len(sketches) < count:
        need = "a sketch" if count == 1 else f"{count} sketches on different planes"
        raise DocumentError(f"{word} needs {need}.", "Add what is missing first.")
    return sketches[-count:]


def usual_result(document: Document) -> Result:
    """What a new step most likely does: add to the body there is, or make the first one."""
    brings = (getattr(step, "result", "") == "new" or step.type in ("import", "link") for step in document.steps)
    return "add" if any(brings) else "new"
