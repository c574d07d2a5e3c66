"""Random documents: steps of every kind, sound and unsound, with values from the plausible to the absurd."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

Step = dict[str, Any]

NUMBERS = st.one_of(
    st.floats(0.2, 40).map(lambda v: f"{v:.3g}"),
    st.floats(0.2, 40).map(lambda v: f"{v:.2f} mm"),
    st.sampled_from(["0", "-3", "1e-4", "1e9", "2 in", "w", "w*2", "1/0", "", "x", "5 deg", "∞", "9" * 60, "(", "min(2, 3)"]),
)
ANGLES = st.integers(0, 9).flatmap(
    lambda n: (
        st.sampled_from(["0", "90", "89", "-89", "360", "w", "1 mm"]) if n == 7 else st.floats(-9, 9).map(lambda v: f"{v:.2f}")
    )
)
TURNS = st.sampled_from(["360", "360", "90", "181.5", "0", "400"])


def fairly(good: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    """Mostly plausible sizes, sometimes anything."""
    return st.integers(0, 19).flatmap(lambda n: NUMBERS if n == 7 else good)


SIZES = fairly(st.floats(1, 50).map(lambda v: f"{v:.2f}"))
PLACES = fairly(st.floats(-25, 25).map(lambda v: f"{v:.1f}"))
SMALL = fairly(st.floats(0.2, 6).map(lambda v: f"{v:.2f}"))

FIGURES = st.one_of(
    st.fixed_dictionaries(
        {
            "kind": st.just("rectangle"),
            "width": SIZES,
            "height": SIZES,
            "radius": st.one_of(st.just("0"), SMALL),
            "x": PLACES,
            "y": PLACES,
        }
    ),
    st.fixed_dictionaries({"kind": st.just("circle"), "diameter": SIZES, "x": PLACES, "y": PLACES}),
    st.fixed_dictionaries({"kind": st.just("polygon"), "diameter": SIZES, "sides": st.integers(3, 9)}),
    st.fixed_dictionaries({"kind": st.just("slot"), "length": SIZES, "width": SMALL, "angle": ANGLES}),
)
BASES = st.one_of(
    st.builds(
        lambda w, h: {"kind": "rectangle", "width": f"{w:.1f}", "height": f"{h:.1f}"}, st.floats(20, 60), st.floats(15, 50)
    ),
    st.builds(lambda d: {"kind": "circle", "diameter": f"{d:.1f}"}, st.floats(15, 50)),
    st.builds(lambda d, n: {"kind": "polygon", "diameter": f"{d:.1f}", "sides": n}, st.floats(20, 60), st.integers(3, 8)),
)
BESIDE = st.builds(lambda d, x: {"kind": "circle", "diameter": f"{d:.1f}", "x": f"{x:.1f}"}, st.floats(2, 9), st.floats(9, 30))
THIN = st.builds(lambda d: {"kind": "circle", "diameter": f"{d:.1f}"}, st.floats(1, 8))
TAGS = st.sampled_from(["b.end", "b.start", "b.side[f1_L1]", "b.side[f1_C1]", "s1.inner{b.end}", "zz.end", "b.side[f1_L2]"])
FACES = st.lists(TAGS.map(lambda tag: {"face": tag}), max_size=2)
RULES = st.recursive(
    st.one_of(
        st.sampled_from(
            [
                {"rule": "convex"},
                {"rule": "concave"},
                {"rule": "uprights", "of": "b"},
                {"rule": "made by", "of": "b"},
                {"rule": "parallel", "to": "z"},
            ]
        ),
        st.builds(
            lambda name, tag: {"rule": name, "of": tag}, st.sampled_from(["outer loop", "inner loops", "edges of"]), TAGS
        ),
        st.builds(lambda a, b: {"edge": [a, b]}, TAGS, TAGS),
    ),
    lambda inner: st.one_of(
        st.builds(
            lambda name, rules: {"rule": name, "rules": rules},
            st.sampled_from(["and", "or"]),
            st.lists(inner.filter(lambda r: "rule" in r), min_size=1, max_size=3),
        ),
        inner.filter(lambda r: "rule" in r).map(lambda r: {"rule": "not", "rules": [r]}),
    ),
    max_leaves=3,
)
EDGES = st.lists(RULES, min_size=1, max_size=2)
PLANES = st.one_of(
    st.sampled_from(["top", "front", "side"]).map(lambda p: {"plane": p}),
    st.builds(lambda p, o: {"plane": p, "offset": o}, st.sampled_from(["top", "front", "side"]), PLACES),
    TAGS.map(lambda tag: {"face": tag}),
)
RESULTS = st.sampled_from(["new", "add", "cut", "intersect"])
SPOTS = st.lists(
    st.one_of(
        st.just({"origin": True}),
        TAGS.map(lambda tag: {"face": tag}),
        st.builds(lambda a, b, s: {"edge": [a, b], "share": s}, TAGS, TAGS, st.sampled_from(["0 %", "37 %", "100 %", "140 %"])),
        st.builds(lambda a, b: {"edge": [a, b], "at": "centre"}, TAGS, TAGS),
    ),
    max_size=3,
)
AXES = st.one_of(
    st.sampled_from(["x", "y", "z"]).map(lambda axis: {"axis": axis}),
    st.builds(lambda a, b: {"edge": [a, b]}, TAGS, TAGS),
    TAGS.map(lambda tag: {"face": tag}),
    st.sampled_from(["x", "y", "L1", "f1_L1"]).map(lambda line: {"sketch": "o", "line": line}),
)
BODIES = st.sampled_from([None, "b", "n3", "n4", "zz"])
COPIES = {
    "of": st.sampled_from(["a body", "steps", "faces"]),
    "steps": st.lists(st.sampled_from(["n3", "n4", "n5", "b"]), max_size=2),
    "faces": FACES,
    "tool": st.sampled_from([None, "n3", "n4"]),
}
OPEN = {
    "points": {"a": [0, 0], "b": [0, 30], "c": [20, 45]},
    "entities": {"P1": {"type": "line", "a": "a", "b": "b"}, "P2": {"type": "line", "a": "b", "b": "c"}},
}


def _step(what: str, **fields: st.SearchStrategy[Any]) -> st.SearchStrategy[Step]:
    return st.fixed_dictionaries({"type": st.just(what), **fields})


def _sketched(
    kind: str, on: st.SearchStrategy[Any] = PLANES, figures: st.SearchStrategy[Any] = FIGURES, **fields: st.SearchStrategy[Any]
) -> st.SearchStrategy[list[Step]]:
    """A sketch of its own and a step that uses it."""
    sketch = st.fixed_dictionaries({"type": st.just("sketch"), "on": on, "draw": st.lists(figures, min_size=1, max_size=2)})
    return st.tuples(sketch, _step(kind, **fields)).map(list)


SEEN = ["from above", "from the side"]


def _row(**fields: st.SearchStrategy[Any]) -> st.SearchStrategy[Step]:
    return st.fixed_dictionaries(fields)


def _ribbed(**fields: st.SearchStrategy[Any]) -> st.SearchStrategy[list[Step]]:
    """A sketch of open lines and a rib along them."""
    sketch = st.fixed_dictionaries({"type": st.just("sketch"), "on": PLANES, **{n: st.just(v) for n, v in OPEN.items()}})
    return st.tuples(sketch, _step("rib", **fields)).map(list)


LATER = st.one_of(
    _step("fillet", edges=EDGES, radius=SMALL).map(lambda s: [s]),
    _step("chamfer", edges=EDGES, distance=SMALL).map(lambda s: [s]),
    _step("fillet", edges=EDGES, radius=SMALL, others=st.lists(_row(edges=EDGES, radius=SMALL), max_size=2)).map(lambda s: [s]),
    _step(
        "chamfer",
        edges=EDGES,
        distance=SMALL,
        second=SMALL,
        angle=ANGLES,
        how=st.sampled_from(["by two distances", "by a distance and an angle"]),
    ).map(lambda s: [s]),
    _step(
        "shell",
        wall=SMALL,
        open=FACES,
        side=st.sampled_from(["inwards", "inwards", "outwards", "to both sides"]),
        others=st.lists(_row(wall=SMALL, faces=FACES), max_size=1),
    ).map(lambda s: [s]),
    _step("draft", faces=FACES, angle=ANGLES, neutral=PLANES).map(lambda s: [s]),
    _step(
        "draft",
        which=st.sampled_from(["all side faces", "side faces inside", "side faces outside"]),
        angle=ANGLES,
        neutral=PLANES,
        ways=st.sampled_from(["one way", "both ways"]),
    ).map(lambda s: [s]),
    _ribbed(thickness=SMALL, draft=ANGLES, root=st.sampled_from(["0", "0.4"]), seen=st.sampled_from(SEEN)),
    _step(
        "boss",
        level=PLANES,
        spots=SPOTS,
        screw=st.sampled_from(["2", "4"]),
        draft=ANGLES,
        gussets=st.sampled_from([0, 0, 3]),
        root=st.sampled_from(["0", "0.5"]),
        tied=st.sampled_from(["free-standing", "tied to the nearest wall"]),
    ).map(lambda s: [s]),
    _step(
        "lip",
        make=st.sampled_from(["a lip", "a groove"]),
        rim=FACES,
        height=SMALL,
        draft=ANGLES,
        where=st.sampled_from(["on the inside", "on the outside", "in the middle"]),
    ).map(lambda s: [s]),
    _step(
        "lettering",
        text=st.sampled_from(["R2", "é", "漢", " "]),
        on=FACES,
        x=PLACES,
        y=PLACES,
        height=SMALL,
        direction=st.sampled_from(["raised", "sunk"]),
        draft=ANGLES,
    ).map(lambda s: [s]),
    _sketched("contour", make=st.sampled_from(["a recess", "a pad"]), face=FACES, depth=SMALL, draft=ANGLES),
    _step("snap", level=PLANES, spots=SPOTS, toward=AXES, length=SIZES, thickness=SMALL, undercut=SMALL).map(lambda s: [s]),
    _step("mirror", across=PLANES, result=st.sampled_from(["joined", "as a new body"])).map(lambda s: [s]),
    _sketched(
        "extrude",
        distance=SIZES,
        direction=st.sampled_from(["up", "down", "both ways"]),
        draft=st.one_of(st.just("0"), ANGLES),
        result=RESULTS,
        extent=st.sampled_from(
            ["by distance", "by distance", "by two lengths", "through all", "to the next body", "to a face"]
        ),
        fill=st.sampled_from(["filled", "filled", "filled", "as a wall", "as a surface"]),
        up_to=FACES,
        gap=SMALL,
        start=st.one_of(st.just("0"), PLACES),
    ),
    _sketched(
        "revolve",
        figures=st.one_of(FIGURES, BESIDE),
        axis=st.one_of(st.sampled_from(["x", "y"]), AXES),
        angle=TURNS,
        result=RESULTS,
        turn=st.sampled_from(["by", "both ways by", "by two angles"]),
        fill=st.sampled_from(["filled", "filled", "closed along the axis", "as a wall"]),
    ),
    _sketched(
        "sweep",
        on=PLANES,
        figures=st.one_of(FIGURES, THIN),
        result=RESULTS,
        corners=st.sampled_from(["mitred", "rounded"]),
        bend=SMALL,
        place=st.sampled_from(["where it fits", "by its middle", "by its origin"]),
    ),
    _sketched(
        "loft",
        on=st.just({"plane": "top", "offset": "20"}),
        result=RESULTS,
        shape=st.sampled_from(["straight", "smooth"]),
        turn=st.integers(-3, 3),
    ),
    _step("hole", diameter=SMALL, into=PLANES, spots=SPOTS, deep=st.sampled_from(["through", "to a depth"]), depth=SIZES).map(
        lambda s: [s]
    ),
    _step(
        "screw hole",
        size=st.sampled_from(["M2", "M5", "M12"]),
        kind=st.sampled_from(["clearance", "tapped", "counterbore", "countersink"]),
        into=PLANES,
        spots=SPOTS,
    ).map(lambda s: [s]),
    _step("plane", how=st.just("touching"), face=FACES, angle=ANGLES).map(lambda s: [s]),
    _step("plane", how=st.just("through three points"), points=SPOTS).map(lambda s: [s]),
    _step("plane", how=st.sampled_from(["through an edge", "midway"]), line=AXES, angle=ANGLES, base=PLANES).map(lambda s: [s]),
    _step("axis", how=st.sampled_from(["along", "through two points"]), of=AXES, points=SPOTS).map(lambda s: [s]),
    _step("nudge", faces=FACES, distance=PLACES).map(lambda s: [s]),
    _step("remove face", faces=FACES).map(lambda s: [s]),
    _step("remove face", faces=FACES, instead=st.just("a plane takes its place"), plane=PLANES).map(lambda s: [s]),
    _sketched("score", on=PLANES, face=FACES),
    _step("split body", body=BODIES, plane=PLANES, keep=st.sampled_from(["all pieces", "the front", "the back"])).map(
        lambda s: [s]
    ),
    _step("split body", along=st.just("a face"), face=FACES).map(lambda s: [s]),
    _step("move", body=BODIES, x=PLACES, copy_it=st.sampled_from(["itself", "a copy"])).map(lambda s: [s]),
    _step("move", how=st.just("seated"), face=FACES, onto=FACES, gap=SMALL).map(lambda s: [s]),
    _step("scale", body=BODIES, how=st.sampled_from(["evenly by", "per axis by"]), factor=SMALL, x=SMALL).map(lambda s: [s]),
    _step("intersect", body=BODIES, tools=st.lists(st.sampled_from(["b", "n3", "n4", "zz"]), max_size=2)).map(lambda s: [s]),
    _step("delete body", bodies=st.lists(st.sampled_from(["b", "n3", "zz"]), max_size=2)).map(lambda s: [s]),
    _step("offset surface", faces=FACES, distance=PLACES).map(lambda s: [s]),
    _step("thicken", wall=SMALL, side=st.sampled_from(["in front", "behind", "on both sides"])).map(lambda s: [s]),
    _step("sew", surfaces=st.lists(st.sampled_from(["b", "n3", "n4", "n5"]), max_size=3)).map(lambda s: [s]),
    _step("extend surface", by=SMALL).map(lambda s: [s]),
    _step("measure", of=FACES).map(lambda s: [s]),
    _step("ring", count=st.integers(1, 7), axis=AXES, body=st.just("b"), result=st.sampled_from(["add", "cut"]), **COPIES).map(
        lambda s: [s]
    ),
    _step("mirror", across=PLANES, of=st.sampled_from(["steps", "faces"]), faces=FACES, steps=COPIES["steps"]).map(
        lambda s: [s]
    ),
    _step("union", tools=st.lists(st.sampled_from(["b", "n3", "n4", "zz"]), max_size=2)).map(lambda s: [s]),
    _step("subtract", tools=st.lists(st.sampled_from(["b", "n3", "n4", "zz"]), max_size=2)).map(lambda s: [s]),
    _step(
        "pattern",
        body=st.just("b"),
        count=st.integers(1, 5),
        rows=st.sampled_from([1, 1, 3]),
        spacing=PLACES,
        result=st.sampled_from(["add", "cut", "as new bodies"]),
        **COPIES,
    ).map(lambda s: [s]),
)
TOOLING = [
    {"type": "shrink"},
    {"type": "block", "around": "15", "below": "15", "above": "15"},
    {"type": "subtract part"},
    {"type": "split", "at": {"plane": "top"}},
    {"type": "register pins", "inset": "6"},
    {"type": "feed"},
    {"type": "trial shot"},
]


def _numbered(first: list[Step], groups: list[list[Step]], tooling: bool) -> list[Step]:
    steps = list(first)
    for group in groups:
        sketch = None
        for step in group:
            name = f"n{len(steps)}"
            step = {"id": name, **step}
            if step["type"] == "sketch":
                sketch = name
            elif step["type"] == "loft":
                step.update(over=[{"sketch": "o"}, {"sketch": sketch}])
            elif step["type"] == "rib":
                step["line"] = {"sketch": sketch}
            elif step["type"] == "sweep":
                step.update(profile={"sketch": sketch}, path={"sketch": "path"})
            elif sketch is not None:
                step["profile"] = {"sketch": "path" if step.get("fill", "filled") != "filled" else sketch}
            steps.append(step)
    if tooling:
        steps += [{"id": f"t{i}", **step} for i, step in enumerate(TOOLING)]
    return steps


@st.composite
def documents(draw: st.DrawFn) -> dict[str, Any]:
    """A document's JSON: an outline raised to a body, then up to five groups of steps, sometimes a mold at the end."""
    first = [
        {"id": "o", "type": "sketch", "draw": [draw(st.one_of(BASES, BASES, FIGURES))]},
        {"id": "path", "type": "sketch", "on": {"plane": "front"}, **OPEN},
        {
            "id": "b",
            "type": "extrude",
            "profile": {"sketch": "o"},
            "distance": draw(SIZES),
            "draft": draw(st.one_of(st.just("0"), ANGLES)),
        },
    ]
    tooling = draw(st.sampled_from([False, False, False, True]))
    steps = _numbered(first, draw(st.lists(LATER, max_size=5)), tooling)
    return {
        "format": "supplecast",
        "version": 1,
        "kind": "tool" if tooling else "part",
        "name": "Fuzz",
        "values": {"w": draw(st.sampled_from(["2 mm", "0.5", "w", "1/0", "30"]))},
        "steps": steps,
    }
