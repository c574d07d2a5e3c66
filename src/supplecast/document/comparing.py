"""What two shapes have in common and where they differ: figures, faces, steps, and the material that is only in one.

Faces are told to be the same by their tags where both sheets have them, else by the surface they lie on, else by being the
nearest flat that looks the same way.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from supplecast import kernel
from supplecast.document.changes import FaceChange, StepChange
from supplecast.document.fields import Row
from supplecast.document.model import Document, step_dict
from supplecast.document.state import STEEL, Entry
from supplecast.document.words import face_words
from supplecast.errors import KernelError, MissedError
from supplecast.geometry import Floats, dot, subtract
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding.judge import Skin
from supplecast.wording import show

_NEAR = 1e-4  # mm: less is no move
_SAME = 1e-6  # share of an area


@dataclass(frozen=True)
class Compared:
    """Two bodies compared: their faces' changes, those that say most first, and the pieces that only one of them has."""

    first: Entry
    second: Entry
    faces: tuple[FaceChange, ...]
    only_first: tuple[Solid, ...]
    only_second: tuple[Solid, ...]
    sound: bool

    @property
    def is_same(self) -> bool:
        """Whether nothing was found that one has and the other has not."""
        return not (self.faces or self.only_first or self.only_second) and self.sound

    @property
    def words(self) -> str:
        """The difference in a sentence."""
        moved = [change for change in self.faces if change.kind == "moved"]
        walls = [change for change in moved if change.walls and abs(change.walls[1] - change.walls[0]) > _NEAR]
        if walls:
            change = max(walls, key=lambda c: abs(c.walls[1] - c.walls[0]) if c.walls else 0.0)
            assert change.walls is not None
            by = change.walls[1] - change.walls[0]
            return (
                f"The second is {'thicker' if by > 0 else 'thinner'} at {change.words} by {show(abs(by), 3)} mm: "
                f"{show(change.walls[1], 3)} instead of {show(change.walls[0], 3)}."
            )
        if moved:
            change = moved[0]
            return f"In the second {change.words} stands {show(abs(change.by or 0.0), 3)} mm {_direction(change.by or 0.0)}."
        if self.faces:
            counts = {kind: sum(c.kind == kind for c in self.faces) for kind in ("added", "lost", "resized")}
            return "Faces " + ", ".join(f"{kind}: {count}" for kind, count in counts.items() if count) + "."
        return "The two are the same."


def _direction(by: float) -> str:
    return "further out" if by > 0 else "further in"


def compare(first: Entry, second: Entry, steps: tuple[Document, Document]) -> Compared:
    """Compare two bodies, each told by its own document."""
    a, b = first.body.solid, second.body.solid
    if first.key == second.key or _is_same(a, b):
        return Compared(first, second, (), (), (), True)
    only_first, only_second = _less(a, b), _less(b, a)
    lost, gained = (sum(kernel.measure.volume(s) for s in pieces) for pieces in (only_first, only_second))
    change = kernel.measure.volume(b) - kernel.measure.volume(a)
    sound = abs((gained - lost) - change) <= 1e-6 * kernel.measure.volume(a)
    return Compared(first, second, tuple(_faces(first, second, steps)), only_first, only_second, sound)


def _is_same(a: Solid, b: Solid) -> bool:
    """Whether two bodies are one shape in one place: made anew they often are, and the rest of comparing them takes seconds."""
    corners = kernel.measure.corners(a), kernel.measure.corners(b)
    if a.face_count != b.face_count or not _close(*corners):
        return False
    # Rough areas do: of one shape made twice they are the same to rounding.
    first, second = (np.array([kernel.measure.rough_face(s, face)[0] for face in range(s.face_count)]) for s in (a, b))
    return _close(first, second)


def _close(a: Floats, b: Floats) -> bool:
    return a.shape == b.shape and bool((np.abs(a - b) <= _SAME * np.maximum(1.0, np.abs(b))).all())


def _less(a: Solid, b: Solid) -> tuple[Solid, ...]:
    try:
        return tuple(made.solid for made in kernel.boolean.cut(a, [b], pieces=None))
    except MissedError:
        return (a,)
    except KernelError:  # nothing of it is left
        return ()


