"""Hands in the browser: the program started as people start it, and what a designer does with its pages."""

from __future__ import annotations

import atexit
import contextlib
import math
import socket
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, BrowserContext, ConsoleMessage, Error, Page, Playwright, sync_playwright

FLAGS = [
    "--no-sandbox", "--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader",
    "--force-device-scale-factor=1", "--disable-background-networking", "--disable-component-update", "--no-first-run",
]  # fmt: skip
QUICK = [*FLAGS, "--disable-gpu-compositing", "--disable-gpu-rasterization", "--webgl-antialiasing-mode=none"]
"""Without a graphics card: pages are put together in software, and only the view itself is drawn by its stand-in, unsmoothed.
That is four times less work a picture than all of it there.
"""


BENCH = """
Object.defineProperty(window, 'bench', { get: () => document.getElementById('bench').bench });
const asked = (window.asked = new Set()), fetched = window.fetch;
window.fetch = async (path, more) => {
  const one = { path: String(path) };
  asked.add(one);
  try { return await fetched(path, more); } finally { asked.delete(one); }
};
// Nothing is asked of the server but, on the workbench, what the gauges wait for; and the view has stood still for ten frames.
window.atRest = async () => {
  for (let still = 0, frame = null; still < 10; ) {
    await new Promise(requestAnimationFrame);
    const made = document.getElementById('bench')?.bench;
    const busy = [...asked].some(({ path }) => !made || !path.startsWith('/api/jobs/') || path.includes(`/${made.job}?`));
    const seen = made ? made.viewer.frame : 0;
    still = busy || seen !== frame ? 0 : still + 1;
    frame = seen;
  }
};
"""
"""The workbench by a short name, and when it rests, for what tests ask of the page; run before its own scripts."""


@cache
def _driver() -> Playwright:
    driver = sync_playwright().start()
    atexit.register(driver.stop)
    return driver


_open: list[Browser] = []


def _context(**more: Any) -> BrowserContext:
    """A context of the one browser that all tests of a process share, since to start it costs more than a page; of another
    where that was killed, which is noticed when it is asked.
    """
    for browser in _open:
        with contextlib.suppress(Error):
            return browser.new_context(**more)
    _open[:] = [_driver().chromium.launch(executable_path="/usr/bin/chromium", args=QUICK)]
    return _open[0].new_context(**more)


@contextmanager
def opened(address: str, *expected: str, **more: Any) -> Iterator[Page]:
    """A page with cookies and storage of its own, in a context with `more` options. Nothing may go wrong in it, but messages
    with one of the `expected` words.
    """
    faults: list[str] = []

    def heard(message: ConsoleMessage) -> None:
        wrong = message.type == "error" or "Content Security" in message.text
        if wrong and not any(word in message.text for word in expected):
            faults.append(message.text)

    context = _context(**{"viewport": {"width": 1280, "height": 800}, "base_url": address, "accept_downloads": True, **more})
    try:
        context.add_init_script(BENCH)
        made = context.new_page()
        made.set_default_timeout(45_000)
        made.on("pageerror", lambda fault: faults.append(f"{fault}\n{fault.stack}"))
        made.on("console", heard)
        yield made
    finally:
        context.close()
    assert not faults, "\n".join(faults)


