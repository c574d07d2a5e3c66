"""Files written and read: bodies handed off, pictures drawn, imported files looked into."""

from __future__ import annotations

import secrets
from dataclasses import replace
from pathlib import Path

from supplecast import kernel
from supplecast.art import picture as pictures
from supplecast.atomic import write_atomically
from supplecast.document.exploding import drawn_apart
from supplecast.document.model import Document, Look
from supplecast.document.rebuild import Built
from supplecast.document.stroke import Stroke
from supplecast.errors import KernelError, SuppleError
from supplecast.exchange import handoff, outlines
from supplecast.exchange.formats import Tolerance
from supplecast.exchange.picture import Shot, draw, encoded, render, turning
from supplecast.sketch.acts.take import as_taken
from supplecast.sketch.belongings import Photo
from supplecast.steps.tool.sides import assembly
from supplecast.steps.tool.stroke import stroke_of
from supplecast.wire import options
from supplecast.wire.results import FileBodies, OutlineCurves, Picture, PictureFacts, WrittenFile
from supplecast.wire.task import Task
from supplecast.wire.verbs import CHECK_FILE, CHECK_PICTURE, EXPORT, PICTURE, READ_OUTLINE, SHOOT, TRACE_PHOTO
from supplecast.wording import brief
from supplecast.workers.dressed import wardrobe_of
from supplecast.workers.opened import built_of, tell
from supplecast.workers.registry import does

_FRAMES = 12  # pictures of a film in a second


@does(EXPORT)
def export(task: Task, asked: options.Export) -> WrittenFile:
    """Write the chosen bodies to one file in the blob directory."""
    document, built = built_of(task)
    bodies = built.state.bodies.values()
    entries = [entry for entry in bodies if asked.bodies is None or entry.id in asked.bodies]
    tolerance = Tolerance(asked.tolerance)
    if not built.ok:
        bad = next(o for o in built.outcomes if o.status not in ("ok", "skipped"))
        raise SuppleError(f"The document does not build yet: {bad.message}", "Mend that step, then hand off.")
    based = any(entry.stock for entry in entries)
    if based:  # a tool with its base is handed off by sides
        entries = [replace(entry, group=assembly(entry)) for entry in entries]
    if document.kind == "assembly" or based:  # one product of the document's name that holds the others
        entries = [replace(entry, group=(document.name, *entry.group)) for entry in entries]
    content = handoff.write(entries, asked.format, tolerance, wardrobe_of(task, document, built.coats))
    entries = handoff.writable(entries, asked.format)
    whole = len(entries) == len(handoff.writable(bodies, asked.format))
    label = entries[0].name if len(entries) == 1 else "all bodies" if whole else f"{len(entries)} bodies"
    return written(task, content, asked.format, handoff.file_name(document.name, label, extension=asked.format))


def written(task: Task, content: bytes, extension: str, name: str) -> WrittenFile:
    """A file kept in the blob directory under a name of its own, to be offered by another."""
    blob = f"{secrets.token_hex(12)}.{extension}"
    write_atomically(Path(task.blobs, blob), content)
    return WrittenFile(blob, name, len(content))


@does(PICTURE)
def picture(task: Task, asked: options.Draw) -> Picture:
    """A small picture of the document's bodies in the blob directory; a tool is drawn open."""
    document, built = built_of(task)
    everything = list(built.state.bodies.values())
    stroke = (stroke_of(everything) if document.kind == "tool" else None) or Stroke((), {})
    entries = [e for e in everything if e.role not in ("neighbour", "surface") and e.id not in stroke.aside] or everything
    if not entries:
        return Picture(None)
    target = Path(task.blobs) / asked.name
    if not target.exists():
        parts, wardrobe = [], wardrobe_of(task, document, built.coats)
        for entry in entries:
            fine = min(0.15, kernel.measure.loose_box(entry.body.solid).diagonal / 800)
            mesh = kernel.mesh.tessellate(entry.body.solid, fine, 0.25)
            parts.append(wardrobe.part(entry, mesh).moved(stroke.off(entry.id)))
        write_atomically(target, draw(parts, up=stroke.up or (0.0, 0.0, 1.0)))
    return Picture(asked.name)


