"""A task: the document to work on, what it links, and where files lie."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class Task:
    """Work on one document: its JSON, the JSON of what it links by id and revision, and where files lie. `upto` and `before`
    leave out the steps after one, or from one on; `stuck` names steps not to be tried, and what to say of them.
    """

    document: str
    linked: dict[tuple[str, int | None], str]
    assets: str
    blobs: str
    progress: str = ""
    upto: str | None = None
    before: str | None = None
    stuck: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Progress:
    """The step a job is at: its number and how many there are, its label and id; number 0 where it is at no step."""

    number: int
    of: int
    label: str
    id: str
