"""Two documents, or two revisions, compared: figures, differences, and meshes of what only one of them has."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import asdict, replace
from pathlib import Path

from supplecast import kernel
from supplecast.atomic import write_atomically
from supplecast.document.coat import Coat
from supplecast.document.comparing import Compared, compare, paired_bodies, sheet_differences
from supplecast.document.keys import digest
from supplecast.document.model import Document
from supplecast.document.state import STEEL, Entry
from supplecast.document.steel_change import steel_changes
from supplecast.errors import KernelError, SuppleError
from supplecast.exchange.glb import write_glb
from supplecast.exchange.triangles import Part
from supplecast.kernel.meshing.mesh import Mesh
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding.mass import grams
from supplecast.tooling.stock import DENSITY
from supplecast.wire import options
from supplecast.wire.comparisons import ComparedFace, ComparedFigure, Comparison, OnlyInOne
from supplecast.wire.task import Task
from supplecast.wire.verbs import COMPARE
from supplecast.wording import brief
from supplecast.workers.opened import built_of, tell
from supplecast.workers.registry import does
from supplecast.workers.shown import shown


@does(COMPARE)
def compare_two(task: Task, asked: options.Compare) -> Comparison:
    """Compare the task's document with another."""
    other = replace(asked.other, progress=task.progress)
    sides = [_side(task), _side(other)]
    pairs = paired_bodies(sides[0][1], sides[1][1])
    if not pairs:
        raise SuppleError("The two have no body in common to compare.", "Choose others.")
    tell(task, 0, 0, "comparing", "")
    documents = sides[0][0], sides[1][0]
    compared = [compare(first, second, documents) for first, second in pairs]
    return Comparison(
        words=_words(compared),
        sides=[[shown(e, task, document, options.Build(), coats) for e in entries] for document, entries, coats in sides],
        figures=_figures(documents, compared),
        faces=[ComparedFace(**asdict(change), pair=n) for n, one in enumerate(compared) for change in one.faces],
        pairs=[(one.first.id, one.second.id) for one in compared],
        only=[_only(task, one) for one in compared],
        steps=sheet_differences(*documents),
        sound=all(one.sound for one in compared),
        steel=list(steel_changes(compared, sides[0][1], sides[1][1])) if sides[1][0].kind == "tool" else (),
    )


def _side(task: Task) -> tuple[Document, list[Entry], Mapping[str, Coat]]:
    document, built = built_of(task)
    entries = [entry for entry in built.state.bodies.values() if entry.is_own]
    if not entries:
        raise SuppleError(f"“{document.name}” has no body to compare.", "Choose another revision.")
    return document, entries, built.coats


def _words(compared: list[Compared]) -> list[str]:
    """What differs in a sentence; of several bodies one each by name, those that do not differ left out."""
    if len(compared) == 1:
        return [compared[0].words]
    differing = [one for one in compared if one.faces]
    return [f"{one.first.name}: {one.words}" for one in differing] or [f"All {len(compared)} bodies are the same."]


def _figures(documents: tuple[Document, Document], compared: list[Compared]) -> list[ComparedFigure]:
    """Rows of a figure, its value in both, and their difference."""
    rows: list[tuple[str, str, list[float], int]] = []
    for axis, name in enumerate(("wide", "deep", "high")):
        sizes = [max(kernel.measure.box(one.body.solid).size[axis] for one in side) for side in _both(compared)]
        rows.append((f"{name} ({'xyz'[axis]})", "mm", sizes, 5))
    firsts = [kernel.measure.mass(one.first.body.solid) for one in compared]
    # Of what is the same in both, the exact figures are worked out once.
    seconds = [
        m if one.is_same else kernel.measure.mass(one.second.body.solid) for one, m in zip(compared, firsts, strict=True)
    ]
    masses = [firsts, seconds]
    rows.append(("volume", "cm³", [sum(m.volume for m in side) / 1000 for side in masses], 6))
    rows.append(("surface", "cm²", [sum(m.area for m in side) / 100 for side in masses], 6))
    of_steel = [one.first.role in STEEL for one in compared]
    molded, steel = (
        [sum(m.volume for m, is_steel in zip(side, of_steel, strict=True) if is_steel == kind) for side in masses]
        for kind in (False, True)
    )
    densities = [document.made_of.density for document in documents]
    if all(densities) and any(molded):
        weights = [grams(volume, density) for volume, density in zip(molded, densities, strict=True) if density]
        rows.append(("mass", "g", weights, 5))
    if any(steel):
        rows.append(("steel", "kg", [volume / 1e6 * DENSITY for volume in steel], 5))
    rows.append(("faces", "", [float(sum(one.body.solid.face_count for one in side)) for side in _both(compared)], 6))
    return [ComparedFigure(name, unit, brief(a, n), brief(b, n), _signed(b - a)) for name, unit, (a, b), n in rows]


def _signed(value: float) -> str:
    return "–" if abs(value) < 5e-7 else f"{'+' if value > 0 else '−'}{brief(abs(value), 4)}"


def _both(compared: list[Compared]) -> list[list[Entry]]:
    return [[one.first for one in compared], [one.second for one in compared]]


def _only(task: Task, one: Compared) -> list[OnlyInOne]:
    """What only the first and what only the second has: its volume and a mesh of it."""
    leftovers = []
    for side, pieces in enumerate((one.only_first, one.only_second)):
        volume = sum(kernel.measure.volume(piece) for piece in pieces)
        leftovers.append(OnlyInOne(volume, _mesh(task, one, side, pieces)))
    return leftovers


def _mesh(task: Task, one: Compared, side: int, pieces: tuple[Solid, ...]) -> list[str]:
    names = []
    for number, piece in enumerate(pieces):
        name = f"{digest('only 1', one.first.key, one.second.key, f'{side}', f'{number}')}.glb"
        target = Path(task.blobs) / name
        mesh = None if target.exists() else _triangles(piece)
        if mesh is not None:
            write_atomically(target, write_glb([Part("difference", "part", mesh)]))
        if target.exists():
            names.append(name)
    return names


def _triangles(piece: Solid) -> Mesh | None:
    """A piece as triangles; finer or coarser where the kernel cannot do it as it should be, and None if it cannot at all: what
    two bodies leave of each other has slivers, and one without a picture is better than no comparison.
    """
    fine = min(max(kernel.measure.loose_box(piece).diagonal / 2000, 0.01), 0.2)
    for share in (1.0, 0.3, 3.0):
        with suppress(KernelError):
            return kernel.mesh.tessellate(piece, share * fine, 0.3)
    return None
