"""One session as locust plays it: a designer who opens a part, changes its wall every six seconds, and looks at what comes.

Run by `scripts.load` in an environment of its own, which knows nothing of the program but its address.
"""

from __future__ import annotations

import itertools
import os
import re
import time

from locust import HttpUser, constant_pacing, task

DOCUMENTS = itertools.cycle(os.environ["LOAD_DOCUMENTS"].split(","))
PAUSE = float(os.environ.get("LOAD_PAUSE", "6"))


class Designer(HttpUser):
    wait_time = constant_pacing(PAUSE)

    def on_start(self) -> None:
        self.document = next(DOCUMENTS)
        self.count = 0
        self.open()
        self.revision = self.client.get(f"/api/documents/{self.document}", name="document").json()["revision"]

    def open(self) -> None:
        page = self.client.get(f"/documents/{self.document}", name="page").text
        self.headers = {"X-Token": re.search(r'name="token" content="([^"]+)"', page)[1]}

    def ask(self, what: str, **body: object) -> dict:
        return self.client.post(f"/api/documents/{self.document}/{what}", json=body, headers=self.headers, name=what).json()

    @task
    def change_the_wall(self) -> None:
        self.count += 1
        wall = {"op": "set", "step": "shl", "field": "wall", "value": f"{1.6 + self.count % 9 / 10:.1f} mm"}
        answer = self.ask("edits", base=self.revision, edit=wall)
        self.revision = answer["revision"]
        began = time.monotonic()
        while time.monotonic() - began < PAUSE:
            asked = time.monotonic()
            job = self.client.get(f"/api/jobs/{answer['job']}?wait=1", name="job (waits up to 1 s)").json()
            if job["state"] not in ("waiting", "running"):
                self.client.get(f"/documents/{self.document}/sheet?job={answer['job']}", name="sheet")
                self.ask("gauges")
                break
            time.sleep(max(0.0, min(1.0 - (time.monotonic() - asked), 0.5)))  # answered early: the page waits by itself
        if self.count % 5 == 0:
            self.open()
