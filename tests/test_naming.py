"""Names that hold: picks resolved after edits, judged by witness points and areas, never by names."""

from __future__ import annotations

import pytest

from supplecast.document.edit import apply, read_edit
from supplecast.document.model import Document
from supplecast.kernel import measure
from supplecast.naming import Body, EdgeRef, FaceRef, Rule, reference_edge, reference_face, resolve_edges, resolve_faces
from tests.conftest import TRAY, bodies, circle, extrude, part, rectangle

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


def test_a_rule_keeps_working_when_the_outline_changes() -> None:
    hexagon = {"id": "out", "type": "sketch", "draw": [{"kind": "polygon", "diameter": "90", "sides": 6}]}
    body = body_of(part([hexagon, *TRAY[1:3]]))
    assert sum("upr.blend" in tags[0] for tags in body.tags) == 6
