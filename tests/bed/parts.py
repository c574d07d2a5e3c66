"""The parts of the test bed, with fifteen picks each. Dimensions are invented.

Long, since it is a list: one part after another.
"""

from __future__ import annotations

import math
from typing import Any

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from tests.bed.oracle import Bed, Parameters, Target, edge, face, ring
from tests.conftest import circle, extrude, rectangle

Steps = list[dict[str, Any]]


def loop_fillet(step: str, tag: str, radius: str, used: bool) -> dict[str, Any]:
    return {"id": step, "type": "fillet", "edges": [{"rule": "outer loop", "of": tag}], "radius": radius, "skip": not used}


def polyline(step: str, plane: dict[str, str], *points: tuple[float, float], closed: bool = True) -> dict[str, Any]:
    """A sketch of straight lines L1, L2 … through points p1, p2 …, left loose."""
    names = [f"p{i}" for i in range(1, len(points) + 1)]
    pairs = list(zip(names, [*names[1:], names[0]] if closed else names[1:], strict=False))
    lines = {f"L{i}": {"type": "line", "a": a, "b": b} for i, (a, b) in enumerate(pairs, 1)}
    return {"id": step, "type": "sketch", "on": plane, "points": dict(zip(names, points, strict=True)), "entities": lines}


# --- a tray: walls, floor, a rib across it, notches in its rim ----------------------------------------------------


def _tray(p: Parameters) -> Steps:
    w, d, h, t = p["w"], p["d"], p["h"], p["t"]
    steps = [
        rectangle("out", f"{w}", f"{d}"),
        extrude("ext", "out", f"{h}", direction="down"),
        {"id": "upr", "type": "fillet", "edges": [{"rule": "uprights", "of": "ext"}], "radius": "8", "skip": not p["round"]},
        {"id": "shl", "type": "shell", "wall": f"{t}", "open": [{"face": "ext.start"}]},
    ]
    rib = [
        rectangle("rsk", "2", f"{d - 2 * t}", x=f"{p['rib']}", on={"plane": "top", "offset": f"{-h + t}"}),
        extrude("rib", "rsk", "9", result="add"),
    ]
    hole = [
        circle("hsk", "6", x=f"{p['hole']}", y="12"),
        extrude("hol", "hsk", "1", direction="down", result="cut", extent="through all"),
    ]
    notches: Steps = []
    for number, x in enumerate(p["notches"], 1):
        notches += [
            rectangle(f"n{number}s", "14", "12", x=f"{x}", y=f"{-d / 2}"),
            extrude(f"n{number}", f"n{number}s", "7", direction="down", result="cut"),
        ]
    if p["ribs"]:
        steps += [*hole, *rib] if p["swap"] else [*rib, *hole]
    else:
        steps += hole
    return [*steps, *notches]


def _tray_targets(p: Parameters) -> dict[str, Target | None]:
    w, d, h, t, x, hx = p["w"] / 2, p["d"] / 2, p["h"], p["t"], p["rib"], p["hole"]
    floor, notches, ribs = -h + t, p["notches"], p["ribs"]
    turn = 8.0 if p["round"] else 0.0
    left, right = (-w + t + 3, 5.0, floor), (w - t - 3, -5.0, floor)
    wall = (2 * d - 2 * turn) * h
    first = notches[0] if notches else None
    return {
        "outer +x wall": face((w, -d / 2, -h / 2), (w, d / 2, -1.0), size=wall),
        "outer -x wall": face((-w, -d / 2, -h / 2), (-w, d / 2, -1.0), size=wall),
        "inner +x wall": face((w - t, -d / 2, -5.0), (w - t, d / 2, -5.0)),
        "floor left of the rib": face(left, off=(right,)),
        "floor right of the rib": face(right, off=(left,)),
        "underside": face((0, d - 12, -h), (-w + 12, 0, -h)),
        "rim": face((w - t / 2, 0, 0), (-w + t / 2, 0, 0), (0, d - t / 2, 0)),
        "rib, left side": face((x - 1, d / 3, floor + 4), size=9 * (2 * d - 2 * t)) if ribs else None,
        "rib, right side": face((x + 1, -d / 3, floor + 4), size=9 * (2 * d - 2 * t)) if ribs else None,
        "rib, top": face((x, 0, floor + 9)) if ribs else None,
        "notch floor": face((first, -d + t / 2, -7), size=14 * t) if first is not None else None,
        "hole": face(*ring((hx, 12, floor - t / 2), 3), size=6 * math.pi * t),
        "outer rim edge, back": edge((0, d, 0), (w / 2, d, 0), size=2 * (w - turn)),
        "outer rim edge, front left": edge((-w + turn + 1, -d, 0), off=((w - turn - 1, -d, 0),)),
        "rib foot, left": edge((x - 1, d / 4, floor), (x - 1, -d / 4, floor)) if ribs else None,
    }


