"""Hints: each speaks where it should and nowhere else, its mend silences it, and so does muting it."""

from __future__ import annotations

from typing import Any

import pytest

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.hints import Hint, heard
from tests.conftest import STEPS, built, drawn, extrude, part, rectangle

BOX: STEPS = [rectangle("s", "60", "40"), extrude("e", "s", "20")]
SHELL = {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.end"}]}
ROUNDS = {"id": "f", "type": "fillet", "edges": [{"rule": "uprights", "of": "e"}], "radius": "5"}
FOOT = {"id": "g", "type": "fillet", "edges": [{"rule": "outer loop", "of": "e.start"}], "radius": "3"}
TRAY = [*BOX, ROUNDS, FOOT, SHELL]
LINE = drawn(
    "l", {"a": (-9, 0), "b": (9, 0)}, {"L1": {"type": "line", "a": "a", "b": "b"}}, on={"plane": "top", "offset": "12"}
)
SPOT = {"id": "q", "type": "sketch", "on": {"plane": "top", "offset": "12"}, "points": {"a": (0, 8)}}
RIB = {"id": "r", "type": "rib", "line": {"sketch": "l"}, "draft": "0.5", "thickness": "1.4"}
BOSS = {"id": "b", "type": "boss", "sketch": "q", "level": {"plane": "top", "offset": "12"}, "deep": "to a depth", "depth": "5"}
SIDES = [{"face": f"e.side[f1_L{n}]"} for n in (1, 2, 3, 4)]

CASES: dict[str, tuple[STEPS, str]] = {
    "rounds after the shell": ([*BOX, FOOT, SHELL, {**ROUNDS, "radius": "1"}], "f"),
    "draft after rounds": ([*BOX, FOOT, {"id": "d", "type": "draft", "faces": SIDES, "angle": "1",
                                         "neutral": {"plane": "top", "offset": "20"}}], "d"),
    "rib over the rule": ([*TRAY, LINE, RIB], "r"),
    "thick foot": ([*TRAY, SPOT, BOSS], "b"),
    "thin wall": ([*BOX, ROUNDS, FOOT, {**SHELL, "wall": "0.7"}], "h"),
    "wide lip": ([*TRAY, {"id": "p", "type": "lip", "rim": [{"face": "e.end"}], "share": "70 %"}], "p"),
    "sharp corner": ([*BOX, SHELL], "h"),
}  # fmt: skip


def hints(document: Document) -> list[Hint]:
    return heard(document, built(document))


def edited(document: Document, edit: Any) -> Document:
    changed, _ = apply(document, read_edit(edit))
    return changed


@pytest.mark.parametrize("rule", CASES)
def test_a_hint_speaks_and_its_mend_silences_it(rule: str) -> None:
    steps, step = CASES[rule]
    document = part(steps, resin="ABS")
    (hint,) = [h for h in hints(document) if h.rule == rule]
    assert hint.step == step and hint.words and hint.fix and hint.edit
    mended = edited(document, hint.edit)
    result = built(mended)
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status == "failed"]
    assert rule not in {h.rule for h in heard(mended, result)}


@pytest.mark.parametrize("rule", CASES)
def test_a_muted_hint_is_quiet_until_all_may_speak_again(rule: str) -> None:
    steps, step = CASES[rule]
    document = part(steps, resin="ABS")
    muted = edited(document, {"op": "mute", "rule": rule, "step": step})
    assert {h.rule for h in hints(muted)} == {h.rule for h in hints(document)} - {rule}
    assert {h.rule for h in hints(edited(muted, {"op": "mute"}))} == {h.rule for h in hints(document)}


def test_a_part_made_in_good_order_hears_nothing() -> None:
    assert hints(part([*TRAY, LINE, {**RIB, "thickness": "1"}, SPOT, {**BOSS, "deep": "leaving a floor"}], resin="ABS")) == []


def test_a_wall_that_is_a_named_value_is_mended_there() -> None:
    document = part([*BOX, ROUNDS, FOOT, {**SHELL, "wall": "wall"}], resin="ABS", values={"wall": "0.7 mm"})
    (hint,) = [h for h in hints(document) if h.rule == "thin wall"]
    assert edited(document, hint.edit).values == {"wall": "1 mm"}


def test_rounds_of_the_inside_may_come_after_the_shell() -> None:
    inside = {"id": "f", "type": "fillet", "edges": [{"rule": "made by", "of": "h"}], "radius": "0.4"}
    assert "rounds after the shell" not in {h.rule for h in hints(part([*BOX, SHELL, inside]))}
