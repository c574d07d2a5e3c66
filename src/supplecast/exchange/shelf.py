"""What a rebuild remembers, put on disk: a worker that starts anew takes its shapes from there instead of making them.

For each document one JSON file lists the latest good trace of every step; the shapes lie beside it, named by what made
them. All of it can be thrown away: whatever is missing or damaged is built again.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from supplecast import kernel
from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Region, Spline2
from supplecast.document.builder import digest
from supplecast.document.rebuild import Built, Memory, Trace
from supplecast.document.state import Datum, Delta, Effect, Entry, Flag, Outcome, Reading, Repair, SketchEntry
from supplecast.errors import SketchError
from supplecast.exchange.whole import write_whole
from supplecast.geometry import Frame, Point2, vec
from supplecast.naming import Body

_VERSION = 3
_CURVES: dict[str, Any] = {kind.__name__: kind for kind in (Line2, Arc2, Circle2, Ellipse2, Spline2)}


def memory_name(document: str) -> str:
    return f"{digest('memory', document)}.memory"


def keep(built: Built, document: str, blobs: Path) -> int:
    """Put the traces that a build used on the shelf; returns how many shapes were written anew."""
    target = blobs / memory_name(document)
    rows, written = {}, 0
    for outcome in built.outcomes:
        trace = built.traces.get(outcome.step)
        if trace is None or outcome.status != "ok":
            continue
        for entry in trace.delta.bodies:
            place = blobs / _shape_name(entry.body, entry.key)
            if not place.exists():
                write_whole(place, _sealed(kernel.blob.packed(entry.body.solid)))
                written += 1
        effect = trace.delta.effect
        if effect is not None and not (place := blobs / _tools_name(effect)).exists():
            write_whole(place, _sealed(kernel.blob.bundled([tool.solid for tool in effect.tools])))
            written += 1
        rows[outcome.step] = _told(trace)
    text = json.dumps({"version": _VERSION, "steps": rows}, separators=(",", ":"))
    write_whole(target, _sealed(text.encode()))
    return written


def recall(document: str, blobs: Path) -> Memory:
    """What was remembered of a document; empty if nothing sound is there."""
    memory = Memory()
    for step, row in rows_of(blobs / memory_name(document)).items():
        try:
            trace = _read(row, blobs)
        except (LookupError, TypeError, ValueError):
            continue
        memory.keep(step, trace)
    return memory


def rows_of(path: Path) -> Mapping[str, Any]:
    """The traces in a memory file, still as JSON; none if it is damaged or of another version."""
    content = opened(path)
    data = json.loads(content) if content else {}
    return dict(data["steps"]) if data.get("version") == _VERSION else {}


def shapes_of(rows: Mapping[str, Any]) -> set[str]:
    """Names of the shape files that traces speak of."""
    deltas = [row["delta"] for row in rows.values()]
    tools = {delta["effect"]["shapes"] for delta in deltas if delta["effect"]}
    return tools | {body["shape"] for delta in deltas for body in delta["bodies"]}


def opened(path: Path) -> bytes | None:
    """What a sealed file holds; None if it is missing, cut short or damaged."""
    try:
        content = path.read_bytes()
    except OSError:
        return None
    seal, inside = content[:32], content[32:]
    return inside if hashlib.sha256(inside).digest() == seal else None


def _sealed(content: bytes) -> bytes:
    return hashlib.sha256(content).digest() + content


def keep_mass(entry: Entry, blobs: Path) -> None:
    """Put a body's exact mass on the shelf: whoever takes the body from there need not integrate it again."""
    known = kernel.measure.known_mass(entry.body.solid)
    place = blobs / _mass_name(entry)
    if known is not None and not place.exists():
        write_whole(place, _sealed(json.dumps(asdict(known)).encode()))


