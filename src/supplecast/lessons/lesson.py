"""What a lesson is made of, as its file has it."""

from __future__ import annotations

import math
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from supplecast.document.model import Kind


class _Read(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Condition(_Read):
    """Something that must hold of the document and of what was built of it. Each name that is given must hold.

    `steps` are types of which `least` steps are used and built; `curves` are drawn in one sketch, which is `across` by its
    longest side, mm, least and most; a `field`, such as `shell.wall`, lies `between` two numbers, mm or degrees; the bodies
    have so many mm³ of `volume` together; a `gauge` is good; the resin is one of `resins`; so many values are `named`; the
    named `value` lies `between` two numbers, mm.
    """

    steps: tuple[str, ...] = ()
    least: int = 1
    curves: int = 0
    across: tuple[float, float] = (0.0, math.inf)
    field: str = ""
    between: tuple[float, float] | None = None
    volume: tuple[float, float] | None = None
    gauge: str = ""
    resins: tuple[str, ...] = ()
    named: int = 0
    value: str = ""


class Task(_Read):
    """One thing to do: in words, with its reason; where to look, such as `add shell`, `field shell.wall`, `gauge draft` or
    `tool line`; the conditions by which it is done; and the edit that does it. In that, `@shell!` is the last shell, `@1shell!`
    the first, `@2shell!` the second.
    """

    do: str
    why: str
    at: tuple[str, ...] = ()
    done: tuple[Condition, ...] = Field(min_length=1)
    edit: dict[str, Any]


class Lesson(_Read):
    """A lesson of a part or tool. It begins with what the edits in `begin` make, or with a document `like` a file of the demo,
    and links the part that another lesson, `of`, ends with. `skills` says what one has seen at its end.
    """

    title: str
    minutes: int
    about: str
    skills: str
    ends: str
    kind: Kind = "part"
    resin: Literal["ABS", "PP", "POM", "PU casting"] = "ABS"
    of: str = ""
    like: str = ""
    begin: tuple[dict[str, Any], ...] = ()
    tasks: tuple[Task, ...] = Field(min_length=3, alias="task")
