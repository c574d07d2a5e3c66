"""Names that hold: picks resolved after edits, judged by witness points and areas, never by names."""

from __future__ import annotations

import json
import math
from typing import Any

import pytest

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.errors import DocumentError
from supplecast.kernel import edges, measure
from supplecast.naming import (
    Body,
    EdgeRef,
    FaceRef,
    Rule,
    offered,
    offered_faces,
    reference_edge,
    reference_face,
    resolve_edges,
    resolve_faces,
)
from tests.conftest import TRAY, bodies, built, circle, extrude, part, rectangle

RIBBED = [
    *TRAY,
    {
        "id": "rib",
        "type": "sketch",
        "on": {"face": "shl.inner{ext.end}"},
        "draw": [{"kind": "rectangle", "width": "1.2", "height": "67"}],
    },
    extrude("rbx", "rib", "7 mm", result="add"),
    circle("bos", "7.2", on={"face": "shl.inner{ext.end}"}, x="40", y="20"),
    extrude("bor", "bos", "16 mm", draft="0.5", result="add"),
]


def body_of(document: Document) -> Body:
    return bodies(document)["ext"].body


@pytest.fixture(scope="module")
def ribbed() -> Body:
    return body_of(part(RIBBED))


def test_every_face_has_a_tag_and_none_is_weak(ribbed: Body) -> None:
    assert len(ribbed.tags) == ribbed.solid.face_count
    assert all(tags and not any("?" in tag for tag in tags) for tags in ribbed.tags)


def test_every_face_and_edge_resolves_to_itself(ribbed: Body) -> None:
    for face in range(ribbed.solid.face_count):
        found = resolve_faces(ribbed, reference_face(ribbed, face))
        assert (found.status in ("ok", "ordered"), found.items) == (True, (face,))
    for edge in range(ribbed.solid.number_of_edges):
        if not ribbed.solid.degenerate_edges[edge]:
            assert resolve_edges(ribbed, reference_edge(ribbed, edge)).items == (edge,)


def test_references_survive_their_json(ribbed: Body) -> None:
    for face in range(ribbed.solid.face_count):
        reference = reference_face(ribbed, face, "ext")
        assert FaceRef.model_validate_json(reference.model_dump_json()) == reference
    reference = reference_edge(ribbed, 5)
    assert EdgeRef.model_validate_json(reference.model_dump_json()) == reference


EDITS = [
    {"op": "set", "step": "out", "field": "figures.f1.width", "value": "150 mm"},
    {"op": "set", "step": "ext", "field": "distance", "value": "32 mm"},
    {"op": "set", "step": "upr", "field": "radius", "value": "6 mm"},
    {"op": "set", "step": "shl", "field": "wall", "value": "1.5 mm"},
    {"op": "set", "step": "rib", "field": "figures.f1.x", "value": "-9 mm"},
    {"op": "skip", "step": "bos"},
    {"op": "skip", "step": "upr"},
]


@pytest.mark.parametrize("change", EDITS, ids=[f"{e['op']}-{e['step']}" for e in EDITS])
def test_picks_are_right_or_flagged_after_edits(ribbed: Body, change: dict[str, str]) -> None:
    """Oracle: kind of surface, direction of flat faces, and side of the part: none of them uses a name."""
    document = part(RIBBED)
    if change["op"] == "skip" and change["step"] == "bos":
        document, _ = apply(document, read_edit({"op": "skip", "step": "bor"}))
    after = body_of(apply(document, read_edit(change))[0])
    for face in range(ribbed.solid.face_count):
        found = resolve_faces(after, reference_face(ribbed, face))
        if found.status != "ok":
            continue
        (now,) = found.items
        assert measure.surface_word(after.solid, now) == measure.surface_word(ribbed.solid, face) or change["step"] == "upr"
        if measure.is_flat(ribbed.solid, face) and measure.is_flat(after.solid, now):
            before_normal = measure.flat_frame(ribbed.solid, face).normal
            assert measure.flat_frame(after.solid, now).normal == pytest.approx(before_normal, abs=1e-9)
        for a, b in zip(measure.face_middle(ribbed.solid, face), measure.face_middle(after.solid, now), strict=True):
            assert abs(a) < 20 or abs(b) < 20 or a * b > 0


def test_a_face_cut_in_two_is_reported_as_split(ribbed: Body) -> None:
    plain = body_of(part(TRAY))
    floor = next(f for f, tags in enumerate(plain.tags) if tags[0] == "shl.inner{ext.end}")
    found = resolve_faces(ribbed, reference_face(plain, floor))
    assert found.status == "split" and len(found.items) == 2


