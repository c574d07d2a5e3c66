"""Steps and bodies on which a worker died or hung, remembered so that the next build goes round them."""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Mapping
from typing import Any

from supplecast.document.keys import digest
from supplecast.wire.task import Progress

_MOST = 200


class FailureMemory:
    """By document, the data up to a step at which work ended badly, and what to say of that step."""

    def __init__(self) -> None:
        self._known: OrderedDict[tuple[str, str], tuple[str, str]] = OrderedDict()

    def note(self, document: str, content: str, at: Progress | None, how: str) -> None:
        """Remember where a job on a document ended. `how` is “too long” or “died”."""
        if at is None:
            return
        fault = {
            "too long": "This step took too long and was stopped.",
            "died": "The geometry kernel broke down at this step.",
        }[how]
        key = _prefix(json.loads(content), at.id)
        self._known[(document, key)] = (at.id, fault)
        while len(self._known) > _MOST:
            self._known.popitem(last=False)

    def known(self, document: str, content: str) -> dict[str, str]:
        """What to say of the steps that are known to be stuck in a document as it is now."""
        candidates = [(key, fault) for (of, key), fault in self._known.items() if of == document]
        if not candidates:
            return {}
        data = json.loads(content)
        return {step: words for key, (step, words) in candidates if _prefix(data, step) == key}


def _prefix(data: Mapping[str, Any], step: str) -> str:
    """A key of everything a step can depend on: the document without the steps after it. Bodies stand for the whole."""
    steps = list(data["steps"])
    places = [index for index, row in enumerate(steps) if row["id"] == step]
    kept = steps[: places[0] + 1] if places else steps
    rest = {name: value for name, value in data.items() if name not in ("steps", "name")}
    return digest(json.dumps([rest, kept, step], sort_keys=True))
