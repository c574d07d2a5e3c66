"""Judging in workers and in the browser: gauges, maps, sections, comparison, grades and the report."""

from __future__ import annotations

import io
import math
import struct
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
from playwright.sync_api import Page
from pydantic import ValidationError

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document, parse_document
from supplecast.errors import DocumentError, QuantityError, StoreError, SuppleError
from supplecast.exchange.datasheet import Datasheet, Reading
from supplecast.exchange.datasheet_pdf import write_pdf
from supplecast.kernel import measure
from supplecast.store import shelf
from supplecast.store.library import Library
from supplecast.tooling.grades import Grade
from supplecast.tooling.resins import RESINS
from supplecast.wire.comparisons import OnlyInOne
from supplecast.wire.options import Build, Compare, Judge, Nothing, Report, Section, SectionFile
from supplecast.wire.results import Gauges
from supplecast.workers.verbs import building, comparing, judging, sectioning
from tests.conftest import STEPS, bodies, chain, circle, extrude, part, rectangle
from tests.referee.browser import opened, served
from tests.referee.tasks import task

TRAY: STEPS = [
    rectangle("s", "60 mm", "40 mm"),
    extrude("e", "s", "20 mm", direction="down", draft="2 deg"),
    {"id": "u", "type": "fillet", "edges": [{"rule": "uprights", "of": "e"}], "radius": "6 mm"},
    {"id": "f", "type": "fillet", "edges": [{"rule": "outer loop", "of": "e.end"}], "radius": "4 mm"},
    {"id": "h", "type": "shell", "wall": "2 mm", "open": [{"face": "e.start"}]},
]


def judge(document: Document, folder: Path) -> Gauges:
    return judging.judge(task(document, folder), Judge())


def floats(folder: Path, name: str) -> np.ndarray:
    return np.frombuffer((folder / name).read_bytes(), dtype="<f4")


# --- workers --------------------------------------------------------------------------------------------------------


def test_a_part_is_judged_with_maps_that_are_made_once(tmp_path: Path) -> None:
    document, _ = apply(part(TRAY), read_edit({"op": "document", "gate": [0, 0, -18]}))
    judged = judge(document, tmp_path)
    assert [gauge.id for gauge in judged.gauges] == ["wall", "draft", "undercut", "sink", "flow", "mass", "clamp"]
    (skin,) = judged.skins
    assert floats(tmp_path, skin.skin).size == 12 * skin.triangles
    for name in ("wall", "rays", "draft", "undercut", "flow"):
        assert floats(tmp_path, skin.maps[name]).size == skin.triangles
    written = {path.name: path.stat().st_mtime_ns for path in tmp_path.glob("*.f32")}
    other = document.model_copy(update={"resin": "PP"})
    assert judge(other, tmp_path).gauges[5].name == "Mass, PP"
    assert {path.name: path.stat().st_mtime_ns for path in tmp_path.glob("*.f32")} == written
    assert judged.gate == (0, 0, -18)