def test_pieces_are_told_apart_by_what_lies_round_them(ribbed: Body) -> None:
    pieces = ribbed.faces_by_tag["shl.inner{ext.end}"]
    boss_side = next(p for p in pieces if measure.face_middle(ribbed.solid, p)[0] > 0)
    reference = reference_face(ribbed, boss_side)
    assert reference.has or reference.lacks
    wider = body_of(apply(part(RIBBED), read_edit(EDITS[0]))[0])
    found = resolve_faces(wider, reference)
    assert found.status == "ok" and measure.face_middle(wider.solid, found.items[0])[0] > 0


def test_what_is_gone_is_lost_not_guessed() -> None:
    plain, boxed = body_of(part(TRAY)), body_of(part(TRAY[:2]))
    gone = next(f for f, tags in enumerate(plain.tags) if tags[0].startswith("shl.inner"))
    assert resolve_faces(boxed, reference_face(plain, gone)).status == "lost"


def test_rules_catch_what_they_say(ribbed: Body) -> None:
    box = body_of(part(TRAY[:2]))

    def count(body: Body, **rule: str) -> int:
        return len(resolve_edges(body, Rule.model_validate(rule)).items)

    assert count(box, rule="uprights", of="ext") == 4
    assert count(box, rule="edges of", of="ext.end") == 4
    assert count(box, rule="made by", of="ext") == 12
    assert count(ribbed, rule="outer loop", of="ext.start") == 8
    straight = body_of(part([rectangle("s", "9", "9"), extrude("ext", "s", "5")]))
    assert count(straight, rule="parallel", of="ext", to="z") == 4
    assert resolve_edges(box, Rule(rule="uprights", of="zz")).status == "lost"


def pocketed() -> Body:
    """A block with a pocket: 16 convex edges and 8 concave ones, all sharp (counted by hand)."""
    pocket = rectangle("ps", "20", "10", on={"plane": "top", "offset": "10"})
    steps = [rectangle("s", "40", "30"), extrude("ext", "s", "10"), pocket]
    return body_of(part([*steps, extrude("pok", "ps", "4", direction="down", result="cut")]))


def test_rules_combine_and_tell_convex_from_concave() -> None:
    body = pocketed()

    def caught(**rule: object) -> set[int]:
        return set(resolve_edges(body, Rule.model_validate(rule)).items)

    assert (len(caught(rule="convex")), len(caught(rule="concave"))) == (16, 8)
    assert len(caught(rule="inner loops", of="ext.end")) == 4
    assert len(caught(rule="between", of="ext.end", other="pok.side[f1_L1]")) == 1
    assert len(caught(rule="made by", of="pok")) == 12
    upright = {"rule": "parallel", "to": "z"}
    assert len(caught(**upright)) == 8
    both = {"rule": "and", "rules": [upright, {"rule": "concave"}]}
    assert len(caught(**both)) == 4
    assert caught(rule="not", rules=[both]) == set(range(24)) - caught(**both)
    assert len(caught(rule="or", rules=[both, {"rule": "outer loop", "of": "ext.start"}])) == 8
    for wrong in ({"rule": "not", "rules": []}, {"rule": "between", "of": "a.b"}, {"rule": "tangent chain"}):
        with pytest.raises(ValueError, match=r"needs|takes"):
            Rule.model_validate(wrong)


def test_a_chain_runs_round_a_rounded_rim_and_a_radius_finds_its_like(ribbed: Body) -> None:
    plain = body_of(part(TRAY[:3]))
    rim = next(iter(resolve_edges(plain, Rule(rule="outer loop", of="ext.end")).items))
    chain = resolve_edges(plain, Rule(rule="tangent chain", edge=reference_edge(plain, rim)))
    assert len(chain.items) == 8
    straight = body_of(part([rectangle("s", "40", "30", radius="5"), extrude("ext", "s", "8")]))
    arc = next(e for e in range(straight.solid.number_of_edges) if edges.radius(straight.solid, e))
    assert len(resolve_edges(straight, Rule(rule="same radius", edge=reference_edge(straight, arc))).items) == 8


def test_a_pick_offers_rules_that_would_catch_it() -> None:
    body = pocketed()
    edge = next(e for e in range(24) if edges.bend(body.solid, e) == "concave")
    found = offered(body, edge, reference_edge(body, edge))
    assert all(edge in items and len(items) > 1 and resolve_edges(body, rule).items == items for rule, items in found)
    assert {"concave", "made by"} <= {rule.rule for rule, _ in found}