def _cut_front(document: Document, p: Parameters) -> Document:
    if p["cut"] is None:
        return document
    return cut_line(document, "out", p["cut"], 0.3)[0]


def cut_line(document: Document, step: str, entity: str, share: float) -> tuple[Document, str]:
    """The document with a line of a sketch cut in two, and the words of the edit."""
    sketch: Any = document.step(step)
    a, b = (sketch.points[point] for point in (sketch.entities[entity].a, sketch.entities[entity].b))
    at = [a[i] + (b[i] - a[i]) * share for i in (0, 1)]
    return apply(document, read_edit({"op": "sketch", "step": step, "acts": [{"do": "cut", "entity": entity, "at": at}]}))


TRAY = Bed(
    "tray",
    {
        "w": (120.0, 150.0, 108.0), "d": (80.0, 90.0, 70.0), "h": (30.0, 24.0, 36.0), "t": (2.0, 1.5, 3.0),
        "round": (True, False), "rib": (-12.0, 6.0, -20.0), "ribs": (True, True, False), "hole": (25.0, 30.0, -35.0),
        "notches": ((-25.0,), (-25.0, 25.0), (-38.0, -14.0), (18.0,), ()), "swap": (False, True),
        "cut": (None, None, "f1_L2", "f1_L3"),
    },
    _tray, _tray_targets, "ext", _cut_front,
)  # fmt: skip


# --- a cap turned about its axis, with flats and a bore -----------------------------------------------------------


def _cap(p: Parameters) -> Steps:
    r, h, t = p["r"], p["h"], p["t"]
    outline = [(0, h), (r, h), (r, 0), (r - t, 0), (r - t, h - t), (0, h - t)]
    steps: Steps = [
        polyline("pro", {"plane": "front"}, *outline),
        {"id": "rev", "type": "revolve", "profile": {"sketch": "pro"}, "axis": "y"},
    ]
    bore = [
        circle("bsk", "8", on={"plane": "top", "offset": f"{h}"}),
        extrude("bor", "bsk", f"{t}", direction="down", result="cut"),
    ]
    flats: Steps = []
    for number, side in enumerate(p["flats"], 1):
        flats += [
            rectangle(f"f{number}s", "6", "60", x=f"{side * (r - 1 + 3)}"),
            extrude(f"f{number}", f"f{number}s", "10", result="cut"),
        ]
    steps += [*flats, *bore] if p["swap"] else [*bore, *flats]
    if not p["bore"]:
        steps = [s for s in steps if s["id"] not in ("bsk", "bor")]
    steps.append(
        {
            "id": "rou",
            "type": "fillet",
            "edges": [{"rule": "outer loop", "of": "rev.side[L1]"}],
            "radius": "2",
            "skip": not p["round"],
        }
    )
    return steps


