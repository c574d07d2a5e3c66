"""Which rules a picked edge suggests."""

from __future__ import annotations

from supplecast import kernel
from supplecast.naming.body import Body
from supplecast.naming.reference import EdgeRef
from supplecast.naming.resolve import resolve_edges
from supplecast.naming.rules import Rule, caught
from supplecast.naming.tag import maker, role


def offered(body: Body, picked: int, reference: EdgeRef) -> list[tuple[Rule, int]]:
    """The rules that would catch a picked edge and more, each with the number of edges it catches, fewest first."""
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
    seen: dict[tuple[int, ...], tuple[Rule, int]] = {}
    for rule in rules:
        items = caught(body, rule, resolve_edges)
        if picked in items and len(items) > 1:
            seen.setdefault(items, (rule, len(items)))
    return sorted(seen.values(), key=lambda offer: offer[1])
