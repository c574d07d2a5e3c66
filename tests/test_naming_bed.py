"""Names under random edits, over six parts: nothing wrong without a word. The judge uses points and sizes, never names."""

from __future__ import annotations

import math
from typing import Any

import pytest

from supplecast.naming import Body, EdgeRef, FaceRef, Resolution, reference_edge, reference_face, resolve_faces
from supplecast.naming.reference import EDGE, FACE
from tests.bed.oracle import Bed, found_by_points, run, size
from tests.bed.parts import BEDS, TRAY, cut_line
from tests.conftest import bodies, extrude, part, rectangle

EDITS = 18  # of each part


@pytest.mark.parametrize("bed", BEDS, ids=lambda bed: bed.name)
def test_no_pick_is_silently_wrong_after_random_edits(bed: Bed) -> None:
    assert len(bed.targets(bed.base)) == 15
    tally, wrongs = run(bed, EDITS, seed=20)
    assert tally["edits"] == EDITS and not tally["SILENT WRONG"], wrongs
    assert tally["lost, though there"] == 0, wrongs
    assert tally["right"] > 0.85 * EDITS * 15


def test_the_judge_catches_a_scheme_that_takes_the_nearest_point() -> None:
    """The bed has teeth: picks found again by their nearest saved point go wrong in it without a word."""
    start = bodies(TRAY.document(TRAY.base))["ext"].body
    places = {}
    for target in TRAY.targets(TRAY.base).values():
        assert target is not None
        item = found_by_points(start.solid, target)
        kind, make = (FACE, reference_face) if target.kind == "face" else (EDGE, reference_edge)
        places[make(start, item)] = kind.middle(start, item)

    def nearest(body: Body, reference: FaceRef | EdgeRef) -> Resolution:
        kind = FACE if isinstance(reference, FaceRef) else EDGE
        count = body.solid.face_count if isinstance(reference, FaceRef) else body.solid.number_of_edges
        usable = [i for i in range(count) if isinstance(reference, FaceRef) or not body.solid.degenerate_edges[i]]
        return Resolution("ok", (min(usable, key=lambda i: math.dist(kind.middle(body, i), places[reference])),))

    tally, _ = run(TRAY, 34, seed=20, resolver=nearest)
    assert tally["SILENT WRONG"] > 10


def test_both_halves_of_a_line_that_was_cut_keep_its_name() -> None:
    document = part([rectangle("out", "40", "30"), extrude("ext", "out", "10")])
    body = bodies(document)["ext"].body
    side = next(face for face in range(6) if body.tags[face] == ("ext.side[f1_L2]",))
    reference = reference_face(body, side)
    cut, words = cut_line(document, "out", "f1_L2", 0.25)
    assert words.startswith("Cut in ")
    now = bodies(cut)["ext"].body
    found = resolve_faces(now, reference)
    assert found.status == "split" and len(found.items) == 2
    assert size(now.solid, "face", found.items) == pytest.approx(300)
    sketch: Any = cut.step("out")
    younger = next(name for name, entity in sketch.entities.items() if entity.came_from == ("f1_L2",))
    again = cut_line(cut, "out", younger, 0.5)[0]
    assert len(resolve_faces(bodies(again)["ext"].body, reference).items) == 3
