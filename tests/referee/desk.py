"""A signed-in client of the web application."""

from __future__ import annotations

import re
from typing import Any

from flask.testing import FlaskClient

from supplecast.store.library import Library


class Desk:
    """A signed-in client with short words for what the pages do."""

    def __init__(self, client: FlaskClient, library: Library) -> None:
        self.client = client
        self.library = library
        found = re.search(rb'name="token" content="([^"]+)"', client.get("/").data)
        assert found
        self.token = found.group(1).decode()

    def post(self, path: str, **body: Any) -> Any:
        return self.client.post(path, json=body, headers={"X-Token": self.token})

    def done(self, job: str) -> dict[str, Any]:
        for _ in range(60):
            current = self.client.get(f"/api/jobs/{job}?wait=5").get_json()
            if current["state"] not in ("waiting", "running"):
                return dict(current)
        raise AssertionError("job never ended")
