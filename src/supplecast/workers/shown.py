"""Bodies as the view shows them: their measures, and their meshes in the blob directory."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from supplecast import kernel
from supplecast.atomic import write_atomically
from supplecast.document.coat import Coat
from supplecast.document.keys import digest
from supplecast.document.model import Document, Look
from supplecast.document.state import STEEL, Entry
from supplecast.exchange.glb import write_glb
from supplecast.exchange.triangles import Part
from supplecast.geometry import Box, Mass, dot
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.molding import opening
from supplecast.molding.mass import grams
from supplecast.naming import Body
from supplecast.store import shelf
from supplecast.wire.bodies import ShownBody
from supplecast.wire.options import Build
from supplecast.wire.task import Task
from supplecast.workers.dressed import dressed
from supplecast.workers.opened import tell

_CREASE = math.cos(math.radians(30))


def shown(
    entry: Entry, task: Task, document: Document, asked: Build, coats: Mapping[str, Coat], *, stale: bool = False
) -> ShownBody:
    """A body with its measures, as exact as `asked`, its mesh, and what its faces wear by `coats`."""
    box, mass = _measured(entry, task, asked)
    mesh = _mesh(entry, task)
    whole, areas, prints = dressed(entry, mesh, document, coats, task)
    return ShownBody(
        id=entry.id,
        name=entry.name,
        role=entry.role,
        solid=entry.is_solid,
        mesh=mesh,
        volume=mass.volume,
        area=mass.area,
        mass=grams(mass.volume, document.made_of.density) if document.made_of.density and entry.role != "neighbour" else None,
        low=box.low,
        high=box.high,
        faces=entry.body.solid.face_count,
        pull=document.pull if document.kind == "part" else entry.pull,
        stale=stale,
        look=document.looks.get(entry.id, Look()),
        group=entry.group,
        finish=whole,
        areas=areas,
        prints=prints,
    )


def _measured(entry: Entry, task: Task, asked: Build) -> tuple[Box, Mass]:
    """Box and mass, exact unless finding them is known to take too long.

    While a number is being typed the shape counts; the last digits follow when it is kept, of steel when it is handed off.
    """
    solid = entry.body.solid
    if f"measure {entry.id}" in task.stuck:
        return kernel.measure.loose_box(solid), kernel.measure.rough_mass(solid)
    if not (kernel.measure.MASS.known(solid) and kernel.measure.BOX.known(solid)):
        tell(task, 0, 0, f"measuring {entry.name}", f"measure {entry.id}")
    if asked.preview:
        return kernel.measure.box(solid), kernel.measure.rough_mass(solid)
    if entry.role in (*STEEL, "shot") and not asked.exact:  # nobody weighs it before it is handed off
        return kernel.measure.corner_box(solid), kernel.measure.rough_mass(solid)
    mass = kernel.measure.mass(solid)
    shelf.keep_mass(entry, Path(task.blobs))
    return kernel.measure.box(solid), mass


def _mesh(entry: Entry, task: Task) -> str | None:
    """Name of the body's GLB in the blob directory, made now unless it is there; None if drawing it is known to hang."""
    if f"draw {entry.id}" in task.stuck:
        return None
    deflection = _deflection(entry)
    name = mesh_name(entry)
    target = Path(task.blobs) / name
    if not target.exists():
        tell(task, 0, 0, f"drawing {entry.name}", f"draw {entry.id}")
        mesh = _quiet(_triangles(entry, deflection), entry.body)
        write_atomically(target, write_glb([Part(entry.name, entry.role, mesh)]))
    return name


def _triangles(entry: Entry, deflection: float) -> kernel.mesh.Mesh:
    """Of steel those that the opening check has looked at."""
    if entry.role not in STEEL or isinstance(entry.body.solid, MeshBody):
        return kernel.mesh.tessellate(entry.body.solid, deflection, 0.25)
    held = opening.meshed(entry.body.solid).mesh
    return replace(held, edges=kernel.mesh.polylines(entry.body.solid, deflection, opening.ANGLE))


def _quiet(mesh: kernel.mesh.Mesh, body: Body) -> kernel.mesh.Mesh:
    """Without the lines between flats that stand for one curved face, as those of a gap by triangles do."""
    solid, between = body.solid, []
    for index, faces in enumerate(solid.faces_at_edges):
        if len(faces) == 2 and body.tags[faces[0]][0] == body.tags[faces[1]][0] and ".clear{" in body.tags[faces[0]][0]:
            between.append((index, faces))
    lines = list(mesh.edges)
    for index, faces in between:
        if all(kernel.measure.is_flat(solid, face) for face in faces):
            a, b = (kernel.measure.flat_frame(solid, face).normal for face in faces)
            if dot(a, b) > _CREASE:
                lines[index] = lines[index][:0]
    return replace(mesh, edges=tuple(lines))


def _deflection(entry: Entry) -> float:
    if entry.role in STEEL:
        return opening.FINE
    return min(max(kernel.measure.box(entry.body.solid).diagonal / 3000, 0.01), 0.2)


def mesh_name(entry: Entry) -> str:
    """Names the body, the fineness and the order of its faces: the kernel may number them otherwise in another process."""
    order = "\x1e".join("\x1f".join(tags) for tags in entry.body.tags)
    return f"{digest(entry.key, entry.role, f'{_deflection(entry):.6f}', order, 'mesh 2')}.glb"