def served(data: Path, *options: str) -> Iterator[str]:
    """The program itself, started as people start it; gives its address."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [sys.executable, "-m", "supplecast.cli", "serve", "--data", str(data), "--port", str(port), "--no-key", *options]
    server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert server.stdout and "http://" in server.stdout.readline()
    yield f"http://127.0.0.1:{port}"
    server.terminate()
    server.wait(20)


PLANE_KEYS = {"top": "1", "front": "2", "side": "3"}


class Hands:
    """What a designer does, in the page's words."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def begin(self, project: str) -> None:
        """Start a new project with an empty part in it."""
        self.page.goto("/")
        self.page.get_by_label("Name of a new project").fill(project)
        self.page.get_by_role("button", name="New project").click()
        self.page.get_by_role("button", name="New part").last.click()
        self.ready()

    def ready(self) -> None:
        self.page.wait_for_selector("html[data-ready]", state="attached")

    def after(self, act: Callable[[], Any]) -> None:
        """Do something that builds, and wait until it is shown."""
        before = self.page.evaluate("document.documentElement.dataset.ready || ''")
        act()
        self.page.wait_for_function("b => (document.documentElement.dataset.ready || '') !== b", arg=before)

    def add(self, word: str, on: str = "top") -> str:
        """Add a step by typing its word; returns its id. A sketch that asks where it is to lie is given a standard plane."""
        known = self.ids()
        before = self.page.evaluate("document.documentElement.dataset.ready || ''")
        self.page.locator("#add").fill(word)
        self.page.locator("#add").press("Enter")
        self.page.wait_for_function("n => bench.placing || document.querySelectorAll('.step').length > n", arg=len(known))
        if self.page.evaluate("bench.placing"):
            self.page.keyboard.press(PLANE_KEYS[on])
        self.page.wait_for_function("n => document.querySelectorAll('.step').length > n", arg=len(known))
        self.page.wait_for_function("b => (document.documentElement.dataset.ready || '') !== b", arg=before)
        new = next(i for i in self.ids() if i not in known)
        self.page.wait_for_function(
            "id => document.activeElement?.dataset.step === id || document.documentElement.dataset.sketching === id"
            " || !document.querySelector(`[data-line='${id}'] input`)",
            arg=new,
        )
        return new

    def sketch(self, figure: str, on: str = "top") -> str:
        """Add a sketch, begin it with a typed figure on the drawing sheet, and come back."""
        new = self.add("sketch", on)
        self.page.wait_for_selector(f"html[data-sketching='{new}']", state="attached")
        self.page.locator("#sketch").get_by_role("button", name=figure, exact=True).click()
        self.page.wait_for_function("() => bench.sketcher.scene.entities.length > 0")
        self.after(lambda: self.page.locator("#finish").click())
        self.settle()
        return new

    def picking(self) -> None:
        """Wait until the view takes picks for a step, and shows what was there before it."""
        self.page.wait_for_function("() => bench.picking && bench.pick.lit")
        self.page.evaluate("atRest()")

    def ids(self) -> list[str]:
        return [str(i) for i in self.page.eval_on_selector_all(".step", "lines => lines.map(l => l.dataset.line)")]

    def type(self, step: str, field: str, value: str) -> None:
        control = self.page.locator(f'input.number[data-step="{step}"][data-field="{field}"]')
        control.fill(value)
        control.press("Enter")
        kept = "([s, f, v]) => document.querySelector(`input.number[data-step='${s}'][data-field='${f}']`)?.dataset.kept === v"
        self.page.wait_for_function(kept, arg=[step, field, value])
        self.settle()

    def choose(self, step: str, field: str, value: str) -> None:
        self.after(lambda: self.page.locator(f'select[data-step="{step}"][data-field="{field}"]').select_option(value))

    def settle(self) -> None:
        """Wait until the last edit is kept, built and shown."""
        self.page.evaluate("async () => { await bench.chain; }")
        self.page.wait_for_function("() => bench.result && !bench.busy")
        self.page.evaluate("atRest()")

    def spot(self, body: str, kind: str, index: int) -> dict[str, float]:
        found = self.page.evaluate("([b, k, i]) => bench.viewer.picker.project(b, k, i)", [body, kind, index])
        return dict(found)

    def find(self, body: str, kind: str, count: int, test: str) -> dict[str, float]:
        """Place of the first visible face or edge whose hit passes a JavaScript test on its index."""
        for index in range(count):
            spot = self.spot(body, kind, index)
            hit = self.page.evaluate("([p, k]) => bench.viewer.picker.at(p.x, p.y, k + 's')", [spot, kind])
            if hit and hit.get(kind) == index and self.page.evaluate(test, [body, index]):
                return spot
        raise AssertionError(f"no {kind} found")


FLAT_TOP = """([body, face]) => { const { read } = bench.viewer.bodies.get(body).geometry;
  const t = (face ? read.faceEnds[face - 1] : 0) * 3; const i = read.triangles[t] * 3; return read.normals[i + 2] > 0.99; }"""


UPRIGHT = """([body, edge]) => { const { read } = bench.viewer.bodies.get(body).geometry;
  const i = (edge ? read.edgeEnds[edge - 1] : 0) * 3; return Math.abs(read.segments[i + 5] - read.segments[i + 2]) > 5; }"""


