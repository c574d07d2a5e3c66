"""The lessons: each is walked on the real screens, task by task, and tells by the document alone how far one is."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect
from scripts.lesson_pictures import ended

from supplecast import guide, lessons
from supplecast.document.model import Document
from supplecast.document.step import Step
from supplecast.errors import DocumentError
from supplecast.handbook import topics
from tests.conftest import built, part
from tests.referee.browser import Shop
from tests.referee.desk import Desk

TOLD = "() => document.getElementById('lesson-count').innerText"


def begun(page: Page, name: str) -> Shop:
    page.set_default_timeout(30_000)
    hands = Shop(page)
    page.goto("/lessons")
    page.locator(f'[data-lesson="{name}"]').get_by_role("button", name="Begin").click()
    hands.ready()
    expect(page.locator("#lesson-count")).to_have_text(f"1 of {len(lessons.lessons()[name].tasks)}")
    return hands


def worked(page: Page, hands: Shop, name: str, done: int) -> None:
    """Let the program do what is left: with each task it is one further, not more, and the place of the next one is lit."""
    tasks = lessons.lessons()[name].tasks
    for number in range(done + 1, len(tasks) + 1):
        expect(page.locator("#lesson-count")).to_have_text(f"{number} of {len(tasks)}")
        expect(page.locator("#lesson-do")).to_contain_text(tasks[number - 1].do[:12])
        page.locator("#lesson-show").dblclick()  # one who is impatient gets no second step
        hands.settle()
        expect(page.locator("#lesson-count")).to_have_text(f"{number + 1} of {len(tasks)}" if number < len(tasks) else "done")
    assert page.evaluate("bench.result.ok"), page.locator("#sheet").inner_text()


SHOWN = ("knob", "mending", "casting")
"""Lessons that are walked in the browser: of one's own outline, of what hangs on gauges, of a tool."""


@pytest.mark.parametrize("name", SHOWN)
def test_a_lesson_leads_from_its_beginning_to_its_end(page: Page, name: str) -> None:
    hands = begun(page, name)
    worked(page, hands, name, 0)
    expect(page.locator("#lesson-do")).to_have_text(lessons.lessons()[name].ends)
    page.goto("/lessons")
    expect(page.locator(f'[data-lesson="{name}"]')).to_contain_text(f"{len(lessons.lessons()[name].tasks)} of")


@pytest.mark.parametrize("name", [name for name in lessons.ORDER if name not in (*SHOWN, "production")])
def test_each_task_is_done_by_its_edit_and_no_sooner(desk: Desk, name: str) -> None:
    """The other lessons, asked as the card asks."""
    place = desk.client.post(f"/lessons/{name}", data={"token": desk.token}).headers["Location"]
    document = f"/api/documents/{place.rpartition('/')[2]}"
    tasks = lessons.lessons()[name].tasks
    for number in range(len(tasks) + 1):
        revision = desk.client.get(document).get_json()["revision"]
        desk.done(desk.post(f"{document}/build").get_json()["job"])
        desk.done(desk.post(f"{document}/gauges").get_json()["job"])
        told = desk.client.get(f"{document}/lesson").get_json()
        assert [task["done"] for task in told["tasks"]] == [k < number for k in range(len(tasks))], told
        if number < len(tasks):
            answer = desk.post(f"{document}/edits", base=revision, edit=told["edit"]).get_json()
            assert desk.done(answer["job"])["result"]["ok"], tasks[number].do


def test_the_first_one_by_hand_kept_over_a_reload_and_left(page: Page) -> None:
    """Undo takes a task back; another outline than the one that is told does as well; left, the document stays."""
    hands = begun(page, "knob")
    assert "#add" in page.evaluate(
        "() => document.adoptedStyleSheets.flatMap((s) => [...s.cssRules]).map((r) => r.selectorText).join()"
    )
    hands.chain("front", (0, 0), (13, 0), (11.5, 14), (0, 14), (0, 0))
    expect(page.locator("#lesson-count")).to_have_text("2 of 6")
    for _ in range(page.evaluate("bench.undoCount")):
        page.keyboard.press("Control+z")
        hands.settle()
    expect(page.locator("#lesson-count")).to_have_text("1 of 6")
    hands.figure("rectangle", "front", width="13 mm", height="14 mm", x="6.5 mm", y="7 mm")
    expect(page.locator("#lesson-count")).to_have_text("2 of 6")
    revolve = hands.add("revolve")
    hands.settle()
    expect(page.locator("#lesson-count")).to_have_text("3 of 6")
    page.reload()
    hands.ready()
    expect(page.locator("#lesson-count")).to_have_text("3 of 6")
    page.get_by_role("button", name="leave", exact=True).click()
    hands.settle()
    expect(page.locator("#lesson")).to_be_hidden()
    assert page.locator(f'[data-line="{revolve}"]').is_visible() and page.evaluate("bench.result.ok")


