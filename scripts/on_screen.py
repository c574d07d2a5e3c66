"""The demo project on a real screen: the program started anew, and a page of headless Chromium that shows it."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Page, sync_playwright
from tests.referee.browser import BENCH, FLAGS


@contextmanager
def demo_page(width: int, height: int, port: int = 8799) -> Iterator[Page]:
    """A page of so many px in a program of its own, whose data is thrown away."""
    with tempfile.TemporaryDirectory() as data:
        command = [sys.executable, "-m", "supplecast.cli", "demo", "--data", data, "--port", str(port), "--no-key"]
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert server.stdout
        address = next(word for word in server.stdout.readline().split() if word.startswith("http"))
        try:
            with sync_playwright() as driver:
                browser = driver.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
                page = browser.new_page(viewport={"width": width, "height": height}, base_url=address)
                page.add_init_script(BENCH)
                yield page
                browser.close()
        finally:
            server.terminate()
            server.wait(20)