OPEN_TRAY = [
    rectangle("s", "40", "30"),
    extrude("ext", "s", "12"),
    {"id": "flt", "type": "fillet", "edges": [{"rule": "uprights", "of": "ext"}], "radius": "5"},
    {"id": "shl", "type": "shell", "wall": "2", "open": [{"face": "ext.end"}]},
]
# A tray of 40 × 30 × 12, its uprights rounded by 5, hollowed by 2 and open at the top: 8 sides, a floor and a rim outside,
# 8 sides and a floor inside.
FACES_CAUGHT = [
    ({"rule": "every face"}, 19),
    ({"rule": "flat faces"}, 11),
    ({"rule": "faces made by", "of": "ext"}, 6),
    ({"rule": "smooth faces", "face": {"face": "ext.side[f1_L1]"}}, 8),
    ({"rule": "round faces", "face": {"face": "flt.blend{ext.side[f1_L1]|ext.side[f1_L2]}"}}, 4),
    ({"rule": "faces square to", "to": "z"}, 3),
    ({"rule": "faces along", "to": "z"}, 16),
    ({"rule": "faces reaching", "side": "-z"}, 9),
    ({"rule": "faces reaching", "side": "+x"}, 5),
    ({"rule": "inner faces"}, 9),
    ({"rule": "outer faces", "of": "shl"}, 9),
    ({"rule": "and", "rules": [{"rule": "faces square to", "to": "z"}, {"rule": "faces reaching", "side": "+z"}]}, 1),
    ({"rule": "and", "rules": [{"rule": "every face"}, {"rule": "not", "rules": [{"rule": "inner faces"}]}]}, 10),
    ({"rule": "or", "rules": [{"rule": "inner faces"}, {"rule": "faces reaching", "side": "-z"}]}, 18),
]


@pytest.mark.parametrize(("rule", "count"), FACES_CAUGHT, ids=[json.dumps(rule) for rule, _ in FACES_CAUGHT])
def test_faces_are_caught_by_what_they_are(rule: dict[str, Any], count: int) -> None:
    """Counted by hand on the drawing."""
    assert len(resolve_faces(body_of(part(OPEN_TRAY)), Rule.model_validate(rule)).items) == count


def test_a_picked_face_offers_rules_that_catch_it_and_a_field_takes_rules_of_its_kind() -> None:
    body = body_of(part(OPEN_TRAY))
    for face in range(body.solid.face_count):
        offers = offered_faces(body, face, reference_face(body, face))
        assert all(face in items and len(items) > 1 and resolve_faces(body, rule).items == items for rule, items in offers)
    steps = [*OPEN_TRAY, {"id": "n", "type": "nudge", "faces": [{"rule": "inner faces"}], "distance": "0.5"}]
    # The hollow, 36 × 26 with rounds of 3, is filled by 0.5 from all sides; its rounds keep their middles.
    inside = (35 * 25 - (4 - math.pi) * 2.5**2) * 9.5
    volume = measure.volume(body_of(part(steps)).solid)
    assert volume == pytest.approx((40 * 30 - (4 - math.pi) * 25) * 12 - inside, rel=1e-9)
    with pytest.raises(DocumentError, match="catches edges, and faces are wanted here"):
        part([*OPEN_TRAY, {"id": "n", "type": "nudge", "faces": [{"rule": "convex"}], "distance": "0.5"}])


LOOSE_ENDS = [
    ("split", [rectangle("cs", "5", "30"), extrude("cc", "cs", "2", result="cut", direction="both ways")], 2),
    ("lost", [rectangle("cs", "99", "99"), extrude("cc", "cs", "2", result="cut", direction="both ways")], 0),
]


@pytest.mark.parametrize(("status", "between", "pieces"), LOOSE_ENDS, ids=[case[0] for case in LOOSE_ENDS])
def test_a_flagged_pick_comes_with_repairs_that_work(status: str, between: list[dict[str, Any]], pieces: int) -> None:
    """A chamfer of an edge that another step, put before it, cuts apart or takes away."""
    first = [rectangle("s", "40", "20"), extrude("ext", "s", "10")]
    body = body_of(part(first))
    edge = next(iter(resolve_edges(body, Rule(rule="between", of="ext.start", other="ext.side[f1_L1]")).items))
    pick = reference_edge(body, edge, "ext").model_dump(mode="json", exclude_none=True, exclude_defaults=True)
    document = part([*first, *between, {"id": "chm", "type": "chamfer", "edges": [pick], "distance": "0.5"}])
    outcome = built(document).outcome("chm")
    (flag,) = outcome.flags
    assert flag.status == status and (outcome.status == "failed") == (status == "lost")
    if status == "lost":
        assert "taken away by step 4" in outcome.message and "Pick 1" in outcome.message
        return
    repair = next(r for r in flag.repairs if len(r.picks) == pieces)
    fixed, _ = apply(
        document,
        read_edit({"op": "repair", "step": "chm", "field": flag.field, "index": flag.index, "picks": list(repair.picks)}),
    )
    after = built(fixed).outcome("chm")
    assert after.status == "ok" and not after.flags


def test_a_rule_keeps_working_when_the_outline_changes() -> None:
    hexagon = {"id": "out", "type": "sketch", "draw": [{"kind": "polygon", "diameter": "90", "sides": 6}]}
    body = body_of(part([hexagon, *TRAY[1:3]]))
    assert sum("upr.blend" in tags[0] for tags in body.tags) == 6