def _faces(first: Entry, second: Entry, steps: tuple[Document, Document]) -> list[FaceChange]:
    a, b = first.body.solid, second.body.solid
    pairs = dict(_paired(first, second))
    skins = Skin(a), Skin(b)
    changes = []
    for here, there in pairs.items():
        by = _moved(a, here, b, there)
        words = face_words(first.body.tags[here][0], steps[0].steps)
        if by is not None and abs(by) > _NEAR:
            # A wall says something of what is molded; of steel it would only take its seconds.
            walls = [] if first.role in STEEL else [_wall_at(skin, f) for skin, f in zip(skins, (here, there), strict=True)]
            both = (walls[0], walls[1]) if walls and walls[0] and walls[1] else None
            changes.append(FaceChange("moved", words, here, there, by, both))
            continue
        if _is_resized(a, here, b, there):
            changes.append(FaceChange("resized", words, here, there))
    for face in set(range(a.face_count)) - set(pairs):
        changes.append(FaceChange("lost", face_words(first.body.tags[face][0], steps[0].steps), face, None))
    for face in set(range(b.face_count)) - set(pairs.values()):
        changes.append(FaceChange("added", face_words(second.body.tags[face][0], steps[1].steps), None, face))
    order = {"moved": 0, "added": 1, "lost": 2, "resized": 3}
    return sorted(changes, key=lambda change: (order[change.kind], -abs(change.by or 0.0), change.words))


def _is_resized(a: Solid, here: int, b: Solid, there: int) -> bool:
    """Whether a face has another area; the exact ones are worked out only where the rough ones differ."""
    pair = (a, here), (b, there)
    for area in (lambda solid, face: kernel.measure.rough_face(solid, face)[0], kernel.measure.face_area):
        first, second = (area(*one) for one in pair)
        if abs(second - first) <= _SAME * max(first, second):
            return False
    return True


def _paired(first: Entry, second: Entry) -> Iterator[tuple[int, int]]:
    """Which face of the one is which of the other, each at most once."""
    a, b = first.body.solid, second.body.solid
    free_a, free_b = set(range(a.face_count)), set(range(b.face_count))

    def taken(here: int, there: int) -> tuple[int, int]:
        free_a.discard(here)
        free_b.discard(there)
        return here, there

    for tag, faces in first.body.faces_by_tag.items():
        others = second.body.faces_by_tag.get(tag, ())
        if len(faces) == len(others) == 1 and faces[0] in free_a and others[0] in free_b and _alike(a, faces[0], b, others[0]):
            yield taken(faces[0], others[0])
    keys: dict[Any, list[int]] = {}
    for face in sorted(free_b):
        keys.setdefault((kernel.measure.surface_key(b, face), _sense(b, face)), []).append(face)
    for face in sorted(free_a):
        key = kernel.measure.surface_key(a, face)
        others_of = keys.get((key, _sense(a, face)), []) if key is not None else []
        if others_of:
            spot = kernel.measure.face_middle(a, face)
            other = min(others_of, key=lambda one: math.dist(spot, kernel.measure.face_middle(b, one)))
            others_of.remove(other)
            yield taken(face, other)
    yield from _nearest(a, free_a, b, free_b)


def _alike(a: Solid, here: int, b: Solid, there: int) -> bool:
    """Whether two faces of the same name can be the same: equal kinds of surface that look the same way."""
    if kernel.measure.surface_word(a, here) != kernel.measure.surface_word(b, there):
        return False
    if not kernel.measure.is_flat(a, here):
        return True
    return dot(kernel.measure.flat_frame(a, here).normal, kernel.measure.flat_frame(b, there).normal) > 0.99


def _sense(solid: Solid, face: int) -> tuple[float, ...]:
    if not kernel.measure.is_flat(solid, face):
        return ()
    return tuple(round(c, 5) + 0.0 for c in kernel.measure.flat_frame(solid, face).normal)