@does(SHOOT)
def shoot(task: Task, asked: options.Shoot) -> WrittenFile:
    """A picture of the document's bodies in what they wear, or a film of it turning, as a file to take away."""
    document, built = built_of(task)
    stroke = _stroke_of(document, built)
    shown = [e for e in built.state.bodies.values() if e.role != "neighbour" and not document.looks.get(e.id, Look()).hidden]
    shown = [e for e in shown if e.id not in stroke.aside]
    if not shown:
        raise SuppleError("There is no body yet to take a picture of.", "Build one first.")
    tell(task, 0, 0, "drawing", "")
    wardrobe, fine = wardrobe_of(task, document, built.coats), max(asked.width, asked.height)
    parts = []
    for entry in shown:
        deflection = min(max(kernel.measure.loose_box(entry.body.solid).diagonal / (2 * fine), 0.004), 0.2)
        mesh = kernel.mesh.tessellate(entry.body.solid, deflection, 0.15)
        parts.append(wardrobe.part(entry, mesh).moved(stroke.off(entry.id, asked.apart)))
    up = stroke.up or (0.0, 0.0, 1.0)
    shot = Shot(asked.width, asked.height, asked.yaw, asked.pitch, up, asked.background, asked.see_through)
    if asked.film == "png":
        content = encoded(render(parts, shot))
    else:
        count = round(asked.seconds * _FRAMES)

        def told(number: int) -> None:
            tell(task, number, count, "picture of the film", "")

        content = turning(parts, shot, count, asked.film, asked.seconds, told)
    return written(task, content, asked.film, handoff.file_name(document.name, "picture", extension=asked.film))


def _stroke_of(document: Document, built: Built) -> Stroke:
    everything = list(built.state.bodies.values())
    if document.kind == "assembly":
        boxes = {entry.id: kernel.measure.loose_box(entry.body.solid) for entry in everything}
        return drawn_apart(boxes) or Stroke((), {})
    return (stroke_of(everything) if document.kind == "tool" else None) or Stroke((), {})


@does(CHECK_FILE)
def check_file(task: Task, asked: options.ReadFile) -> FileBodies:
    """Read an imported file, to refuse it before it enters the document, and tell how it is best taken: triangles that flats
    and rounds explain as a solid of those, others as a mesh.
    """
    content = Path(asked.path).read_bytes()
    if not kernel.facets.kind_of(content):
        return FileBodies([one.name for one in kernel.step_files.read_bodies(content)], "as filed")
    meshes = kernel.facets.read_meshes(content)
    mended = [kernel.mending.mended(one.points, one.triangles) for one in meshes]
    try:
        for one in mended:
            kernel.explained.as_solid(kernel.regions.as_body(one.points, one.triangles, one.tight))
        taken = "healed"
    except KernelError:
        taken = "as mesh"
    return FileBodies([one.name for one in meshes], taken)


@does(CHECK_PICTURE)
def check_picture(task: Task, asked: options.ReadFile) -> PictureFacts:
    """Read a picture and draw it once, so that a broken one is refused before it enters a document."""
    content = Path(asked.path).read_bytes()
    facts = pictures.read(content)
    pictures.pixels(content)
    return PictureFacts(facts.kind, facts.width, facts.height)


@does(TRACE_PHOTO)
def trace_photo(task: Task, asked: options.TracePhoto) -> OutlineCurves:
    """A first guess of the outline in a photo."""
    from supplecast.exchange import tracing  # what finds edges in pictures would add half a second to every worker's start

    traced = tracing.trace(Path(asked.path).read_bytes(), Photo.model_validate(dict(asked.photo)))
    return OutlineCurves(
        [as_taken(curve) for curve in traced.curves], [f"within {brief(traced.off)} mm of the photo's edges"], traced.off
    )


@does(READ_OUTLINE)
def read_outline(task: Task, asked: options.ReadFile) -> OutlineCurves:
    """The curves of a DXF or SVG file."""
    return OutlineCurves(*outlines.read_outline(Path(asked.path).read_bytes()))