def _cap_targets(p: Parameters) -> dict[str, Target | None]:
    r, h, t, flats, bore = p["r"], p["h"], p["t"], p["flats"], p["bore"]
    away = (0.2, 0.3, 0.7, 0.8)
    lip = r - 2 if p["round"] else r
    east, side = bool(flats) and flats[0] == 1, (flats[0] if flats else 0)
    half = math.sqrt(r * r - (r - 1) ** 2)
    return {
        "top": face((lip - 1, 0, h), (0, -lip + 1, h), size=math.pi * (lip**2 - (16 if bore else 0))),
        "outside": face(*ring((0, 0, h - 3), r, turns=away)),
        "inside": face(*ring((0, 0, 3), r - t, turns=away), size=2 * math.pi * (r - t) * (h - t)),
        "ceiling": face((r - t - 1, 0, h - t), (0, r - t - 1, h - t)),
        "rim": face(*ring((0, 0, 0), r - t / 2, turns=away)),
        "bore": face(*ring((0, 0, h - t / 2), 4), size=8 * math.pi * t) if bore else None,
        "flat, east": face((r - 1, 0, 5), (r - 1, half - 0.3, 1), size=20 * half) if east else None,
        "flat's ceiling": face((side * (r - 0.4), 0, 10), off=((-side * (r - 0.4), 0, 10),)) if flats else None,
        "round": face(*ring((0, 0, h - 2 + math.sqrt(2)), r - 2 + math.sqrt(2))) if p["round"] else None,
        "inner rim edge": edge(*ring((0, 0, 0), r - t, turns=away), size=2 * math.pi * (r - t)),
        "outer rim edge": edge(*ring((0, 0, 0), r, turns=away)),
        "ceiling edge": edge(*ring((0, 0, h - t), r - t, turns=away), size=2 * math.pi * (r - t)),
        "bore edge": edge(*ring((0, 0, h), 4), size=8 * math.pi) if bore else None,
        "flat's upright, east and north": edge((r - 1, half, 2), (r - 1, half, 8), size=10.0) if east else None,
        "edge of the round": edge(*ring((0, 0, h), r - 2)) if p["round"] else None,
    }


CAP = Bed(
    "cap",
    {
        "r": (30.0, 26.0, 34.0), "h": (24.0, 20.0, 30.0), "t": (2.5, 2.0, 3.0), "bore": (True, True, False),
        "flats": ((1,), (1, -1), (-1, 1), (-1,), ()), "round": (True, False), "swap": (False, True),
    },
    _cap, _cap_targets, "rev",
)  # fmt: skip


# --- a cup with a swept handle ------------------------------------------------------------------------------------


def _cup(p: Parameters) -> Steps:
    r, h, t, reach, high, low, bend = p["r"], p["h"], p["t"], p["reach"], p["high"], p["low"], 9.0
    inside, out = r - 1, r + reach
    points = {"a": (inside, high), "b": (out - bend, high), "c": (out - bend, high - bend), "d": (out, high - bend),
              "e": (out, low + bend), "f": (out - bend, low + bend), "g": (out - bend, low), "i": (inside, low)}  # fmt: skip
    path = {
        "id": "pth", "type": "sketch", "on": {"plane": "front"}, "points": points,
        "entities": {
            "P1": {"type": "line", "a": "a", "b": "b"}, "P2": {"type": "arc", "c": "c", "a": "b", "b": "d", "cw": True},
            "P3": {"type": "line", "a": "d", "b": "e"}, "P4": {"type": "arc", "c": "f", "a": "e", "b": "g", "cw": True},
            "P5": {"type": "line", "a": "g", "b": "i"},
        },
    }  # fmt: skip
    steps: Steps = [
        circle("csk", f"{2 * r}"),
        extrude("cup", "csk", f"{h}"),
        loop_fillet("foo", "cup.start", "4", p["foot"]),
        {"id": "shl", "type": "shell", "wall": f"{t}", "open": [{"face": "cup.end"}]},
        circle("hsk", f"{p['thick']}", y=f"{high}", on={"plane": "side", "offset": f"{inside}"}),
        path,
        {"id": "hnd", "type": "sweep", "profile": {"sketch": "hsk"}, "path": {"sketch": "pth"}, "result": "add", "body": "cup",
         "skip": not p["handle"]},
        loop_fillet("lip", "cup.end", "0.8", p["lip"]),
    ]  # fmt: skip
    if p["drain"]:
        steps += [circle("dsk", "5", x="6"), extrude("drn", "dsk", f"{t}", result="cut", body="cup")]
    return steps