def recall_mass(entry: Entry, blobs: Path) -> None:
    """Let a body know its exact mass, if the shelf does."""
    content = opened(blobs / _mass_name(entry))
    if content is not None and kernel.measure.known_mass(entry.body.solid) is None:
        held = json.loads(content)
        kernel.measure.remember(entry.body.solid, kernel.measure.Mass(held["volume"], held["area"], vec(held["centroid"])))


def _mass_name(entry: Entry) -> str:
    return f"{digest('mass 1', entry.key)}.mass"


def _shape_name(body: Body, key: str) -> str:
    """Faces may be numbered otherwise in another process, so their order is part of the name."""
    order = "\x1e".join("\x1f".join(tags) for tags in body.tags)
    return f"{digest(key, order, 'shape 1')}.shape"


# --- to JSON --------------------------------------------------------------------------------------------------------


def _told(trace: Trace) -> dict[str, Any]:
    outcome = asdict(trace.outcome)
    return {
        "key": trace.step_key,
        "reads": trace.reads,
        "targets": trace.targets,
        "outcome": outcome,
        "delta": {
            "bodies": [_body(entry) for entry in trace.delta.bodies],
            "gone": trace.delta.gone,
            "sketches": [_sketch(entry) for entry in trace.delta.sketches],
            "datums": [asdict(datum) for datum in trace.delta.datums],
            "effect": _effect(trace.delta.effect),
        },
    }


def _body(entry: Entry) -> dict[str, Any]:
    known = entry.body.solid.__dict__
    mass, box = known.get("_mass"), known.get("_box")
    return {
        "id": entry.id,
        "name": entry.name,
        "role": entry.role,
        "key": entry.key,
        "pull": entry.pull,
        "tags": entry.body.tags,
        "shape": _shape_name(entry.body, entry.key),
        "mass": [mass.volume, mass.area, mass.centroid] if mass else None,
        "box": [box.low, box.high] if box else None,
    }


def _effect(effect: Effect | None) -> dict[str, Any] | None:
    if effect is None:
        return None
    told = {"target": effect.target, "how": effect.how, "key": effect.key, "bores": effect.bores}
    return {**told, "tags": [tool.tags for tool in effect.tools], "shapes": _tools_name(effect)}


def _tools_name(effect: Effect) -> str:
    order = "\x1d".join("\x1e".join("\x1f".join(tags) for tags in tool.tags) for tool in effect.tools)
    return f"{digest(effect.key, order, 'tools 1')}.shape"


def _sketch(entry: SketchEntry) -> dict[str, Any]:
    return {
        "id": entry.id,
        "name": entry.name,
        "frame": asdict(entry.frame),
        "regions": [_region(region) for region in entry.regions],
        "filled": sorted(entry.filled),
        "taken": dict(entry.taken),
        "guides": _curves(entry.guides),
        "marks": dict(entry.marks),
        "curves": _curves(entry.curves),
        "freedoms": entry.freedoms,
        "lineage": dict(entry.lineage),
        "loose": sorted(entry.loose),
        "key": entry.key,
        "fault": [entry.fault.message, entry.fault.hint] if entry.fault else None,
    }


def _region(region: Region) -> dict[str, Any]:
    return {"key": region.key, "loops": [_curves(loop) for loop in (region.outer, *region.holes)]}


def _curves(curves: Iterable[Curve2]) -> list[dict[str, Any]]:
    return [{"curve": type(curve).__name__, **asdict(curve)} for curve in curves]


# --- from JSON ------------------------------------------------------------------------------------------------------


def _read(row: Mapping[str, Any], blobs: Path) -> Trace:
    told = dict(row["outcome"])
    told["flags"] = tuple(_read_flag(flag) for flag in told["flags"])
    for name in ("notes", "culprits"):
        told[name] = tuple(told[name])
    told["readings"] = tuple(Reading(**reading) for reading in told["readings"])
    told["lines"] = tuple(tuple(vec(p) for p in line) for line in told["lines"])
    delta = Delta(
        tuple(_read_body(body, blobs) for body in row["delta"]["bodies"]),
        tuple(row["delta"]["gone"]),
        tuple(_read_sketch(sketch) for sketch in row["delta"]["sketches"]),
        tuple(Datum(**{**datum, "frame": _read_frame(datum["frame"])}) for datum in row["delta"]["datums"]),
        _read_effect(row["delta"]["effect"], blobs),
    )
    reads = tuple((kind, name, key) for kind, name, key in row["reads"])
    return Trace(row["key"], reads, delta, Outcome(**told), tuple(row["targets"]))


