"""The drawing sheet's part of the API, and the labels it is given: what the page sends, and what comes of it."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator
from typing import Any

import pytest

from supplecast.quantities import Scope
from supplecast.sketch.labels import labels
from supplecast.sketch.model import Drawing
from supplecast.workers.engine import Engine
from tests.conftest import TRAY, part
from tests.referee.desk import Desk
from tests.referee.photos import png
from tests.referee.sketches import act, pick

SCOPE = Scope()


@pytest.fixture(scope="module")
def engine() -> Iterator[Engine]:
    made = Engine(slots=1)
    yield made
    made.close()


class Surface:
    """One sketch under the API."""

    def __init__(self, desk: Desk, document: str, step: str) -> None:
        self.desk, self.document, self.step = desk, document, step
        self.answer: dict[str, Any] = self.get()

    def path(self, rest: str = "") -> str:
        return f"/api/documents/{self.document}/sketches/{self.step}{rest}"

    def get(self) -> dict[str, Any]:
        return dict(self.desk.client.get(self.path()).get_json())

    def act(self, *acts: dict[str, Any], **more: Any) -> Any:
        answer = self.desk.post(self.path("/acts"), base=self.answer["revision"], acts=list(acts), **more)
        if answer.status_code == 200 and not more:
            self.answer = answer.get_json()
        return answer

    @property
    def scene(self) -> dict[str, Any]:
        return dict(self.answer["scene"])

    def send(self, rest: str, content: bytes, name: str) -> Any:
        data = {"file": (io.BytesIO(content), name)}
        return self.desk.client.post(self.path(rest), data=data, headers={"X-Token": self.desk.token})


@pytest.fixture
def sheet(desk: Desk) -> Surface:
    steps = [*TRAY, {"id": "s", "type": "sketch", "on": {"plane": "top"}}]
    return Surface(desk, desk.library.add_document(desk.library.create_project("P").id, part(steps)).id, "s")


SQUARE = {"do": "draw", "tool": "rectangle by corners", "picks": [pick(0, 0), pick(30, 20)], "sizes": {"width": "30"}}


def test_acts_are_kept_as_revisions_and_undone(sheet: Surface) -> None:
    drawn = sheet.act(SQUARE).get_json()
    assert drawn["revision"] == 2 and drawn["scene"]["freedoms"] == 3 and len(drawn["made"]) == 4
    (width,) = drawn["scene"]["sizes"]
    wider = sheet.act({"do": "retype", "constraint": width["id"], "value": "45 mm"}).get_json()
    assert wider["scene"]["area"] == pytest.approx(45 * 20, rel=0.05) and wider["scene"]["sizes"][0]["text"] == "45"
    assert sheet.get()["scene"] == wider["scene"]
    history = sheet.desk.client.get(f"/api/documents/{sheet.document}/history").get_json()["revisions"]
    assert [past["change"] for past in history][:2] == ["Size 45 mm in Sketch", "Rectangle by corners in Sketch"]
    sheet.desk.post(f"/api/documents/{sheet.document}/undo")
    assert sheet.get()["scene"]["sizes"][0]["text"] == "30"
    stale = sheet.act(SQUARE)
    assert stale.status_code == 409 and "changed elsewhere" in stale.get_json()["title"]


def test_what_is_only_tried_is_not_kept_and_a_refusal_is_an_answer(sheet: Surface) -> None:
    tried = sheet.act(SQUARE, **{"try": True}).get_json()
    assert len(tried["scene"]["entities"]) == 4 and sheet.get()["scene"]["entities"] == []
    refused = sheet.act({"do": "erase", "names": ["nothing"]}, {"do": "trim", "cuts": [["L1", [0, 0]]]}, **{"try": True})
    assert refused.status_code == 200 and refused.get_json()["scene"] is None and refused.get_json()["words"]


def test_a_clash_names_what_it_clashes_with_and_offers_a_driven_size(sheet: Surface) -> None:
    scene = sheet.act(SQUARE).get_json()["scene"]
    ends = scene["entities"][2]["ends"]
    again = {"do": "size", "on": ends, "label": [15, 30]}
    clash = sheet.act(again)
    told = clash.get_json()
    assert clash.status_code == 422 and told["drive"] and scene["sizes"][0]["id"] in told["lit"]
    kept = sheet.act({**again, "driven": True}).get_json()["scene"]
    assert [size["text"] for size in kept["sizes"]] == ["30", "(30)"]


def test_the_pointer_is_told_what_it_means_and_what_would_be_drawn(sheet: Surface) -> None:
    sheet.act(SQUARE)
    start = {"x": 0, "y": 40, "snaps": []}
    guess = {"cursor": [25, 40.3], "unit": 0.2, "tool": "line", "picks": [start]}
    told = sheet.desk.post(sheet.path("/guess"), **guess).get_json()
    assert [snap["type"] for snap in told["pick"]["snaps"]] == ["horizontal"] and told["pick"]["y"] == 40
    assert told["words"] == "horizontal" and told["measures"]["length"] == "25" and told["preview"][0]["kind"] == "line"
    free = sheet.desk.post(sheet.path("/guess"), **guess, free=True).get_json()
    assert free["pick"]["snaps"] == [] and free["pick"]["y"] == 40.3
    wrong = sheet.desk.post(sheet.path("/guess"), **guess, sizes={"length": "-4"}).get_json()
    assert "greater than 0" in wrong["refusal"]
    assert sheet.desk.post(sheet.path("/guess"), cursor=[1, "x"]).status_code == 422


def test_a_drag_is_shown_and_kept_only_when_it_is_dropped(sheet: Surface) -> None:
    scene = sheet.act(SQUARE).get_json()["scene"]
    corner = next(name for name, place in scene["points"].items() if place == pytest.approx([30, 20]))
    direction = {"name": corner, "from": [30, 20], "to": [34, 26], "begin": True}
    shown = sheet.desk.post(sheet.path("/drag"), **direction).get_json()["scene"]
    assert shown["points"][corner] == pytest.approx([34, 26], abs=0.5) and sheet.get()["scene"]["points"] == scene["points"]
    points = {name: place for name, place in shown["points"].items() if name != "o"}
    kept = sheet.act({"do": "dropped", "points": points}).get_json()["scene"]
    assert kept["points"][corner] == pytest.approx(shown["points"][corner], abs=1e-6)
    fixed = sheet.desk.post(sheet.path("/drag"), **{**direction, "name": "o"})
    assert fixed.status_code == 422 and fixed.get_json()["detail"]


def test_the_piece_a_trim_would_take_is_shown(sheet: Surface) -> None:
    sheet.act(SQUARE, {"do": "draw", "tool": "line", "picks": [pick(12, -5), pick(12, 25)]})
    side = sheet.scene["entities"][0]["id"]
    piece = sheet.desk.post(sheet.path("/trims"), entity=side, at=[20, 0]).get_json()["piece"]
    assert (piece["a"], piece["b"]) == (pytest.approx([12, 0]), pytest.approx([30, 0]))
    gone = sheet.act({"do": "trim", "cuts": [[side, [20, 0]]]}).get_json()
    # The next side still ends at the corner, so the width goes on holding it: nothing is lost; the line across was free to
    # move, and so is the new end on it, but the rectangle's side between is no longer one.
    assert gone["words"] == "Freedoms 7 → 8." and gone["scene"]["sizes"][0]["text"] == "30"
    left = next(entity for entity in gone["scene"]["entities"] if entity["id"] == side)
    assert left["b"] == pytest.approx([12, 0]) and len(gone["scene"]["gaps"]) == 3


def test_curves_come_from_the_model_and_from_files_and_go_out(sheet: Surface) -> None:
    told = sheet.desk.post(sheet.path("/take"), how="section", picked={"body": "ext"}).get_json()
    taken = sheet.desk.done(told["job"])["result"]["curves"]
    assert {curve["source"]["how"] for curve in taken} == {"section"} and len(taken) == 16
    kept = sheet.act({"do": "take", "curves": taken}).get_json()["scene"]
    assert all(entity["taken"] and entity["construction"] for entity in kept["entities"]) and kept["freedoms"] == 0
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm" viewBox="0 0 9 9"><path d="M0 0H9V9Z"/></svg>'
    read = sheet.desk.done(sheet.send("/outlines", svg, "a.svg").get_json()["job"])["result"]["curves"]
    sheet.act({"do": "bring in", "curves": read})
    assert sheet.scene["area"] == pytest.approx(40.5)
    broken = sheet.desk.done(sheet.send("/outlines", b"no outline", "a.dxf").get_json()["job"])
    assert broken["state"] == "failed" and "neither DXF nor SVG" in broken["message"] and broken["hint"]
    written = sheet.desk.client.get(sheet.path("/file?format=dxf"))
    assert b"SECTION" in written.data and ".dxf" in written.headers["Content-Disposition"]
    assert sheet.desk.client.get(sheet.path("/file?format=gif")).status_code == 422


def test_photos_lie_under_their_own_sketch_only(sheet: Surface) -> None:
    photo = sheet.send("/photos", png(40, 30), "scan.png").get_json()["photo"]
    assert photo["pixels"] == [40, 30]
    address = sheet.path(f"/photos/{photo['asset']}")
    assert sheet.desk.client.get(address).status_code == 404
    sheet.act({"do": "add photo", "photo": photo})
    found = sheet.desk.client.get(address)
    assert found.mimetype == "image/png" and found.data == png(40, 30)
    assert sheet.send("/photos", b"GIF89a", "scan.gif").status_code == 422


# --- labels ---------------------------------------------------------------------------------------------------------

CROSS = {
    "points": {"a": (0, 0), "b": (30, 0), "c": (0, 0.0), "d": (20, 20), "m": (50, 0), "n": (0, -20)},
    "entities": {
        "L": {"type": "line", "a": "a", "b": "b"},
        "M": {"type": "line", "a": "c", "b": "d"},
        "C": {"type": "circle", "c": "m", "r": 8},
    },
}
DRAWN = [
    # what is sized, where its label lies, how many lines, arcs and arrows show it, and what it says
    (["a", "b"], (15, -9), 3, 0, 2, ""),
    (["a", "n"], (-8, -10), 3, 0, 2, ""),
    (["C"], (70, 0), 1, 0, 2, "⌀ "),
    (["L", "M"], (12, 5), 0, 1, 2, ""),
    (["d", "L"], (40, 10), 3, 0, 2, ""),
]


@pytest.mark.parametrize(("on", "at", "lines", "arcs", "arrows", "sign"), DRAWN)
def test_labels_stand_where_they_were_put_with_what_shows_their_size(
    on: list[str], at: tuple[float, float], lines: int, arcs: int, arrows: int, sign: str
) -> None:
    done = act(Drawing.model_validate(CROSS), {"do": "size", "on": on, "label": at})
    (label,) = labels(done.drawing).values()
    assert label.at == at and label.sign == sign
    assert (len(label.lines), len(label.arcs), len(label.arrows)) == (lines, arcs, arrows)
    assert all(math.hypot(dx, dy) == pytest.approx(1) for _, _, dx, dy in label.arrows)
    for _, _, radius, start, end in label.arcs:
        assert radius == pytest.approx(math.hypot(*at)) and end - start == pytest.approx(math.pi / 4)


def test_a_label_left_alone_keeps_clear_of_the_outline() -> None:
    done = act(Drawing(), SQUARE)
    (label,) = labels(done.drawing).values()
    assert label.at[0] == pytest.approx(15) and (label.at[1] < -1 or label.at[1] > 21)