class SketchHands:
    """The drawing sheet under the mouse, in mm."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def spot(self, x: float, y: float) -> tuple[float, float]:
        box = "(() => { const b = document.getElementById('drawing').getBoundingClientRect(); return [b.left, b.top]; })()"
        left, top = self.page.evaluate(box)
        px, py = self.page.evaluate("p => bench.sketcher.drawing.px(p)", [x, y])
        return left + px, top + py

    def quiet(self) -> None:
        """Until the last act is kept and shown."""
        self.page.evaluate("async () => { await bench.sketcher.queue; }")

    def click(self, *places: tuple[float, float]) -> None:
        for place in places:
            self.page.mouse.move(*self.spot(*place), steps=2)
            before = self.page.evaluate("[bench.sketcher.picks.length, bench.sketcher.counted, bench.sketcher.names.length]")
            chosen = self.page.evaluate("bench.sketcher.drawing.chosen.size")
            self.page.mouse.down()
            self.page.mouse.up()
            self.page.wait_for_function(
                "([b, c]) => JSON.stringify([bench.sketcher.picks.length, bench.sketcher.counted, bench.sketcher.names.length])"
                " !== b || bench.sketcher.drawing.chosen.size !== c || !bench.sketcher.input.hidden",
                arg=[str(before).replace(" ", ""), chosen],
            )
            self.quiet()

    def take(self, key: str, hand: str) -> None:
        for _ in range(6):
            if self.page.evaluate("bench.sketcher.hand") == hand:
                return
            self.page.keyboard.press(key)
        raise AssertionError(hand)

    def let_go(self) -> None:
        for _ in range(4):
            self.page.keyboard.press("Escape")

    def fix(self, key: str, *places: tuple[float, float]) -> None:
        self.let_go()
        before = self.freedoms()
        self.click(places[0])
        self.page.keyboard.down("Shift")
        self.click(*places[1:])
        self.page.keyboard.up("Shift")
        self.page.keyboard.press(key)
        self.page.wait_for_function("f => bench.sketcher.scene.freedoms < f", arg=before)

    def size(self, at: tuple[float, float], label: tuple[float, float], value: str) -> None:
        self.let_go()
        self.take("7", "size")
        self.click(at)
        self.click(label)
        self.page.wait_for_function("() => !bench.sketcher.input.hidden")
        self.page.keyboard.type(value)
        self.page.keyboard.press("Enter")
        self.page.wait_for_function("() => bench.sketcher.input.hidden")
        self.quiet()

    def freedoms(self) -> int:
        return int(self.page.evaluate("bench.sketcher.scene.freedoms"))


class Shop(Hands):
    """Hands that also draw chains, choose from lists and pick for fields."""

    def chain(self, plane: str, *corners: tuple[float, float], unit: float = 0.1) -> str:
        """An open chain of lines in a new sketch, clicked corner by corner."""
        new = self.add("sketch", plane)
        self.page.wait_for_selector(f"html[data-sketching='{new}']", state="attached")
        self.page.wait_for_function("s => bench.sketcher.step === s && bench.sketcher.scene && bench.sketcher.frame", arg=new)
        middle = [sum(c[i] for c in corners) / len(corners) for i in (0, 1)]
        self.page.evaluate(
            "([u, c]) => { const s = bench.sketcher; s.drawing.unit = u; s.drawing.centre = c; s.redraw(); }", [unit, middle]
        )
        sheet = SketchHands(self.page)
        sheet.take("1", "line")
        sheet.click(*corners)
        sheet.let_go()
        self.after(lambda: self.page.locator("#finish").click())
        self.settle()
        return new

    def open(self, step: str) -> None:
        self.page.locator(f'[data-line="{step}"] [data-open]').click()

    def figure(self, figure: str, plane: str = "top", **sizes: str) -> str:
        """A sketch of one typed figure."""
        new = self.sketch(figure, plane)
        for name, value in sizes.items():
            self.type(new, f"figures.f1.{name}" if name != "raised" else "on.offset", value)
        return new

    def points(self, step: str, start: tuple[float, float]) -> list[tuple[float, float]]:
        """Where the corners of a chain came to lie, from the end nearest to `start`."""
        whole = self.page.evaluate("() => fetch(`/api/documents/${bench.id}`).then((answer) => answer.json())")
        data = next(found for found in whole["document"]["steps"] if found["id"] == step)
        ends = [[line["a"], line["b"]] for line in data["entities"].values()]
        names = [n for held in ends for n in held if sum(n in pair for pair in ends) == 1]
        at = min(names, key=lambda n: math.dist(data["points"].get(n, (0.0, 0.0)), start))
        found = [at]
        while ends:
            pair = next(pair for pair in ends if at in pair)
            ends.remove(pair)
            at = pair[1] if pair[0] == at else pair[0]
            found.append(at)
        return [tuple(data["points"].get(name, (0.0, 0.0))) for name in found]

    def volume(self, body: int = 0) -> float:
        assert self.page.evaluate("bench.result.ok"), self.page.evaluate("bench.result.steps.map((s) => s.words)")
        return float(self.page.evaluate(f"bench.result.bodies[{body}].volume"))