def _read_flag(data: Mapping[str, Any]) -> Flag:
    repairs = tuple(Repair(repair["words"], tuple(repair["picks"])) for repair in data["repairs"])
    return Flag(**{**data, "repairs": repairs})


def _read_effect(data: Mapping[str, Any] | None, blobs: Path) -> Effect | None:
    if data is None:
        return None
    tags = [tuple(tuple(row) for row in tool) for tool in data["tags"]]
    solids = kernel.blob.Bundle(_content(data["shapes"], blobs), len(tags))
    return Effect(data["target"], data["how"], _Tools(solids, tags), data["key"], data["bores"])


class _Tools(Sequence[Body]):
    """The tools of an effect, unpacked when one is first needed."""

    def __init__(self, solids: Sequence[Any], tags: Sequence[Any]) -> None:
        self._solids, self._tags = solids, tags

    def __len__(self) -> int:
        return len(self._tags)

    def __getitem__(self, index: Any) -> Any:
        if isinstance(index, slice):
            return [self[i] for i in range(*index.indices(len(self)))]
        return Body(self._solids[index], self._tags[index])


def _content(name: str, blobs: Path) -> bytes:
    content = opened(blobs / name)
    if content is None:
        raise ValueError("a stored shape is gone or damaged")
    return content


def _read_body(data: Mapping[str, Any], blobs: Path) -> Entry:
    solid = kernel.blob.Shelved(_content(data["shape"], blobs))
    body = Body(solid, tuple(tuple(tags) for tags in data["tags"]))
    if data["mass"]:
        volume, area, centroid = data["mass"]
        solid.__dict__["_mass"] = kernel.measure.Mass(volume, area, vec(centroid))
    if data["box"]:
        solid.__dict__["_box"] = kernel.measure.Box(vec(data["box"][0]), vec(data["box"][1]))
    pull = vec(data["pull"]) if data["pull"] else None
    return Entry(data["id"], data["name"], data["role"], body, data["key"], pull)


def _read_sketch(data: Mapping[str, Any]) -> SketchEntry:
    regions = []
    for region in data["regions"]:
        outer, *holes = (_read_curves(loop) for loop in region["loops"])
        regions.append(Region(outer, tuple(holes), region["key"]))
    frame = _read_frame(data["frame"])
    return SketchEntry(
        data["id"],
        data["name"],
        frame,
        tuple(regions),
        _read_curves(data["curves"]),
        data["freedoms"],
        {name: tuple(ids) for name, ids in data["lineage"].items()},
        data["key"],
        SketchError(*data["fault"]) if data["fault"] else None,
        frozenset(data["loose"]),
        frozenset(data["filled"]),
        _read_points(data["taken"]),
        _read_curves(data["guides"]),
        _read_points(data["marks"]),
    )


def _read_points(data: Mapping[str, Any]) -> dict[str, Point2]:
    return {point: (float(x), float(y)) for point, (x, y) in data.items()}


def _read_frame(data: Mapping[str, Any]) -> Frame:
    return Frame(**{name: vec(value) for name, value in data.items()})


def _read_curves(data: Iterable[Mapping[str, Any]]) -> tuple[Curve2, ...]:
    found = []
    for row in data:
        kind = _CURVES[row["curve"]]
        values = {name: _tupled(value) for name, value in row.items() if name != "curve"}
        found.append(kind(**values))
    return tuple(found)


def _tupled(value: Any) -> Any:
    return tuple(_tupled(inner) for inner in value) if isinstance(value, list) else value