def _cup_targets(p: Parameters) -> dict[str, Target | None]:
    r, h, t, reach, high, low, k = p["r"], p["h"], p["t"], p["reach"], p["high"], p["low"], p["thick"] / 2
    handle, out, bend = p["handle"], r + reach, 9.0
    away = (0.2, 0.4, 0.6, 0.8)
    lip = r - 0.8 if p["lip"] else r
    mid = (high + low) / 2
    corner = bend * (1 - math.sqrt(0.5))

    def when(yes: bool, target: Target) -> Target | None:
        return target if yes else None

    return {
        "outside": face(*ring((0, 0, h / 2), r, turns=away)),
        "inside": face(*ring((0, 0, h / 2), r - t, turns=away)),
        "floor": face((0, 0, t), (0, 8, t), off=((0, 0, 0),)),
        "underside": face((-6, 0, 0), (0, 8, 0), off=((0, 0, t),)),
        "rim": face(*ring((0, 0, h), (lip + r - t) / 2), size=math.pi * (lip**2 - (r - t) ** 2)),
        "handle, upper arm": when(handle, face((r + 3, 0, high + k), (r + 3, 0, high - k), off=((out - k, 0, mid),))),
        "handle, grip": when(handle, face((out + k, 0, mid), (out - k, 0, mid), off=((r + 3, 0, low + k),))),
        "handle, lower arm": when(handle, face((r + 3, 0, low + k), (r + 3, 0, low - k), off=((r + 3, 0, high + k),))),
        "handle, upper bend": when(handle, face((out - corner, k, high - corner), (out - corner, -k, high - corner))),
        "inner rim edge": edge(*ring((0, 0, h), r - t), size=2 * math.pi * (r - t)),
        "outer rim edge": when(p["lip"], edge(*ring((0, 0, h), lip), size=2 * math.pi * lip)),
        "handle's root, above": when(handle, edge((math.sqrt(r**2 - k**2), k, high), (r, 0, high + k), off=((r, 0, low + k),))),
        "handle's root, below": when(handle, edge((math.sqrt(r**2 - k**2), -k, low), (r, 0, low + k), off=((r, 0, high + k),))),
        "grip's upper seam": when(handle, edge((out + k, 0, high - bend), (out, k, high - bend), off=((out, k, low + bend),))),
        "foot": face(*ring((0, 0, 4 - math.sqrt(8)), r - 4 + math.sqrt(8))) if p["foot"] else None,
    }


CUP = Bed(
    "cup",
    {
        "r": (30.0, 26.0, 33.0), "h": (60.0, 54.0, 70.0), "t": (2.5, 2.0, 3.0), "reach": (24.0, 28.0, 32.0),
        "high": (44.0, 48.0, 40.0), "low": (14.0, 11.0, 17.0), "thick": (8.0, 6.0, 10.0), "handle": (True, True, True, False),
        "foot": (True, False), "lip": (True, False), "drain": (False, True),
    },
    _cup, _cup_targets, "cup",
)  # fmt: skip


# --- a cover with ribs that cross and bosses beside them -----------------------------------------------------------


def _cover(p: Parameters) -> Steps:
    w, d = p["w"], p["d"]
    top = {"plane": "top", "offset": "3"}
    made = {
        "r1": [rectangle("r1s", f"{w - 20}", "2", y=f"{p['y1']}", on=top), extrude("r1", "r1s", "8", result="add")],
        "r2": [rectangle("r2s", f"{w - 20}", "2", y=f"{p['y2']}", on=top), extrude("r2", "r2s", "8", result="add")],
        "r3": [rectangle("r3s", "2", f"{d - 16}", x=f"{p['x3']}", on=top), extrude("r3", "r3s", "11", result="add")],
        "b1": [circle("b1s", "8", x=f"{p['b1']}", y="0", on=top), extrude("b1", "b1s", "10", result="add")],
        "b2": [circle("b2s", "8", x=f"{p['b2']}", y="0", on=top), extrude("b2", "b2s", "10", result="add")],
    }
    steps: Steps = [rectangle("out", f"{w}", f"{d}"), extrude("ext", "out", "3")]
    for name in p["order"]:
        if name not in p["without"]:
            steps += made[name]
    return steps


