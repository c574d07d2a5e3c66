"""The handbook: a page for each step, drawing tool and gauge, told from the code itself, so that it says what the program does.

What is refused and what would do, rules of thumb and their sources are read out of the modules that hold them.
"""

from __future__ import annotations

from functools import cache

from supplecast.handbook import pictures
from supplecast.handbook.drawing import drawing_topics
from supplecast.handbook.gauges import gauge_topics
from supplecast.handbook.steps import step_topics
from supplecast.handbook.topic import Topic

CHAPTERS = ("Steps of a part", "Steps of a tool", "Steps of an assembly", "Drawing", "Gauges")
"""The chapters, in the order in which they are read."""


@cache
def topics() -> dict[str, Topic]:
    """Every page by its id, such as `step/shell`, chapter by chapter."""
    found = [*step_topics(), *drawing_topics(), *gauge_topics()]
    return {topic.id: topic for chapter in CHAPTERS for topic in found if topic.chapter == chapter}


__all__ = ["CHAPTERS", "Topic", "pictures", "topics"]
