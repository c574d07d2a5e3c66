"""The opening stroke as the view plays it: what leaves when, which way and how far, told in shares of the whole.

It shows the order that the opening check proves; how far the halves stand apart in the end is a matter of seeing them well.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from supplecast import kernel
from supplecast.document.state import Entry
from supplecast.document.stroke import Leg, Stage, Stroke
from supplecast.geometry import Vec, dot, times
from supplecast.steps.tool.moving import PUSHING, SHORT, Tool
from supplecast.steps.tool.slide_ways import CLEAR, forming, stroke_to_stop
from supplecast.tooling.base.third import STRIPS, opens_for

_HIGH, _ROOM = 2.0, 60.0  # heights of a part, and mm more, that the halves stand apart in the end
_WIDE = 0.45  # of their width, at least
_MIDDLE = 0.46  # of that: where parts hover that nothing pushes off
_DRAWN = 0.6  # of the core side's way: while its slides are drawn, where no pin says so
_PUSHED, _OFF = 0.8, 0.3  # of the last stage: until the ejectors stop; of their stroke: how far parts fall on
_SQUARE = 0.5  # of an axis: less than that of it along the pull is across it


@dataclass
class _Film:
    """Stages one after the other, each as long as its weight."""

    at: float = 0.0
    stages: list[tuple[str, float]] = field(default_factory=list)
    legs: list[tuple[str, float, float, Vec]] = field(default_factory=list)

    def stage(self, words: str, weight: float) -> None:
        self.at += weight
        self.stages.append((words, self.at))

    def move(self, bodies: Iterable[Entry], by: Vec, begin: float = 0.0, end: float = 1.0) -> None:
        """Move bodies within the last stage."""
        start = self.stages[-2][1] if len(self.stages) > 1 else 0.0
        long = self.at - start
        self.legs += [(e.id, start + begin * long, start + end * long, by) for e in bodies]

    def developed(self, aside: Sequence[str], up: Vec | None) -> Stroke:
        legs: dict[str, list[Leg]] = {}
        for body, begin, end, by in self.legs:
            legs.setdefault(body, []).append(Leg(begin / self.at, end / self.at, by))
        return Stroke([Stage(words, end / self.at) for words, end in self.stages], legs, aside, up)


def stroke_of(bodies: Sequence[Entry]) -> Stroke | None:
    """How a tool opens; None while it has no halves."""
    tool, film = Tool(bodies), _Film()
    if not tool.core or not tool.cavity:
        return None
    parts = [*tool.parts, *tool.of("shot")]
    leaving = [*tool.core, *tool.of("moving base", *PUSHING), *tool.lifters]
    third = tool.runner_plate
    if tool.drawn:
        film.stage("slides", 1)
        for slide in tool.drawn:
            film.move([slide], _out(tool, slide))
    if third is None:
        parts += tool.of("feed")
    else:
        _behind(tool, film, third, [*tool.lifters, *parts])
    pushed = max(tool.stroke - SHORT, 0.0)
    carried = bool(pushed or tool.riding)
    low, high = tool.level(tool.parts or tool.core)
    apart = max(_HIGH * (high - low) + pushed + _ROOM, _WIDE * _across(tool))
    film.stage("core side", 4)
    film.move([*leaving, *tool.of("core slide"), *(parts if carried else ())], times(tool.pull, apart))
    for slide in tool.riding:
        out = _out(tool, slide)
        film.move([slide], out, 0.0, _drawn(tool, slide, out, apart))
    if tool.held:
        film.stage("slides", 1)
        for slide in tool.held:
            film.move([slide], _out(tool, slide))
    if pushed:
        film.stage("ejectors and lifters" if tool.lifters else "ejectors", 2)
        film.move([*tool.of(*PUSHING), *parts], times(tool.pull, -pushed), 0.0, _PUSHED)
        film.move(parts, times(tool.pull, -_OFF * pushed), _PUSHED)
        for lifter in tool.lifters:
            axis = lifter.pull or tool.pull
            film.move([lifter], times(axis, -pushed / dot(axis, tool.pull)), 0.0, _PUSHED)
    elif parts:
        film.stage("parts out", 2)
        film.move(parts, times(tool.pull, (_MIDDLE - 1 if carried else _MIDDLE) * apart))
    return film.developed(_twice(tool, third), times(tool.pull, -1.0) if tool.of("fixed base") else None)


def _across(tool: Tool) -> float:
    """How wide the halves are square to the pull, mm."""
    sizes = [kernel.measure.corner_box(e.body.solid).size for e in tool.core]
    return max(size[k] for size in sizes for k in range(3) if abs(tool.pull[k]) < _SQUARE)


def _behind(tool: Tool, film: _Film, plate: Entry, also: Sequence[Entry]) -> None:
    """A third plate: all that is before the runners leaves them, with what goes along; then their plate goes on, and they fall
    between the two.
    """
    floats, goes, _ = tool.hanging(plate)
    far = opens_for(tool.feed_long)
    film.stage("off the runners", 2)
    film.move([*tool.before_runners(floats), *also], times(tool.pull, far))
    film.stage("runner plate", 1)
    film.move(goes, times(tool.pull, STRIPS))
    film.move(tool.of("feed"), times(tool.pull, STRIPS + (far - STRIPS - tool.feed_long) / 2))


def _out(tool: Tool, slide: Entry) -> Vec:
    """How a slide is drawn: to its stop, else until what it forms is free."""
    inner, outer = forming(slide)
    return times(slide.pull or tool.pull, stroke_to_stop(tool.bodies, slide) or outer - inner + CLEAR)


def _drawn(tool: Tool, slide: Entry, out: Vec, apart: float) -> float:
    """The share of the core side's way on which its pin draws a slide."""
    pin = tool.pin_of(slide)
    if pin is None or pin.pull is None:
        return _DRAWN
    rise = abs(dot(pin.pull, tool.pull))
    return min(math.hypot(*out) * rise / math.sqrt(1 - rise**2) / apart, 1.0)


def _twice(tool: Tool, third: Entry | None) -> list[str]:
    """What is not shown at first: the trial shot stands for parts and feed, unless these leave one by one."""
    shots = tool.of("shot")
    doubles = shots if third else [*tool.of("linked", "molded"), *tool.of("feed")] if shots else []
    return [e.id for e in doubles]
