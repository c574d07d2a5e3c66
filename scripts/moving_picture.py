"""Writes docs/opening.webp, the moving picture of the README: the demo's tool opens and pushes its parts off, on its screen.

python -m scripts.moving_picture
"""

from __future__ import annotations

import io
from pathlib import Path

from PIL import Image
from playwright.sync_api import Page

from scripts.on_screen import demo_page

TARGET = Path(__file__).parents[1] / "docs" / "opening.webp"
_SIZE = (1120, 700)
_SMALLER = 0.75
_FRAMES, _HOLD, _STEP = 36, 1600, 90  # pictures on the way, and ms that the last and each other one stands
_MOST = 2_000_000  # bytes


def main() -> int:
    with demo_page(*_SIZE) as page:
        pictures = _opening(page)
    times = [_HOLD // 2, *[_STEP] * (len(pictures) - 2), _HOLD]
    pictures[0].save(TARGET, save_all=True, append_images=pictures[1:], duration=times, loop=0, quality=62, method=6)
    size = TARGET.stat().st_size
    print(f"{size / 1e6:.2f} MB")
    return size > _MOST


def _opening(page: Page) -> list[Image.Image]:
    page.goto("/documents/dusk-front-shell-tool")
    page.wait_for_selector("html[data-ready]", state="attached", timeout=150_000)
    page.wait_for_function("() => bench.strip.length && !bench.judged.old", timeout=150_000)
    page.get_by_role("button", name="Fit").click()
    found = []
    for number in range(_FRAMES + 1):
        page.locator("#stroke").fill(str(round(100 * number / _FRAMES)))
        page.evaluate("atRest()")
        picture = Image.open(io.BytesIO(page.screenshot())).convert("RGB")
        found.append(picture.resize((int(_SIZE[0] * _SMALLER), int(_SIZE[1] * _SMALLER)), Image.Resampling.LANCZOS))
    return found


if __name__ == "__main__":
    raise SystemExit(main())