def test_maps_not_asked_for_are_thrown_away(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(judging, "_KEPT_MAPS", 6)
    first, second = part(TRAY), part([*TRAY[:-1], {**TRAY[-1], "wall": "1.5 mm"}])
    old, new = (judge(document, tmp_path).skins[0] for document in (first, second))
    kept = {path.name for path in tmp_path.glob("*.f32")}
    assert len(kept) == 6 and {new.skin, *new.maps.values()} <= kept and old.skin not in kept
    again = judge(first, tmp_path).skins[0]
    assert (tmp_path / again.skin).exists() and not (tmp_path / new.skin).exists()


SHEET: STEPS = [
    chain("k", (0, 0), (9, 0)),
    {"id": "w", "type": "extrude", "profile": {"sketch": "k"}, "distance": "5", "fill": "as a surface"},
]


def test_the_exact_mass_comes_from_the_shelf(tmp_path: Path) -> None:
    """What a build has integrated is not integrated again, unless it is damaged."""
    document = part(TRAY)
    built = building.build(task(document, tmp_path), Build())
    (kept,) = tmp_path.glob("*.mass")
    (entry,) = bodies(document).values()
    shelf.recall_mass(entry, tmp_path)
    known = measure.MASS.known(entry.body.solid)
    assert known is not None and known.volume == built.bodies[0].volume
    kept.write_bytes(kept.read_bytes()[:-3])
    (fresh,) = bodies(document).values()
    shelf.recall_mass(fresh, tmp_path)
    assert measure.MASS.known(fresh.body.solid) is None


@pytest.mark.parametrize(("steps", "why"), [([], "no body yet"), (SHEET, "only surfaces")])
def test_what_cannot_be_judged_says_why(steps: STEPS, why: str, tmp_path: Path) -> None:
    judged = judge(part(steps), tmp_path)
    assert list(judged.gauges) == [] and why in judged.why
    with pytest.raises(SuppleError, match="no body"):
        judging.suggest_pull(task(part([]), tmp_path), Nothing())


def test_linked_bodies_that_share_space_are_told_as_ones_own_are(tmp_path: Path) -> None:
    """Two blocks linked into a part, 20 mm of each in the same 30 × 10 mm: 6000 mm³."""
    near = part([rectangle("s", "40", "30"), extrude("e", "s", "10")]).altered(id="near", name="Near")
    beside = part([rectangle("s", "40", "30", x="20"), extrude("e", "s", "10")]).altered(id="beside", name="Beside")
    links = [{"id": f"k{n}", "type": "link", "part": {"document": other.id}} for n, other in enumerate((near, beside))]
    result = building.build(task(part(links), tmp_path, near, beside), Build())
    (contact,) = result.contacts
    assert contact.bodies == ("k0", "k1") and contact.volume == pytest.approx(6000)


def test_a_section_in_a_worker(tmp_path: Path) -> None:
    cut = sectioning.section(task(part(TRAY), tmp_path), Section((0, 0, 0), (0, 1, 0), spot=(3, 0, -19)))
    assert cut.wall is not None and cut.wall.wall == pytest.approx(2.0, abs=1e-9)
    points = np.array([p for line in cut.bodies[0].lines for p in line])
    assert (
        np.allclose(points[:, 1], 0) and np.ptp(points[:, 0]) == pytest.approx(60) and np.ptp(points[:, 2]) == pytest.approx(20)
    )
    for format in ("dxf", "svg"):
        file = sectioning.section_file(task(part(TRAY), tmp_path), SectionFile((0, 0, 0), (0, 1, 0), format))
        content = (tmp_path / file.blob).read_bytes()
        assert file.bytes == len(content) and file.name == f"part-section.{format}"
        if format == "dxf":
            drawing = ezdxf.read(io.StringIO(content.decode()))
            assert drawing.units == 4 and len(drawing.modelspace()) == len(cut.bodies[0].lines)
    with pytest.raises(SuppleError, match="cuts no body"):
        sectioning.section(task(part(TRAY), tmp_path), Section((0, 99, 0), (0, 1, 0)))


def test_two_revisions_compared_in_a_worker(tmp_path: Path) -> None:
    first, second = part(TRAY), part([*TRAY, circle("c", "8"), extrude("x", "c", "50", direction="both ways", result="cut")])
    compared = comparing.compare_two(task(first, tmp_path), Compare(task(second, tmp_path)))
    assert compared.sound and compared.only[0][0].volume == pytest.approx(math.pi * 16 * 2, rel=1e-6)
    assert compared.only[0][1] == OnlyInOne(0, []) and (tmp_path / compared.only[0][0].mesh[0]).exists()
    change = {row.name: row.change for row in compared.figures}
    assert change["faces"] == "+1" and change["volume"] == "−0.1005" and change["wide (x)"] == "–"
    with pytest.raises(SuppleError, match="no body to compare"):
        comparing.compare_two(task(first, tmp_path), Compare(task(part([]), tmp_path)))


def test_the_report_in_a_worker(tmp_path: Path) -> None:
    report = judging.sheet_report(task(part(TRAY), tmp_path), Report(1))
    assert report.size == pytest.approx([60, 40, 20]) and len(report.gauges) == 7 and report.failed == []
    for picture in report.pictures:
        content = (tmp_path / picture.blob).read_bytes()
        assert content[:8] == b"\x89PNG\r\n\x1a\n" and struct.unpack(">II", content[16:24]) == (480, 336)


def test_a_long_report_runs_on_to_more_pages() -> None:
    steps = [
        f"Step that says a good deal about what it does, and then {n} times more of it, so that it fills a line"
        for n in range(120)
    ]
    whole = Datasheet("Tray “ü”", "60 × 40", [Reading("Wall", "2 mm", "even", "good")], [], [("volume", "1 cm³")], steps, [])
    content = write_pdf(whole)
    assert content.startswith(b"%PDF") and content.count(b"/Type /Page\n") >= 2


# --- what a part is judged by ---------------------------------------------------------------------------------------


def test_pull_texture_and_gate_are_kept_and_refused() -> None:
    document = part(TRAY)
    changed, words = apply(document, read_edit({"op": "document", "pull": [0, 0, -3]}))
    assert changed.pull == (0, 0, -1) and words == "pull 0, 0, -3" and parse_document(changed.to_json()) == changed
    textured, _ = apply(document, read_edit({"op": "document", "texture": "0.03"}))
    assert textured.texture == "0.03 mm"
    gated, _ = apply(document, read_edit({"op": "document", "gate": [1, 2, 3]}))
    assert apply(gated, read_edit({"op": "document", "gate": "no gate"}))[0].gate is None
    for wrong in ({"pull": [0, 0, 0]}, {"texture": "-1"}, {"texture": "5 mm"}, {"gate": [1, 2]}, {"gate": "here"}):
        with pytest.raises(DocumentError):
            apply(document, read_edit({"op": "document", **wrong}))
    with pytest.raises(QuantityError):
        apply(document, read_edit({"op": "document", "texture": "deep"}))
    kept, _ = apply(document, read_edit({"op": "cut", "name": "rib", "origin": [0, 0, 0], "normal": [1, 0, 0]}))
    again, _ = apply(kept, read_edit({"op": "cut", "name": "rib", "origin": [0, 5, 0], "normal": [1, 0, 0]}))
    assert [(cut.name, cut.origin) for cut in again.cuts] == [("rib", (0, 5, 0))]
    assert apply(again, read_edit({"op": "cut", "name": "rib"}))[0].cuts == []
    assert "pull" not in document.to_dict() and "cuts" not in document.to_dict()


def test_a_grade_of_ones_own_is_carried_by_the_document(tmp_path: Path) -> None:
    grade = Grade.of(RESINS["PP"], "PP Lumen 8").model_copy(update={"density": 0.95, "source": "data sheet"})
    document, _ = apply(
        part(TRAY, resin="ABS"), read_edit({"op": "document", "resin": "PP Lumen 8", "grade": grade.model_dump()})
    )
    again = parse_document(document.to_json())
    assert again.material == grade.resin and again.made_of.family == "PP"
    mass = judge(again, tmp_path).gauges[5]
    assert mass.name == "Mass, PP Lumen 8"
    boss = part(
        [*TRAY, {"id": "b", "type": "boss", "spots": [{"origin": True}], "level": {"plane": "top", "offset": "-10"}}],
        resin="PP Lumen 8",
    )
    volumes = {}
    for name, how in (("own", {"grade": grade}), ("PP", {"resin": "PP"}), ("ABS", {"resin": "ABS"})):
        volumes[name] = measure.volume(bodies(boss.model_copy(update=how))["e"].body.solid)
    assert volumes["own"] == volumes["PP"] != volumes["ABS"]  # screws go by the resin that the grade is like
    (range_of,) = [f for f in judge(again, tmp_path).gauges[0].figures if f.name == "resin's range"]
    assert range_of.source == "data sheet"
    back, _ = apply(again, read_edit({"op": "document", "resin": "ABS"}))
    assert back.grade is None and back.material == RESINS["ABS"]
    assert part(TRAY, resin="unheard of").material is None

    library = Library(tmp_path / "library")
    library.keep_grade(grade)
    library.keep_grade(grade.model_copy(update={"price": 9.0}))
    assert [kept.price for kept in library.grades()] == [9.0]
    library.drop_grade("PP Lumen 8")
    assert library.grades() == []
    with pytest.raises(StoreError, match="no grade"):
        library.drop_grade("PP Lumen 8")


@pytest.mark.parametrize(
    ("figures", "words"),
    [
        ({"name": "PP"}, "name of a resin of the table"),
        ({"like": "Wood"}, "like a resin of the table"),
        ({"shrinkage": (2.0, 1.0)}, "smaller to a larger"),
        ({"wall": (3.0, 2.0, 4.0)}, "wall must run"),
        ({"density": -1.0}, "greater than 0"),
        ({"melt": None}, "all figures must be given, or none"),
        ({"eject": 300.0}, "ejected between"),
        ({"density": math.inf}, "less than"),
    ],
)
def test_grades_that_make_no_sense_are_refused(figures: dict[str, Any], words: str) -> None:
    sound = Grade.of(RESINS["PP"], "PP own").model_dump()
    with pytest.raises(ValidationError, match=words):
        Grade.model_validate({**sound, **figures})
    for resin in RESINS.values():  # every resin of the table can be begun from
        assert Grade.of(resin, "own").resin.injection == resin.injection


# --- in the browser -------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    data = tmp_path_factory.mktemp("judged")
    library = Library(data)
    project = library.create_project("Trays")
    library.add_document(project.id, part(TRAY).model_copy(update={"id": "tray", "name": "Tray"}), "Begun")
    library.add_document(project.id, part(TRAY).model_copy(update={"id": "lid", "name": "Lid"}), "Begun")
    yield from served(data)


@pytest.fixture
def page(address: str) -> Iterator[Page]:
    with opened(address, "422") as made:
        yield made


def judged(page: Page) -> dict[str, str]:
    """What the strip says once it is no longer old."""
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    return dict(page.evaluate("bench.strip.map((g) => [g.id, `${g.value}${g.unit}, ${g.verdict}`])"))


def test_gauges_sections_and_reports_in_the_browser(page: Page) -> None:
    page.goto("/documents/tray")
    found = judged(page)
    page.set_viewport_size({"width": 1024, "height": 768})
    assert page.evaluate("document.documentElement.scrollWidth") == 1024, "gauges share a narrow window, nothing is cut off"
    page.set_viewport_size({"width": 1280, "height": 800})
    assert (
        found["wall"] == "2 mm, even" and found["draft"] == "2°, enough all over" and found["undercut"] == "none, opens freely"
    )

    # A gauge paints the model and lists what is behind it; the pointer reads the map; its figures tell their formula.
    page.click('[data-gauge="wall"]')
    page.wait_for_function("() => bench.gauges.paint.on")
    assert page.locator("#gauge-panel li").count() == 7
    page.mouse.move(430, 430)
    page.wait_for_function("() => document.getElementById('say').textContent.includes('mm')")
    page.click("#turn-map")
    page.wait_for_function("() => document.getElementById('turn-map').textContent.includes('ball')")
    page.click("#gauge-panel .figure >> nth=0")
    page.get_by_text("half of the area is thinner").wait_for()

    # An edit is judged anew; until then the figures are marked as old.
    wall = page.locator('input[data-step="h"][data-field="wall"]')
    wall.fill("0.8 mm")
    wall.press("Enter")
    page.wait_for_function("() => bench.strip.some((g) => g.look.includes('is-old'))")
    page.wait_for_function("() => bench.strip.some((g) => g.id === 'wall' && g.value === '0.8')")
    assert "thin" in judged(page)["wall"]
    page.get_by_role("button", name="Next place").click()
    page.wait_for_function("() => document.getElementById('offender-words')?.textContent.includes('mm thin')")
    page.keyboard.press("Escape")
    page.wait_for_function("() => !bench.gauges.paint.on")
    page.locator('[data-look="oblique"]').click()
    page.keyboard.press("Control+z")
    page.wait_for_function("() => bench.strip.some((g) => g.id === 'wall' && g.value === '2')")

    # The pull, the texture and the gate are what it is judged by.
    page.click('[data-gauge="draft"]')
    page.fill("#texture", "0.05 mm")
    page.press("#texture", "Enter")
    page.wait_for_function("() => bench.strip.some((g) => g.id === 'draft' && g.verdict.includes('short'))")
    page.select_option("#pull", "1,0,0")
    page.wait_for_function("() => bench.strip.some((g) => g.id === 'undercut' && g.value !== 'none')")
    page.select_option("#pull", "0,0,1")
    page.wait_for_function("() => bench.strip.some((g) => g.id === 'undercut' && g.value === 'none')")
    page.click('[data-gauge="flow"]')
    page.click("#pick-gate")
    page.mouse.click(430, 430)
    page.wait_for_function("() => bench.strip.some((g) => g.id === 'flow' && g.verdict === 'fills')")
    page.keyboard.press("Escape")

    # A section: its exact outline is drawn, a click on it measures the wall, and it is kept by name.
    page.keyboard.press("s")
    page.wait_for_function("() => bench.viewer.cuts.children.length > 0")
    spot = page.evaluate("""() => {
      const { eye, canvas } = bench.viewer;
      const p = eye.camera.position.clone().set(10, 0, -19).project(eye.camera);
      const box = canvas.getBoundingClientRect();
      return [box.left + (p.x + 1) / 2 * box.width, box.top + (1 - p.y) / 2 * box.height];
    }""")
    page.mouse.click(*spot)
    page.wait_for_function("() => bench.cut.wall === '2 mm'")
    page.fill("#cut-name", "middle")
    page.get_by_role("button", name="keep", exact=True).click()
    page.wait_for_function("() => bench.cut.kept.length === 1")
    with page.expect_download() as taken:
        page.get_by_role("button", name="SVG", exact=True).click()
    assert b"<svg" in Path(taken.value.path()).read_bytes()
    page.reload()
    judged(page)
    assert page.evaluate("bench.cut.kept.map((one) => one.name)") == ["middle"]

    # Compare with an earlier revision: what differs is said; then the report, and its PDF.
    page.goto("/documents/tray/compare?first=2")
    page.wait_for_selector("html[data-ready]", state="attached")
    assert "thicker" in page.inner_text("#words") or "further" in page.inner_text("#words")
    assert page.locator("#steps li").first.inner_text().startswith("step 5, Shell")
    page.goto("/documents/tray/report")
    page.wait_for_selector("html[data-ready]", state="attached")
    assert page.locator("ol li").count() == 5 and page.locator("img").count() == 4
    with page.expect_download() as taken:
        page.click("#pdf")
    assert Path(taken.value.path()).read_bytes().startswith(b"%PDF")

    # A report stays that of the revision it was made from, and of its document.
    about, where = page.inner_text("article > p >> nth=0"), page.url
    page.evaluate("import('/static/js/api.js').then(({ post }) => post('/api/documents/tray/undo', {}))")
    assert about.split(" · ", 1)[1] in page.request.get(where).text()
    assert "not made yet" in page.request.get(where.replace("/tray/", "/lid/")).text()


def test_a_grade_is_made_and_used_in_the_browser(page: Page) -> None:
    page.goto("/resins?like=ABS")
    page.fill('[name="name"]', "ABS Lumen 20")
    page.fill('[name="shrinkage.1"]', "0,2")
    page.get_by_role("button", name="Keep the grade").click()
    page.wait_for_function("() => document.getElementById('wrong').textContent.includes('smaller to a larger')")
    page.fill('[name="shrinkage.1"]', "0,6")
    page.fill('[name="density"]', "2.1")
    page.get_by_role("button", name="Keep the grade").click()
    page.wait_for_selector("text=no source given")
    page.goto("/resins?like=PP")
    page.fill('[name="name"]', "ABS Lumen 20")
    page.get_by_role("button", name="Keep the grade").click()
    page.wait_for_function("() => document.getElementById('wrong').textContent.includes('already')")
    page.goto("/documents/tray")
    before = judged(page)["mass"]
    page.select_option('[data-document-field="resin"]', "ABS Lumen 20")
    page.wait_for_function("() => bench.strip.some((g) => g.name === 'Mass, ABS Lumen 20')")
    after = judged(page)["mass"]
    assert float(after.split()[0]) == pytest.approx(2 * float(before.split()[0]), rel=0.01)
    page.goto("/resins?grade=ABS%20Lumen%2020")
    page.get_by_role("button", name="forget this grade").click()
    page.get_by_role("button", name="for good").click()
    page.wait_for_function("() => !document.body.innerText.includes('Lumen')")