def _cover_targets(p: Parameters) -> dict[str, Target | None]:
    w, d, y1, y2, x3, gone = p["w"], p["d"], p["y1"], p["y2"], p["x3"], p["without"]
    r1, r2, r3, b1, b2 = (name not in gone for name in ("r1", "r2", "r3", "b1", "b2"))
    left, right = -w / 4 - 2, w / 4 + 2

    def when(yes: bool, target: Target) -> Target | None:
        return target if yes else None

    far, near = ((right, y1 + 1, 7),) if r3 else (), ((left, y1 + 1, 7),) if r3 else ()
    length = w / 2 - 10  # of a rib from its end to the middle
    west, east = length - 1 + x3, length - 1 - x3
    return {
        "underside": face((1, 1, 0), (-w / 2 + 1, d / 2 - 1, 0), size=w * d),
        "plate top": face((-w / 2 + 2, 0, 3), (w / 2 - 2, 3, 3)),
        "wall +x": face((w / 2, 0, 1), size=3 * d),
        "wall -y": face((0, -d / 2, 1), (w / 3, -d / 2, 2), size=3 * w),
        "first rib, top left": when(r1 and r3, face((left, y1, 11), off=((right, y1, 11),), size=2 * west)),
        "second rib, top right": when(r2 and r3, face((right, y2, 11), off=((left, y2, 11),), size=2 * east)),
        "first rib, inner side left": when(r1 and r3, face((left, y1 + 1, 7), off=far, size=8 * west)),
        "first rib, inner side right": when(r1 and r3, face((right, y1 + 1, 7), off=near, size=8 * east)),
        "second rib, outer side right": when(r2 and r3, face((right, y2 + 1, 5), size=8 * east)),
        "cross rib, top": when(r3, face((x3, y1, 14), (x3, y2, 14), size=2 * (d - 16))),
        "boss one": when(b1, face(*ring((p["b1"], 0, 12.5), 4), off=ring((p["b2"], 0, 12.5), 4) if b2 else ())),
        "boss two, top": when(b2, face((p["b2"], 0, 13), size=16 * math.pi)),
        "boss one's rim": when(b1, edge(*ring((p["b1"], 0, 13), 4), size=8 * math.pi)),
        "first rib's top edge, inside, right": when(r1 and r3, edge((right, y1 + 1, 11), off=((left, y1 + 1, 11),), size=east)),
        "first rib's foot, inside, left": when(r1 and r3, edge((left, y1 + 1, 3), off=((right, y1 + 1, 3),), size=west)),
    }


COVER = Bed(
    "cover",
    {
        "w": (140.0, 150.0, 130.0), "d": (90.0, 84.0, 100.0), "y1": (-20.0, -24.0, -16.0), "y2": (20.0, 24.0, 17.0),
        "x3": (0.0, 6.0, -5.0), "b1": (-30.0, -22.0, 30.0), "b2": (28.0, 20.0, -28.0),
        "order": (("r1", "r2", "r3", "b1", "b2"), ("b2", "b1", "r3", "r2", "r1"), ("r3", "b1", "r1", "b2", "r2")),
        "without": ((), (), ("r3",), ("b1",), ("b2",), ("r2",), ("r3", "b2")),
    },
    _cover, _cover_targets, "ext", allowed=lambda p: abs(p["b1"] - p["b2"]) > 12,
)  # fmt: skip


# --- a plate with a row of holes ----------------------------------------------------------------------------------