def _nearest(a: Solid, free_a: set[int], b: Solid, free_b: set[int]) -> Iterator[tuple[int, int]]:
    """Flats left over that look the same way and are about as large, the nearest ones first."""
    reach = 0.1 * kernel.measure.loose_box(a).diagonal
    pairs = []
    for here in free_a:
        for there in free_b:
            if _sense(a, here) and _sense(a, here) == _sense(b, there):
                away = math.dist(kernel.measure.face_middle(a, here), kernel.measure.face_middle(b, there))
                share = kernel.measure.rough_face(a, here)[0] / kernel.measure.rough_face(b, there)[0]
                if away < reach and 0.5 < share < 2:
                    pairs.append((away, here, there))
    used_a, used_b = set[int](), set[int]()
    for _, here, there in sorted(pairs):
        if here not in used_a and there not in used_b:
            used_a.add(here)
            used_b.add(there)
            yield here, there
    free_a -= used_a
    free_b -= used_b


def _moved(a: Solid, here: int, b: Solid, there: int) -> float | None:
    """How far a face stands further out of its material, mm; None where that has no single answer."""
    if kernel.measure.is_flat(a, here) and kernel.measure.is_flat(b, there):
        one, other = kernel.measure.flat_frame(a, here), kernel.measure.flat_frame(b, there)
        return one.over(other.origin) if dot(one.normal, other.normal) > 1 - 1e-9 else None
    keys = kernel.measure.surface_key(a, here), kernel.measure.surface_key(b, there)
    if keys[0] is None or keys[1] is None or kernel.measure.surface_word(a, here) != "round":
        return None
    if keys[0][:-1] != keys[1][:-1]:
        return None
    grown = float(keys[1][-1]) - float(keys[0][-1])  # type: ignore[arg-type]
    spot = kernel.measure.point_inside(a, here)
    if spot is None:
        return None
    from_axis = subtract(spot, kernel.datums.face_axis(a, here).nearest(spot))
    out = dot(kernel.datums.normal_at(a, here, spot)[1], from_axis)
    return grown if out > 0 else -grown


def _wall_at(skin: Skin, face: int) -> float | None:
    walls = skin.walls
    mine = (skin.places.faces == face) & ~walls.rim
    return float(np.median(walls.balls[mine])) if mine.any() else None


def sheet_differences(first: Document, second: Document) -> list[StepChange]:
    """Steps, named values and figures of the document that differ: what of which, before and after."""
    changes: list[StepChange] = []
    for name in dict.fromkeys((*first.values, *second.values)):
        held = first.values.get(name), second.values.get(name)
        if held[0] != held[1]:
            changes.append(StepChange("", f"named value {name}", *held))
    if first.resin != second.resin:
        changes.append(StepChange("", "resin", first.resin, second.resin))
    steps = {step.id: step for step in second.steps}
    numbers = {step.id: number for number, step in enumerate(first.steps, 1)}
    for step in first.steps:
        label = f"step {numbers[step.id]}, {step.label}"
        other = steps.pop(step.id, None)
        if other is None:
            changes.append(StepChange(step.id, label, "is there", None))
            continue
        here, there = step_dict(step), step_dict(other)
        for field in dict.fromkeys((*here, *there)):
            if here.get(field) != there.get(field):
                what = f"{label}: {field.replace('_', ' ')}"
                changes.append(StepChange(step.id, what, _plain(step, field), _plain(other, field)))
    for number, step in enumerate(second.steps, 1):
        if step.id in steps:
            changes.append(StepChange(step.id, f"step {number}, {step.label}", None, "is there"))
    return changes


def _plain(step: Any, field: str) -> str:
    value = getattr(step, field, None)
    if isinstance(value, (str, int, float, bool)):
        return str(value)
    if isinstance(value, tuple) and all(isinstance(row, Row) for row in value):
        sizes = [str(size) for row in value for size in row.model_dump().values() if isinstance(size, str)]
        return ", ".join(sizes) or "none"
    return "other picks or drawing"


def paired_bodies(first: Sequence[Entry], second: Sequence[Entry]) -> list[tuple[Entry, Entry]]:
    """Bodies to be compared with each other: of the same id, else of the same name, else the only ones."""
    pairs, left = [], list(second)
    for entry in first:
        same = next((o for o in left if o.id == entry.id), None) or next((o for o in left if o.name == entry.name), None)
        if same is None and len(first) == len(second) == 1:
            same = left[0]
        if same is not None:
            left.remove(same)
            pairs.append((entry, same))
    return pairs
