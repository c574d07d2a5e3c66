"""What a step builds with. A step reads and changes the document only through its builder: every read is recorded, so that the
step is built again only when something it read has changed, and every fault names its field.

This is the contract; `building` keeps it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal, NoReturn, ParamSpec, Protocol, TypeVar

from supplecast.curves import Curve2, Region
from supplecast.document.coat import Coat
from supplecast.document.fields import LinkPick, Profile
from supplecast.document.state import Datum, Effect, Entry, Role, SketchEntry, Travel
from supplecast.geometry import Axis, Frame, Point2, Vec
from supplecast.naming import Body, EdgeRef, FaceRef, Rule
from supplecast.quantities import Kind, Scope
from supplecast.tooling.resins import Resin
from supplecast.tooling.stock import Stock

if TYPE_CHECKING:
    from supplecast.kernel.measuring.gauge import Thing
    from supplecast.kernel.shapes.history import Made

P = ParamSpec("P")
T = TypeVar("T")


class Outside(Protocol):
    """What a rebuild may ask of the world: bodies of other documents, and imported files."""

    def linked(self, pick: LinkPick) -> Sequence[Entry]: ...

    def linkable(self, pick: LinkPick) -> Sequence[tuple[str, str]]:
        """The bodies of a linked document, by id and name."""

    def linked_key(self, pick: LinkPick) -> str: ...

    def asset(self, digest: str, name: str) -> bytes: ...


class Blocked(Exception):
    """The step depends on something that a failed step would have made."""

    def __init__(self, cause: str) -> None:
        super().__init__(cause)
        self.cause = cause


@dataclass(frozen=True)
class MaterialKey:
    """What a document is made of: a key for its figures, the resin of the table it is like, and the figures, if known."""

    key: str
    family: str
    figures: Resin | None


class Builder(Protocol):
    """Handed to `Step.build`."""

    scope: Scope
    figures: dict[str, float]
    """What `figure` has told so far."""

    @property
    def step_id(self) -> str:
        """Id of the step being built."""

    @property
    def order(self) -> Sequence[tuple[str, str]]:
        """Id and type of every step of the sheet, those after this one too."""

    def fail(self, field: str, message: str, hint: str = "", lit: tuple[Entry, Sequence[int]] | None = None) -> NoReturn:
        """Stop the step; `lit` are a body and its faces to show."""

    def mm(self, field: str) -> float:
        """The field's value in mm, checked against the least its type allows."""

    def length(self, field: str, text: str, least: str | None = None) -> float: ...

    def radians(self, field: str, low: float = -89.0, high: float = 89.0) -> float:
        """The field's angle in rad, refused outside low..high (degrees)."""

    def ratio(self, field: str) -> float:
        """The field's percentage as a ratio."""

    def plain(self, field: str) -> float:
        """The field's plain number, such as a scale; it must lie from 0.001 to 1000."""

    def evaluate(self, field: str, text: str, kind: Kind) -> float: ...

    def in_unit(self, mm: float) -> str:
        """A length as the sheet shows it, in the document's unit."""

    def no_less(self, mm: float) -> str:
        """A length in the document's unit that will do where one must be no less: rounded up as people type it."""

    def no_more(self, mm: float) -> str:
        """The same where one must be no more: rounded down, and no less than nought."""

    @property
    def resin(self) -> str:
        """The resin of the table that the document's is, or is like."""

    @property
    def material(self) -> Resin:
        """The figures of the document's resin. SuppleError if nothing is known of it."""

    def bodies(self) -> list[Entry]:
        """Every body there is, in order of making."""

    def solids(self) -> list[Entry]:
        """Every solid body of this document: no surface, no mesh, no neighbour."""

    def body(self, body_id: str | None, field: str = "body", roles: Sequence[Role] = ()) -> Entry:
        """The named body; without a name the only one there is, or the only one in one of `roles`."""

    def surface(self, field: str, *, changes: bool = False) -> Entry:
        """The surface body a field names, or the only one there is; `changes` says that the step will change it."""

    def target(self, body_id: str | None, field: str = "body", roles: Sequence[Role] = ()) -> Entry:
        """A body this step is going to change."""

    def tools(self, field: str, target: Entry, purpose: str) -> list[Entry]:
        """The other bodies picked to be used on `target`; `purpose` says what for, as in “to join”."""

    def sketch(self, sketch_id: str, field: str) -> SketchEntry: ...

    def called(self, step_id: str) -> str:
        """What a step is called in words."""

    def drawn_name(self, sketch_id: str, entity: str) -> str:
        """What a curve of a sketch is called on the drawing sheet."""

    def regions(self, field: str, pick: Profile | None = None, hint: str = "") -> tuple[SketchEntry, list[Region]]:
        """The areas a profile field picks, joined where they border on each other; `hint` says what else an open one can be."""

    def frame(self, field: str) -> Frame:
        """The plane a plane field names."""

    def axis(self, field: str) -> Axis:
        """The axis an axis field names."""

    def spots(self, field: str) -> list[Vec]:
        """The points a field names, one or several."""

    def things(self, field: str) -> list[Thing]:
        """What is to be measured: faces, edges and points."""

    def datum(self, datum_id: str, field: str) -> Datum:
        """A datum made by a step above."""

    def effect(self, step_id: str, field: str) -> Effect:
        """What a step above added to a body or cut from it."""

    def face(self, reference: FaceRef | Rule, field: str, index: int = 0) -> tuple[Entry, int]:
        """One face in whichever body carries it."""

    def only_face(self, field: str, hint: str) -> tuple[Entry, int]:
        """The one face a field is to pick."""

    def one_edge(self, reference: EdgeRef, field: str, index: int = 0) -> tuple[Entry, int]:
        """One edge in whichever body carries it."""

    def resolved(
        self, pick: FaceRef | EdgeRef | Rule, field: str, index: int = 0, *, whole: bool = False
    ) -> tuple[Entry, tuple[int, ...]]:
        """The body that carries a pick, and where it leads there; `whole`: a split face is taken without a word."""

    def faces(self, field: str, entry: Entry) -> list[int]:
        """The faces picked in a field, all on one body."""

    def edges(self, field: str, entry: Entry) -> list[int]:
        """The edges picked in a field or caught by its rules, all on one body."""

    def seek_edge(self, reference: EdgeRef, field: str) -> tuple[Entry, int] | None:
        """The one edge a reference leads to, without ado if there is none or more than one."""

    def handle(
        self, field: str, origin: Vec, direction: Vec, *, rate: float = 1.0, ghost: Sequence[Sequence[Vec]] = ()
    ) -> None:
        """Let the field's length be dragged in the view, from `origin` along a unit vector, if it is a plain number."""

    def turning(self, field: str, origin: Vec, axis: Vec, arm: Vec) -> None:
        """Let the field's angle be dragged in the view, about an axis, from where `arm` points."""

    def lying(self) -> Entry | None:
        """The body that the plane in which the step begins, or else its sketch, was picked on; None if on none."""

    def outline(self) -> tuple[Frame, Sequence[Point2]] | None:
        """Places along the curves and marks of the step's sketch, in its plane; None if it has none."""

    def need_picks(self, field: str, hint: str) -> None:
        """Stop the step if nothing is picked in a field: since there is no body yet, or else with the hint."""

    def holder(self, field: str, body_id: str | None, *, changes: bool = True) -> Entry:
        """The body to change, or only to look at: the one named, else the one of the field's first pick, else the only one."""

    def linked(self, field: str) -> Sequence[Entry]:
        """The bodies of another document that a field names, at least one."""

    def asset(self, field: str, sha: str, name: str) -> bytes: ...

    def ahead(self, kind: str) -> int:
        """How many steps of a type come after this one and are used."""

    def kernel(self, field: str, verb: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Call a kernel verb; its refusals become this field's."""

    def named(self, made: Made, *inputs: Body, sketch: SketchEntry | None = None) -> Body:
        """A verb's result with tags, new faces named after this step and, where they came of one, their sketch entities."""

    def new(
        self,
        body: Body,
        role: Role,
        name: str,
        suffix: str = "",
        pull: Vec | None = None,
        group: tuple[str, ...] = (),
        stock: Stock | None = None,
    ) -> None:
        """A body of this step's own; `group` are the assemblies it is listed under, the outermost first, `stock` what it is
        ordered as.
        """

    def replace(self, entry: Entry, body: Body, role: Role | None = None, pull: Vec | None = None, name: str = "") -> None:
        """Put a body's new shape in its place; its id and, unless given, its role and name stay."""

    def wear(self, entry: Entry, faces: Sequence[int], coat: Coat) -> None:
        """Put a finish or a print on faces of a body. What it is changes no shape: later steps are built anew only where other
        faces wear it.
        """

    def written(self, entry: Entry) -> Entry:
        """A body as this step has left it so far."""

    def spend(self, tools: Sequence[Entry], keep: bool) -> None:
        """Let bodies that were used vanish, unless they are kept; the sheet says which."""

    def remove(self, entry: Entry) -> None: ...

    def drawn(self, frame: Frame, regions: Sequence[Region], curves: Sequence[Curve2], freedoms: int, **more: Any) -> None:
        """Write the sketch this step is; `more` are further fields of its entry."""

    def place(self, kind: Literal["plane", "axis", "point"], frame: Frame) -> None:
        """Write the datum this step is; an axis runs along the frame's normal."""

    def did(self, how: Literal["add", "cut"], target: Entry, tools: Sequence[Body], bores: Sequence[Body] = ()) -> None:
        """Remember with what this step changed a body, for patterns and mirrors of it; `bores` are cut last."""

    def dressed(self, target: Entry) -> None:
        """Remember that this step rounded or bevelled a body, for patterns and mirrors of what it did so on."""

    def caution(self, field: str, words: str) -> None:
        """Something the designer should look at, though the step was built."""

    def note(self, words: str) -> None:
        """A line under the step's sentence that says what came of it."""

    def reading(self, words: str, value: float, most: float) -> None:
        """A figure shown in the step's own sentence: good up to `most`, near it up to 15 % more, over beyond."""

    def figure(self, name: str, value: float) -> None:
        """A number the tool's gauges show, in mm, mm², mm³ or as a ratio."""

    def travels(self, travel: Travel) -> None:
        """Let the view show a body on its way while this step is worked on."""

    def lines(self, lines: Sequence[Sequence[Vec]]) -> None:
        """Lines in space that the view draws while this step is worked on."""