def _row(p: Parameters) -> Steps:
    steps: Steps = [
        rectangle("out", f"{p['w']}", "40", x=f"{p['w'] / 2}"),
        extrude("ext", "out", f"{p['h']}"),
        circle("tsk", f"{p['bore']}", x=f"{p['start']}", y=f"{p['y']}"),
        extrude("tol", "tsk", f"{p['h']}"),
        {"id": "pat", "type": "pattern", "tool": "tol", "body": "ext", "count": p["count"], "spacing": f"{p['gap']}"},
    ]
    if p["slot"]:
        x = p["start"] + p["gap"] * (p["slot"] - 1)
        steps += [rectangle("ssk", f"{p['bore'] + 4}", "50", x=f"{x}")]
        steps += [extrude("slt", "ssk", f"{p['h'] / 2}", result="cut")]
    corners = {"id": "cor", "type": "fillet", "edges": [{"rule": "uprights", "of": "ext"}], "radius": "5"}
    steps.append({**corners, "skip": not p["round"]})
    return steps


def _row_targets(p: Parameters) -> dict[str, Target | None]:
    w, h, bore, y, count, slot = p["w"], p["h"], p["bore"] / 2, p["y"], p["count"], p["slot"]

    def x(number: int) -> float:
        return float(p["start"] + p["gap"] * (number - 1))

    def hole(number: int) -> Target | None:
        if number > count:
            return None
        low = h / 2 if slot == number else 0.0
        return face(*ring((x(number), y, h * 0.75), bore), size=2 * math.pi * bore * (h - low))

    def mouth(number: int) -> Target | None:
        return edge(*ring((x(number), y, h), bore), size=2 * math.pi * bore) if number <= count else None

    turn = 5.0 if p["round"] else 0.0
    last = (w - 2, 0.0)
    return {
        "top": face((1.5, 0, h), (*last, h), off=((1.5, 0, 0),)),
        "underside": face((1.5, 0, 0), off=((1.5, 0, h),)) if not slot else face((1.5, 0, 0), (*last, 0)),
        "end -x": face((0, 5, h / 3), (0, -5, h / 1.5), size=(40 - 2 * turn) * h),
        "end +x": face((w, 5, h / 3), (w, -5, h / 1.5), size=(40 - 2 * turn) * h),
        "side +y": face((turn + 1, 20, h * 0.9), (w - turn - 1, 20, h * 0.9)),
        "hole 1": hole(1), "hole 2": hole(2), "hole 4": hole(4), "hole 5": hole(5),
        "mouth 1": mouth(1), "mouth 3": mouth(3), "mouth 4": mouth(4),
        "lower mouth 2": edge(*ring((x(2), y, 0.0), bore)) if slot != 2 else None,
        "upper edge, +y": edge((turn + 1, 20, h), (w - turn - 1, 20, h), size=w - 2 * turn),
        "upper edge, -x": edge((0, 1, h), (0, -8, h), size=40 - 2 * turn),
    }  # fmt: skip


ROW = Bed(
    "row of holes",
    {
        "w": (100.0, 110.0, 120.0), "h": (8.0, 6.0, 10.0), "bore": (6.0, 5.0, 7.0), "start": (12.0, 14.0, 10.0),
        "gap": (16.0, 14.0, 17.0), "y": (3.0, 0.0, -6.0), "count": (5, 4, 3, 6, 2), "slot": (0, 0, 2, 4, 1),
        "round": (True, False),
    },
    _row, _row_targets, "ext", allowed=lambda p: p["slot"] <= p["count"],
)  # fmt: skip


# --- a half and its mirror image ----------------------------------------------------------------------------------


def _half(p: Parameters) -> Steps:
    w, d, h = p["w"], p["d"], p["h"]
    top = {"plane": "top", "offset": f"{h}"}
    boss = [circle("bsk", "10", x=f"{p['boss']}", on=top), extrude("bos", "bsk", "12", result="add")]
    hole = [circle("hsk", "5", x=f"{p['hole']}", y=f"{-d / 4}"), extrude("hol", "hsk", f"{h}", result="cut")]
    steps: Steps = [rectangle("out", f"{w}", f"{d}", x=f"{w / 2}"), extrude("ext", "out", f"{h}")]
    pair = [*hole, *boss] if p["swap"] else [*boss, *hole]
    steps += [s for s in pair if not (s["id"] in ("bsk", "bos") and not p["bosses"])]
    steps.append(
        {
            "id": "chm",
            "type": "chamfer",
            "edges": [{"rule": "between", "of": "ext.end", "other": "ext.side[f1_L2]"}],
            "distance": "2",
            "skip": not p["bevel"],
        }
    )
    steps.append({"id": "mir", "type": "mirror", "across": {"plane": "side"}})
    if p["slot"]:
        steps += [rectangle("ssk", "6", f"{d + 10}"), extrude("slt", "ssk", f"{h / 2}", result="cut")]
    if p["step"]:
        steps += [
            rectangle("tsk", "12", "9", y=f"{-d / 2}", on={"plane": "top", "offset": f"{h}"}),
            extrude("stp", "tsk", "3", direction="down", result="cut"),
        ]
    return steps


