"""Union, subtraction and intersection of solids, with the checks the kernel leaves out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse, BRepAlgoAPI_Splitter

from supplecast.errors import KernelError, MissedError
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes import lineage
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin
from supplecast.kernel.shapes.shape import Solid, listed, solids_in
from supplecast.kernel.shapes.soundness import checked

_ROUGH = 1e-3


def _run(maker: Any, target: Solid, tools: Sequence[Any], doing: str, simplify: bool = False) -> Any:
    maker.SetArguments(listed([target.shape]))
    maker.SetTools(listed(tools))
    # Inputs may have a tolerance widened in place; in return untouched faces stay the same ones, and so do their integrals.
    maker.SetNonDestructive(False)
    maker.SetCheckInverted(False)  # inputs are solids that passed the check
    maker.SetUseOBB(True)  # tighter boxes tell sooner what cannot meet: up to twice as fast on bosses and holes
    maker.Build()
    if not maker.IsDone():
        raise KernelError(f"{doing.capitalize()} could not be computed.", "Move one body a little, or simplify it.")
    if simplify:
        maker.SimplifyResult(True, True, 1e-9)
    return maker


def _shapes(solids: Sequence[Solid]) -> list[Any]:
    return [solid.shape for solid in solids]


def _with_history(maker: Any, inputs: Sequence[Solid], results: list[Solid]) -> list[Made]:
    ledger = Ledger(results)
    ledger.kept(inputs, maker.Modified)
    return ledger.made()


def fuse(target: Solid, tools: Sequence[Solid], *, simplify: bool = True) -> Made:
    """One body of all, flush faces merged. Raises KernelError if they do not all join."""
    maker = _run(BRepAlgoAPI_Fuse(), target, _shapes(tools), "the union", simplify)
    solids = checked(maker.Shape(), "the union", expect=None)
    if len(solids) != 1:
        apart = _apart(_with_history(maker, [target, *tools], solids))
        raise KernelError(
            f"The bodies do not join: the union would leave {len(solids)} separate pieces.",
            "Let them overlap, or touch along a whole face.",
            bodies=apart,
        )
    result = _with_history(maker, [target, *tools], solids)[0]
    parts = [measure.handy_volume(s) for s in (target, *tools)]
    total = measure.handy_volume(result.solid)
    if not max(parts) * (1 - _ROUGH) <= total <= sum(parts) * (1 + _ROUGH):
        raise KernelError("The union came out wrong: its volume does not fit its parts.", "Move one body a little.")
    return result


def _apart(pieces: Sequence[Made]) -> tuple[int, ...]:
    """Which inputs lie in a piece without the first one."""
    joined: set[int] = set()
    for piece in pieces:
        inputs = {s.body for row in piece.origins for o in row for s in o.sources if isinstance(s, FaceOf)}
        if 0 not in inputs:
            joined |= inputs
    return tuple(sorted(joined))


def cut(target: Solid, tools: Sequence[Solid], *, pieces: int | None = 1) -> list[Made]:
    """`target` less all `tools`, which are subtracted together.

    Raises KernelError if nothing is removed, if nothing is left, or if the number of pieces left is not `pieces`.
    """
    maker = _run(BRepAlgoAPI_Cut(), target, _shapes(tools), "the cut")
    solids = checked(maker.Shape(), "the cut", expect=None)
    results = _with_history(maker, [target, *tools], solids)
    if solids and not any(_cut_open(row) for made in results for row in made.origins):
        raise MissedError("The cut misses: nothing is removed.", "Move it onto the body, or turn it round.")
    before = measure.handy_volume(target)
    removed = before - sum(measure.handy_volume(s) for s in solids)
    if removed > sum(measure.handy_volume(t) for t in tools) + before * _ROUGH:
        raise KernelError("The cut came out wrong: it removed more than its tool.", "Move the tool a little.")
    for solid in solids:
        lineage.note_cut(solid, target)
    if pieces is not None and len(solids) != pieces:
        raise KernelError(f"The cut leaves {len(solids)} separate pieces.", "Make it shallower or smaller.")
    return results


def _cut_open(row: Sequence[Origin]) -> bool:
    """Whether a face is a tool's alone, and so lies where the target was whole."""
    return all(isinstance(o.sources[0], FaceOf) and o.sources[0].body > 0 for o in row)


def shared(target: Solid, tools: Sequence[Solid]) -> list[Made]:
    """What `target` shares with any of `tools`. KernelError if that is nothing, or all of it."""
    overlap = common(target, tools)
    if not overlap:
        raise KernelError("They share nothing: nothing would be left.", "Let them overlap.")
    left = sum(measure.handy_volume(made.solid) for made in overlap)
    whole = measure.handy_volume(target)
    if left > whole * (1 + _ROUGH):
        raise KernelError("The intersection came out wrong: it is larger than the body.", "Move one body a little.")
    return overlap


def common(target: Solid, tools: Sequence[Solid]) -> list[Made]:
    """What `target` shares with `tools`: any number of pieces, none where they only touch."""
    maker = _run(BRepAlgoAPI_Common(), target, _shapes(tools), "the intersection")
    if not solids_in(maker.Shape()):
        return []
    return _with_history(maker, [target, *tools], checked(maker.Shape(), "the intersection", expect=None))


def parted(target: Solid, sheets: Sequence[Any]) -> Any:
    """The kernel's splitter, run: `target` cut along faces or shells of the kernel. The caller reads and checks the pieces."""
    return _run(BRepAlgoAPI_Splitter(), target, sheets, "the split")
