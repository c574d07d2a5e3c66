"""How sizes are drawn: where their label stands, the lines and arrows that show what they measure. All in mm in the plane."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from supplecast.geometry import Floats, Point2
from supplecast.sketch.model import Arc, Circle, Constraint, Drawing, Ellipse, Line, stands_on
from supplecast.sketch.sizing import radii_of

_SIGNS = {"radius": "R ", "diameter": "⌀ ", "across": "⌀ ", "arc length": "⌒ "}


@dataclass
class Label:
    """A size on the sheet: `lines` as (x1, y1, x2, y2), `arcs` as (cx, cy, r, from, to), `arrows` as (x, y, dx, dy)."""

    at: Point2
    sign: str = ""
    lines: list[tuple[float, float, float, float]] = field(default_factory=list)
    arcs: list[tuple[float, float, float, float, float]] = field(default_factory=list)
    arrows: list[tuple[float, float, float, float]] = field(default_factory=list)


def labels(drawing: Drawing) -> dict[str, Label]:
    """A label for every size that is shown; sizes of one group share one."""
    places = np.array([(0.0, 0.0), *drawing.points.values()])
    aside = min(max(0.07 * float(np.hypot(*np.ptp(places, axis=0))), 1.5), 12.0)
    radii = radii_of(drawing)
    middle = places.mean(axis=0)
    by_name: dict[str, Label] = {}
    # One label stands for a group: beside a straight piece if there is one, where it is in nobody's way.
    spoken: dict[str, str] = {}
    for name, held in drawing.constraints.items():
        if held.group and (held.group not in spoken or held.type == "distance"):
            spoken[held.group] = name
    for name, held in drawing.constraints.items():
        if held.value is None or held.type == "turned" or (held.group and spoken[held.group] != name):
            continue
        drawer = _Drawer(drawing, radii, aside, middle)
        label = drawer.draw(held)
        if label is not None:
            label.sign = _SIGNS.get(held.type, "")
            by_name[name] = label
    return by_name


def followed(before: Drawing, after: Drawing) -> Drawing:
    """A drawing that has moved, its labels put by hand moved with the middle of what they measure."""
    moved = dict(after.constraints)
    for name, held in after.constraints.items():
        old = before.constraints.get(name)
        if held.label is None or old is None or old.label != held.label or old.on != held.on:
            continue
        dx, dy = (b - a for a, b in zip(_middle(held, before), _middle(held, after), strict=True))
        if math.hypot(dx, dy) > 1e-9:
            moved[name] = held.model_copy(update={"label": (held.label[0] + dx, held.label[1] + dy)})
    return after.model_copy(update={"constraints": moved})


def _middle(held: Constraint, drawing: Drawing) -> Point2:
    points: list[str] = []
    for part in held.on:
        points += sorted(stands_on(drawing.entities[part])) if part in drawing.entities else [part]
    x, y = np.mean([drawing.place(p) for p in points], axis=0)
    return (float(x), float(y))


class _Drawer:
    def __init__(self, drawing: Drawing, radii: dict[str, float], aside: float, middle: Floats) -> None:
        self.drawing, self.radii, self.aside, self.middle = drawing, radii, aside, middle

    def place(self, point: str) -> Floats:
        return np.array(self.drawing.place(point))

    def line(self, name: str) -> tuple[Floats, Floats]:
        held = self.drawing.entities[name]
        assert isinstance(held, Line)
        return self.place(held.a), self.place(held.b)

    def draw(self, held: Constraint) -> Label | None:
        on = held.on
        match held.type:
            case "distance x" | "distance y":
                u = np.array([1.0, 0.0]) if held.type == "distance x" else np.array([0.0, 1.0])
                return self.straight(held, self.place(on[0]), self.place(on[1]), u)
            case "distance" | "across" if on[1] in self.drawing.entities:
                p, (a, b) = self.place(on[0]), self.line(on[1])
                u = (b - a) / max(math.hypot(*(b - a)), 1e-12)
                foot = a + u * float((p - a) @ u)
                other = 2 * foot - p if held.type == "across" else foot
                return self.straight(held, p, other, np.array([-u[1], u[0]]))
            case "distance":
                p, q = self.place(on[0]), self.place(on[1])
                return self.straight(held, p, q, (q - p) / max(math.hypot(*(q - p)), 1e-12))
            case "distance near" | "distance far":
                return self.to_side(held)
            case "radius" | "diameter":
                return self.round(held)
            case "radius apart":
                return self.apart(held)
            case "arc length":
                return self.along(held)
            case "angle":
                return self.angle(held)
        return None

    def straight(self, held: Constraint, p: Floats, q: Floats, u: Floats) -> Label:
        """Two places measured along a direction."""
        n = np.array([-u[1], u[0]])
        if held.label is not None:
            at = np.array(held.label)
        else:
            half = (p + q) / 2
            outward = 1.0 if float((half - self.middle) @ n) >= 0 else -1.0
            over = max(float((p - half) @ n) * outward, float((q - half) @ n) * outward)
            at = half + n * outward * (over + self.aside)
        ends = [at + u * float((end - at) @ u) for end in (p, q)]
        label = Label(_point(at))
        for end, place in zip(ends, (p, q), strict=True):
            if math.dist(end, place) > 1e-6:
                label.lines.append(_line(place, end))
        label.lines.append(_line(*ends))
        direction = ends[1] - ends[0]
        length = max(math.hypot(*direction), 1e-12)
        for end, sign in ((ends[0], -1.0), (ends[1], 1.0)):
            label.arrows.append((*_point(end), *_point(sign * direction / length)))
        t = float((at - ends[0]) @ direction) / length
        if not 0 <= t <= length:  # the label stands beside its line, which reaches out to it
            label.lines.append(_line(ends[0] if t < 0 else ends[1], at))
        return label

    def to_side(self, held: Constraint) -> Label:
        """From a point, a line or a round to the near or far side of a round."""
        centre, r = self.place(self.drawing.entities[held.on[1]].c), self.radii[held.on[1]]  # type: ignore[union-attr]
        other = self.drawing.entities.get(held.on[0])
        start, r0 = self.place(held.on[0]) if other is None else centre, 0.0
        if isinstance(other, Line):
            a, b = self.line(held.on[0])
            u = (b - a) / max(math.hypot(*(b - a)), 1e-12)
            start = a + u * float((centre - a) @ u)
        elif isinstance(other, (Arc, Circle)):
            start, r0 = self.place(other.c), self.radii[held.on[0]]
        direction = centre - start
        length = math.hypot(*direction)
        u = direction / length if length > 1e-12 else np.array([1.0, 0.0])
        far = held.type == "distance far"
        inside = length < max(r, r0)
        end = centre + u * (r if far else -r)
        begin = start + u * (-r0 if far else r0)
        if inside and not far:
            begin, end = start - u * r0, centre - u * r
        return self.straight(held, begin, end, u)

    def round(self, held: Constraint) -> Label:
        entity = self.drawing.entities[held.on[0]]
        assert isinstance(entity, (Arc, Circle, Ellipse))
        centre, r = self.place(entity.c), self.radii[held.on[0]]
        at = np.array(held.label) if held.label is not None else centre + self._outward(entity, centre) * (r + self.aside)
        direction = at - centre
        length = math.hypot(*direction)
        u = direction / length if length > 1e-9 else np.array([1.0, 0.0])
        rim = centre + u * r
        label = Label(_point(at))
        inside = length < r
        if held.type == "diameter":
            label.lines.append(_line(centre - u * r, rim if inside else at))
            label.arrows.append((*_point(centre - u * r), *_point(-u)))
            label.arrows.append((*_point(rim), *_point(u)))
        else:
            label.lines.append(_line(centre if inside else rim, rim if inside else at))
            label.arrows.append((*_point(rim), *_point(u if inside else -u)))
        return label

    def _outward(self, entity: Arc | Circle | Ellipse, centre: Floats) -> Floats:
        if isinstance(entity, Arc):
            a, b = self.place(entity.a) - centre, self.place(entity.b) - centre
            start, end = (math.atan2(v[1], v[0]) for v in ((b, a) if entity.cw else (a, b)))
            half = start + ((end - start) % (2 * math.pi)) / 2
            return np.array([math.cos(half), math.sin(half)])
        return np.array([math.cos(math.pi / 4), math.sin(math.pi / 4)])

    def apart(self, held: Constraint) -> Label:
        entity = self.drawing.entities[held.on[0]]
        assert isinstance(entity, (Arc, Circle))
        centre = self.place(entity.c)
        u = self._outward(entity, centre)
        radii = [self.radii[name] for name in held.on]
        return self.straight(held, centre + u * radii[1], centre + u * radii[0], u)

    def along(self, held: Constraint) -> Label:
        arc = self.drawing.entities[held.on[0]]
        assert isinstance(arc, Arc)
        centre, r = self.place(arc.c), self.radii[held.on[0]]
        at = np.array(held.label) if held.label is not None else centre + self._outward(arc, centre) * (r + self.aside)
        a, b = (self.place(p) - centre for p in ((arc.b, arc.a) if arc.cw else (arc.a, arc.b)))
        return self.sector(Label(_point(at)), centre, math.dist(at, centre), a, b)

    def angle(self, held: Constraint) -> Label:
        a, b = self.line(held.on[-1])
        v = b - a
        p, u = a, np.array([1.0, 0.0])
        if len(held.on) == 2:
            p, q = self.line(held.on[0])
            u = q - p
        u, v = (-u if held.sector & 1 else u), (-v if held.sector & 2 else v)
        cross = float(u[0] * v[1] - u[1] * v[0])
        corner = p if abs(cross) < 1e-12 else p + u * (float((a - p)[0] * v[1] - (a - p)[1] * v[0]) / cross)
        if held.label is not None:
            at = np.array(held.label)
        else:
            half = u / max(math.hypot(*u), 1e-12) + v / max(math.hypot(*v), 1e-12)
            at = corner + half / max(math.hypot(*half), 1e-9) * 2.2 * self.aside
        first, second = (u, v) if cross >= 0 else (v, u)
        return self.sector(Label(_point(at)), corner, math.dist(at, corner), first, second)

    def sector(self, label: Label, corner: Floats, radius: float, u: Floats, v: Floats) -> Label:
        """An arc about a corner from one direction to another, counter-clockwise, with an arrow at each end."""
        start, end = math.atan2(u[1], u[0]), math.atan2(v[1], v[0])
        end = start + (end - start) % (2 * math.pi)
        label.arcs.append((*_point(corner), radius, start, end))
        for angle, sign in ((start, -1.0), (end, 1.0)):
            tip = corner + radius * np.array([math.cos(angle), math.sin(angle)])
            label.arrows.append((*_point(tip), -sign * math.sin(angle), sign * math.cos(angle)))
        for direction, angle in ((u, start), (v, end)):
            if math.hypot(*direction) < radius:  # the side is shorter than the arc's radius: a thin line reaches out to it
                out = np.array([math.cos(angle), math.sin(angle)])
                label.lines.append(_line(corner + out * math.hypot(*direction), corner + out * radius))
        return label


def _point(p: Floats) -> Point2:
    return (float(p[0]), float(p[1]))


def _line(p: Floats, q: Floats) -> tuple[float, float, float, float]:
    return (*_point(p), *_point(q))