def _half_targets(p: Parameters) -> dict[str, Target | None]:
    w, d, h, b, hx, hy = p["w"], p["d"], p["h"], p["boss"], p["hole"], -p["d"] / 4
    bosses, bevel = p["bosses"], p["bevel"]
    edge_height = h - 2 if bevel else h

    def when(yes: bool, target: Target) -> Target | None:
        return target if yes else None

    return {
        "top": face((w / 4, d / 3, h), (-w / 4, d / 3, h)),
        "underside": face((w / 3, 0, 0), off=((w / 3, 0, h),)) if p["slot"] else face((w / 3, 0, 0), (-w / 3, 0, 0)),
        "end +x": face((w, 2, h / 3), (w, -5, h / 3), off=((-w, 2, h / 3),), size=d * edge_height),
        "end -x": face((-w, 2, h / 3), (-w, -5, h / 3), off=((w, 2, h / 3),), size=d * edge_height),
        "side +y": face((w / 2, d / 2, h * 0.75), (-w / 2, d / 2, h * 0.75)),
        "boss": when(bosses, face(*ring((b, 0, h + 6), 5), off=ring((-b, 0, h + 6), 5), size=120 * math.pi)),
        "boss, mirrored": when(bosses, face(*ring((-b, 0, h + 6), 5), off=ring((b, 0, h + 6), 5), size=120 * math.pi)),
        "boss top, mirrored": when(bosses, face((-b, 0, h + 12), off=((b, 0, h + 12),), size=25 * math.pi)),
        "hole": face(*ring((hx, hy, h / 2), 2.5), off=ring((-hx, hy, h / 2), 2.5), size=5 * math.pi * h),
        "hole, mirrored": face(*ring((-hx, hy, h / 2), 2.5), off=ring((hx, hy, h / 2), 2.5), size=5 * math.pi * h),
        "bevel +x": when(bevel, face((w - 1, 0, h - 1), size=d * math.sqrt(8))),
        "boss's rim, mirrored": when(bosses, edge(*ring((-b, 0, h + 12), 5), size=10 * math.pi)),
        "boss's foot": when(bosses, edge(*ring((b, 0, h), 5), off=ring((-b, 0, h), 5), size=10 * math.pi)),
        "hole's mouth, mirrored, below": edge(*ring((-hx, hy, 0), 2.5), size=5 * math.pi),
        "upright -x +y": edge((-w, d / 2, 1), (-w, d / 2, h / 2), size=edge_height),
    }


HALF = Bed(
    "mirrored half",
    {
        "w": (50.0, 56.0, 44.0), "d": (60.0, 50.0, 70.0), "h": (10.0, 8.0, 12.0), "boss": (22.0, 18.0, 28.0),
        "hole": (30.0, 12.0, 35.0), "swap": (False, True), "bosses": (True, True, False), "bevel": (True, False),
        "slot": (False, False, True), "step": (False, True),
    },
    _half, _half_targets, "ext",
)  # fmt: skip


# --- a bracket: holes at points, in a row and mirrored, a wall along a line, nudged faces, a scored boss ------------


