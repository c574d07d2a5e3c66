"""The handbook: a page for all there is, telling what the program really says, and reached from where one stands."""

from __future__ import annotations

import io
import re
from collections.abc import Iterable
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from supplecast.document.step import Step
from supplecast.handbook import pictures, topics
from supplecast.handbook.topic import Topic
from supplecast.sketch.tools import tools
from tests.conftest import STEPS, TRAY, built, circle, extrude, part, rectangle
from tests.referee.browser import Hands
from tests.referee.desk import Desk


def test_there_is_a_page_for_each_step_and_drawing_tool_and_every_page_opens(desk: Desk) -> None:
    known = topics()
    assert {topic.step for topic in known.values() if topic.step} == set(Step.registry)
    assert {f"drawing/{name.replace(' ', '-')}" for name in tools()} <= known.keys()
    for topic in known.values():
        answer = desk.client.get(f"/handbook/{topic.id}")
        page = answer.get_data(as_text=True)
        assert answer.status_code == 200 and topic.title in page and topic.purpose and topic.paragraphs, topic.id
        assert not re.search(
            r"[{}]|\bf\"|None\b", " ".join([topic.sentence, *topic.told.cautions, *(r.words for r in topic.told.refusals)])
        )
    assert (
        desk.client.get("/handbook/step/none").status_code == desk.client.get("/handbook/pictures/none.png").status_code == 404
    )
    whole = desk.client.get("/handbook/all").get_data(as_text=True)
    assert all(f'id="{topic.id.replace("/", "-")}"' in whole for topic in known.values())


def test_all_of_it_is_one_pdf_with_its_contents_as_bookmarks(desk: Desk) -> None:
    answer = desk.client.get("/handbook/handbook.pdf")
    book = PdfReader(io.BytesIO(answer.data))
    chapters = [one for one in book.outline if not isinstance(one, list)]
    titles = [one.title for rows in book.outline if isinstance(rows, list) for one in rows]
    assert len(chapters) == len({topic.chapter for topic in topics().values()}) and titles == [
        t.title for t in topics().values()
    ]
    text = " ".join(page.extract_text() for page in book.pages)
    assert "Hollow a body inwards" in text and "What goes wrong" in text


def test_its_pictures_are_of_steps_that_there_are_and_two_by_two(desk: Desk) -> None:
    shown = [kind for kind in Step.registry if pictures.of(kind)]
    assert len(shown) > 15 and {name.rsplit("-", 1)[0] for name in pictures.names()} == {k.replace(" ", "-") for k in shown}
    assert desk.client.get("/handbook/pictures/shell-after.png").data[:4] == b"\x89PNG"


def told(topic: Topic) -> Iterable[tuple[str, str]]:
    """What a page says goes wrong and what would do, as patterns."""
    for one in topic.told.refusals:
        words, mend = (".+?".join(map(re.escape, text.split("…"))) for text in (one.words, one.mend))
        yield words, mend


BOX: STEPS = [rectangle("out", "40 mm", "30 mm"), extrude("ext", "out", "20 mm")]
REFUSED: list[tuple[STEPS, dict[str, Any]]] = [
    ([BOX[0]], {**BOX[1], "id": "x", "draft": "60"}),
    (BOX, {"id": "x", "type": "shell", "wall": "2 mm", "open": [], "others": [{"faces": [], "wall": "3 mm"}]}),
    (BOX, {"id": "x", "type": "basic shape", "shape": "ring", "diameter": "10 mm", "tube": "12 mm"}),
    (TRAY, {"id": "x", "type": "opening check"}),
    ([circle("c", "20 mm")], {"id": "x", "type": "revolve", "profile": {"sketch": "c"}, "axis": {"axis": "z"}}),
]


@pytest.mark.parametrize("before, step", REFUSED, ids=lambda value: value["type"] if isinstance(value, dict) else "")
def test_what_a_build_refuses_stands_on_its_page(before: STEPS, step: dict[str, Any]) -> None:
    outcome = built(part([*before, step])).outcomes[-1]
    topic = topics()[f"step/{step['type'].replace(' ', '-')}"]
    assert outcome.status == "failed"
    assert any(re.fullmatch(words, outcome.message) and re.match(mend, outcome.hint) for words, mend in told(topic)), outcome


def test_help_is_two_acts_away_and_what_is_typed_finds_it(page: Page) -> None:
    """From an open step, from an open gauge, from a refusal; and by words that stand on a page but not in its title."""
    hands = Hands(page)
    hands.begin("Help")
    hands.sketch("rectangle")
    raised = hands.add("extrude")
    hands.type(raised, "distance", "10 mm")
    page.locator(f'[data-line="{raised}"] [data-open]').click()
    page.keyboard.press("?")
    link = page.locator("#keys").get_by_role("link", name="Extrude")
    assert str(link.get_attribute("href")).endswith("/handbook/step/extrude")
    page.keyboard.press("Escape")
    page.wait_for_function("() => bench.strip.length > 4")
    assert {f"gauge/{gauge}" for gauge in page.evaluate("bench.strip.map((one) => one.id)")} <= topics().keys()
    page.locator('[data-gauge="wall"]').click()
    expect(page.locator("#gauge-help")).to_have_attribute("href", "/handbook/gauge/wall")
    page.keyboard.press("Escape")
    page.locator("#add").fill("hollow")
    expect(page.locator("#look-up")).to_have_attribute("href", "/handbook?seek=hollow")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    hands.type(raised, "distance", "-4 mm")
    why = page.locator(f'[data-line="{raised}"] .fault a')
    with page.context.expect_page() as opening:
        why.click()
    book = opening.value
    expect(book.get_by_role("heading", name="What goes wrong")).to_be_in_viewport()
    book.keyboard.press("/")
    book.keyboard.type("concentric")
    found = book.locator("nav li:visible")
    expect(found).not_to_have_count(0)
    assert "Shell" in found.all_inner_texts()
    book.keyboard.press("Control+a")
    book.keyboard.type("shell")
    book.keyboard.press("Enter")
    expect(book.get_by_role("heading", name="Shell", exact=True)).to_be_visible()
    book.locator("#seek").fill("qwxyz")
    expect(book.get_by_text("No page speaks of that")).to_be_visible()