@pytest.mark.slow
def test_the_longest_one_ends_with_a_tool_that_opens() -> None:
    """Walked without a browser, which would build its 90 bodies a dozen times."""
    document, linked = ended("production")
    result = built(document, *linked.values())
    assert result.ok, [(o.step, o.field, o.message, o.hint) for o in result.outcomes if o.status != "ok"]
    used = {step.type for step in document.steps}
    assert all(set(one.steps) & used for task in lessons.lessons()["production"].tasks for one in task.done)


def named(value: Any) -> list[str]:
    """Types of steps that an edit means by `@`."""
    if isinstance(value, dict):
        return [found for one in value.values() for found in named(one)]
    if isinstance(value, (list, tuple)):
        return [found for one in value for found in named(one)]
    return [piece.split("!")[0].lstrip("123456789") for piece in value.split("@")[1:]] if isinstance(value, str) else []


@pytest.mark.parametrize("name", lessons.ORDER)
def test_a_lesson_names_what_there_is(name: str) -> None:
    """Steps, fields and gauges that it speaks of or points at are there; its steps are called as the list calls them."""
    lesson = lessons.lessons()[name]
    gauges = {topic.id.removeprefix("gauge/") for topic in topics().values() if topic.id.startswith("gauge/")}
    for task in lesson.tasks:
        for place in task.at:
            what, _, rest = place.partition(" ")
            kind, _, field = rest.partition(".")
            if what in ("add", "field", "draw"):
                assert kind in Step.registry and (not field or field in Step.registry[kind].model_fields), place
            elif what == "gauge":
                assert kind in gauges, place
        for one in task.done:
            assert set(one.steps) <= set(Step.registry) and (not one.gauge or one.gauge in gauges)
        if task.edit["op"] == "add":
            word = Step.registry[task.edit["type"]].word
            assert word in task.do, (word, task.do)
        assert all(kind.replace("_", " ") in Step.registry for kind in named(task.edit))
    assert 4 <= lesson.minutes <= 12 and len(lesson.tasks) >= 5


def test_a_task_that_goes_on_from_what_is_not_there_is_not_done_for_anybody(desk: Desk) -> None:
    """An extruded disc is as good as a turned one, but the fillet that the lesson would add is of the turned one's edge."""
    with pytest.raises(DocumentError, match="no revolve that this task could go on from"):
        lessons.meant(Document(), lessons.lessons()["knob"].tasks[2].edit)
    steps = [
        {"id": "s", "type": "sketch", "draw": [{"kind": "rectangle", "width": "14", "height": "14"}]},
        {"id": "e", "type": "extrude", "profile": {"sketch": "s"}, "distance": "14"},
    ]
    card = desk.library.add_document(desk.library.create_project("P").id, part(steps, lesson="knob"))
    unknown = desk.client.get(f"/api/documents/{card.id}/lesson").get_json()
    desk.done(desk.post(f"/api/documents/{card.id}/build").get_json()["job"])
    told = desk.client.get(f"/api/documents/{card.id}/lesson").get_json()
    assert not unknown["known"] and told["known"]
    assert [task["done"] for task in told["tasks"]][:3] == [True, True, False] and told["edit"] is None


def test_each_rule_of_the_guide_is_seen_in_a_part_and_watched_by_something(desk: Desk) -> None:
    """What a rule points at is there, its two sections differ, and its part opens standing where the rule is seen."""
    found = guide.rules()
    page = desk.client.get("/guide").get_data(as_text=True)
    assert len(found) == 20 and page.count("guide-section") == 40
    kinds = {name: {step.type for step in ended(name)[0].steps} for name in {rule.lesson for rule in found.values()}}
    for rule in found.values():
        assert set(rule.watched) <= set(topics()) and rule.at in kinds[rule.lesson] and rule.bad != rule.good, rule.id
        assert f'id="{rule.id}"' in page and rule.source
    for name in ("rib-thick", "shrinkage"):
        answer = desk.client.post(f"/guide/{name}", data={"token": desk.token})
        document, _, standing = answer.headers["Location"].rpartition("/")[2].partition("?at=")
        assert answer.status_code == 302 and desk.library.head(document).document.step(standing).type == found[name].at
    assert desk.client.post("/guide/none", data={"token": desk.token}).status_code == 404


def test_a_document_without_a_lesson_has_none_and_an_unknown_one_is_not_begun(desk: Desk) -> None:
    project = desk.library.create_project("P")
    card = desk.library.add_document(project.id, Document(name="Plain"))
    assert desk.client.get(f"/api/documents/{card.id}/lesson").get_json() is None
    strange = desk.library.add_document(project.id, Document(name="From elsewhere", lesson="welding"))
    assert desk.client.get(f"/api/documents/{strange.id}/lesson").get_json() is None
    assert desk.client.post("/lessons/welding", data={"token": desk.token}).status_code == 404
    assert desk.client.get("/lessons/welding.png").status_code == 404