def _bracket(p: Parameters) -> Steps:
    w, d, h, boss = p["w"], p["d"], p["h"], p["boss"]
    top = {"plane": "top", "offset": f"{h}"}
    steps: Steps = [
        rectangle("out", f"{2 * w}", f"{2 * d}"),
        extrude("pl", "out", f"{h}"),
        circle("bsk", "12", x=f"{boss}", on=top),
        extrude("bo", "bsk", "8", result="add"),
        {"id": "hsk", "type": "sketch", "points": {"q": (8 - w, 8 - d)}},
        {"id": "ho", "type": "hole", "diameter": "4", "sketch": "hsk", "into": top},
    ]
    row = [{"id": "pa", "type": "pattern", "of": "steps", "steps": ["ho"], "count": p["count"], "spacing": f"{p['gap']}"}]
    wall = [
        polyline("wsk", top, (-6, 12), (14, 12), closed=False),
        extrude("wa", "wsk", "5", fill="as a wall", wall="2", side="left", result="add"),
    ]
    steps += [*wall, *row] if p["order"] else [*row, *wall]
    mirror = {"id": "mi", "type": "mirror", "of": "steps", "steps": ["pa"], "across": {"plane": "front"}}
    nudge = {"id": "nu", "type": "nudge", "faces": [{"face": "pl.side[f1_L2]"}], "distance": f"{p['nudge'] or 1}"}
    score = [
        circle("csk", "6", x=f"{boss}", on={"plane": "top", "offset": "60"}),
        {"id": "sc", "type": "score", "profile": {"sketch": "csk"}, "face": [{"face": "bo.end"}], "skip": not p["score"]},
    ]
    return [*steps, {**mirror, "skip": not p["mirror"]}, {**nudge, "skip": not p["nudge"]}, *score]


def _bracket_targets(p: Parameters) -> dict[str, Target | None]:
    w, d, h, boss, e = p["w"], p["d"], p["h"], p["boss"], p["nudge"]
    x, y, gap = 8 - w, 8 - d, p["gap"]
    bore = 4 * math.pi * h
    core = (boss, 0.0, h + 8.0)
    return {
        "wall +x, nudged": face((w + e, 0, h / 2), (w + e, d / 2, 1), size=2 * d * h),
        "wall -x": face((-w, 0, h / 2), (-w, d / 2, 1), size=2 * d * h),
        "wall +y": face((0, d, h / 2), (w + e - 1, d, 1), size=(2 * w + e) * h),
        "top": face((-w + 2, 0, h), (w - 2, d - 3, h)),
        "boss": face(*ring((boss, 0, h + 4), 6), size=96 * math.pi),
        "boss, its end": face((boss + 4.5, 0, h + 8), (boss - 4.5, 0, h + 8), off=(core,) if p["score"] else ()),
        "scored area": face(core, size=9 * math.pi) if p["score"] else None,
        "first hole": face(*ring((x, y, h / 2), 2), size=bore),
        "second hole": face(*ring((x + gap, y, h / 2), 2), size=bore),
        "second hole, mirrored": face(*ring((x + gap, -y, h / 2), 2), size=bore) if p["mirror"] else None,
        "wall's drawn side": face((0, 12, h + 2), (13, 12, h + 4), size=100),
        "wall's far side": face((0, 14, h + 2), (13, 14, h + 4), size=100),
        "boss, foot": edge(*ring((boss, 0, h), 6), size=12 * math.pi),
        "top edge -x": edge((-w, 0, h), (-w, d / 2, h), size=2 * d),
        "second hole, rim": edge(*ring((x + gap, y, h), 2), size=4 * math.pi),
    }


BRACKET = Bed(
    "bracket",
    {
        "w": (40.0, 46.0, 38.0), "d": (30.0, 34.0, 27.0), "h": (6.0, 9.0, 4.0), "boss": (-20.0, -24.0, 24.0),
        "count": (3, 4, 2), "gap": (14.0, 17.0, 11.0), "nudge": (1.5, 0.0, 4.0), "mirror": (True, True, False),
        "score": (True, True, False), "order": (False, True),
    },
    _bracket, _bracket_targets, "pl",
)  # fmt: skip

BEDS = (TRAY, CAP, CUP, COVER, ROW, HALF, BRACKET)
