"""The drawing tools: each turns clicks and typed sizes into geometry. A new tool is one module here."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from supplecast.errors import SketchError
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick

Sizes = Mapping[str, str]
Lay = Callable[[Pen, Sequence[Pick], Sizes], dict[str, float]]


@dataclass(frozen=True)
class Tool:
    """A drawing tool: `clicks` says what each click is for, `sizes` what can be typed, `lay` draws and measures them. `asked`
    is the click, from 0, that each size may stand for: the last unless given. What is in `aimed` is left to the pointer.

    `lay` gives the sizes as they lie (mm, rad, or a count). With `more`, further clicks like the last one may follow.
    """

    name: str
    family: str
    clicks: tuple[str, ...]
    sizes: tuple[str, ...]
    lay: Lay
    more: bool = False
    order: int = 0
    asked: tuple[int, ...] = ()
    aimed: tuple[str, ...] = ()

    @property
    def asks(self) -> tuple[int, ...]:
        return self.asked or (len(self.clicks) - 1,) * len(self.sizes)

    def too_many(self, picks: Sequence[Pick]) -> bool:
        return len(picks) > len(self.clicks) and not self.more

    def miscounted(self) -> SketchError:
        return SketchError(
            f"{self.name.capitalize()} takes {len(self.clicks)} clicks.", f"Click {', then '.join(self.clicks)}."
        )


_tools: dict[str, Tool] = {}


def tools() -> dict[str, Tool]:
    """Every drawing tool by name, in the order of the belt."""
    if not _tools:
        known = []
        for module in pkgutil.iter_modules(__path__):
            known += importlib.import_module(f"{__name__}.{module.name}").TOOLS
        _tools.update((tool.name, tool) for tool in sorted(known, key=lambda tool: tool.order))
    return _tools


def lay(pen: Pen, name: str, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    """Draw with a tool. SketchError for an unknown tool, too few clicks or sizes that make nothing."""
    tool = tools().get(name)
    if tool is None:
        raise SketchError(f"There is no tool “{name}”.", f"Known: {', '.join(tools())}.")
    if len(picks) < len(tool.clicks) or tool.too_many(picks):
        raise tool.miscounted()
    typed = {label: text for label, text in sizes.items() if text.strip()}
    unknown = set(typed) - set(tool.sizes)
    if unknown:
        raise SketchError(f"{name.capitalize()} has no {min(unknown)}.", f"It has {', '.join(tool.sizes) or 'no sizes'}.")
    return tool.lay(pen, [pick.placed(pen.scope) for pick in picks], typed)
