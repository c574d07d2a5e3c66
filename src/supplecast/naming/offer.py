"""Which rules a picked edge or face suggests."""

from __future__ import annotations

from supplecast import kernel
from supplecast.naming.body import Body
from supplecast.naming.reference import EdgeRef, FaceRef
from supplecast.naming.resolve import resolve
from supplecast.naming.rules import Rule, Side
from supplecast.naming.tag import maker, role

Offer = tuple[Rule, tuple[int, ...]]
_SIDES: tuple[tuple[Side, ...], ...] = (("-x", "+x"), ("-y", "+y"), ("-z", "+z"))


def offered(body: Body, picked: int, reference: EdgeRef) -> list[Offer]:
    """The rules that would catch a picked edge and more, each with the edges it catches, fewest first."""
    a, b = reference.edge
    where = {"body": reference.body}
    makers = {maker(tag) for tag in (a, b)}
    rules = [Rule(rule="tangent chain", edge=reference, **where), Rule(rule="opening", edge=reference, **where)]
    if len(makers) == 1 and role(a) == role(b) == "side":
        rules.append(Rule(rule="uprights", of=maker(a), **where))
    rules += [Rule(rule=name, of=tag, **where) for tag in (a, b) for name in ("outer loop", "inner loops", "edges of")]
    rules.append(Rule(rule="between", of=a, other=b, **where))
    rules += [Rule(rule="made by", of=step, **where) for step in sorted(makers)]
    bend = kernel.edges.bend(body.solid, picked)
    if bend in ("convex", "concave"):
        rules.append(Rule(rule=bend, **where))
    line = kernel.edges.line(body.solid, picked)
    if line is not None and max(abs(c) for c in line[1]) > 1 - 1e-9:
        axis = "xyz"[max(range(3), key=lambda i: abs(line[1][i]))]
        rules.append(Rule(rule="parallel", to=axis, **where))
    if kernel.edges.radius(body.solid, picked):
        rules.append(Rule(rule="same radius", edge=reference, **where))
    rules.append(Rule(rule="every", **where))
    return _sorted(body, picked, rules)


def offered_faces(body: Body, picked: int, reference: FaceRef) -> list[Offer]:
    """The rules that would catch a picked face and more, each with the faces it catches, fewest first."""
    solid, where = body.solid, {"body": reference.body}
    rules = [Rule(rule="smooth faces", face=reference, **where)]
    rules += [Rule(rule="faces made by", of=step, **where) for step in dict.fromkeys(map(maker, body.names[picked]))]
    if kernel.measure.is_flat(solid, picked):
        normal = kernel.measure.flat_frame(solid, picked).normal
        for place, along in enumerate(normal):
            if abs(along) > 1 - 1e-9:
                square = Rule(rule="faces square to", to="xyz"[place], **where)
                side = _SIDES[place][along > 0]
                reaching = Rule(rule="faces reaching", side=side, **where)
                rules += [Rule(rule="and", rules=(square, reaching), **where), square, reaching]
        rules.append(Rule(rule="flat faces", **where))
    elif kernel.measure.bend(solid, picked):
        rules.append(Rule(rule="round faces", face=reference, **where))
    rules += [Rule(rule="faces along", to=axis, **where) for axis in ("x", "y", "z")]
    for place, sides in enumerate(_SIDES if not kernel.measure.is_flat(solid, picked) else ()):
        for side in sides:
            if kernel.measure.reaches(solid, picked, place, high=side[0] == "+"):
                rules.append(Rule(rule="faces reaching", side=side, **where))
    shells = {maker(tag) for tags in body.tags for tag in tags if role(tag) == "inner"}
    for name in ("inner faces", "outer faces") if shells else ():
        rules.append(Rule(rule=name, **where))
    return _sorted(body, picked, [*rules, Rule(rule="every face", **where)])


def _sorted(body: Body, picked: int, rules: list[Rule]) -> list[Offer]:
    """Those of some rules that catch what was picked and more, one of each that catch the same, fewest first."""
    seen: dict[tuple[int, ...], Offer] = {}
    for rule in rules:
        items = resolve(body, rule).items
        if picked in items and len(items) > 1:
            seen.setdefault(items, (rule, items))
    return sorted(seen.values(), key=lambda offer: len(offer[1]))
