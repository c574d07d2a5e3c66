"""Steps that take their time, for workers of tests alone: loaded where they work, never among the steps that pages list."""

from __future__ import annotations

import time
from typing import Literal

from supplecast.document.builder import Builder
from supplecast.document.step import Step


class Dawdle(Step):
    """Takes for ever."""

    type: Literal["dawdle"] = "dawdle"
    word = "Dawdle"

    def sentence(self) -> str:
        return "Dawdle"

    def build(self, at: Builder) -> None:
        time.sleep(3600)


class Linger(Step):
    """Takes a while."""

    type: Literal["linger"] = "linger"
    word = "Linger"

    def sentence(self) -> str:
        return "Linger"

    def build(self, at: Builder) -> None:
        time.sleep(0.5)
