"""The pages: projects, part, tool and handoff."""

from __future__ import annotations

import json
from dataclasses import replace

from flask import Blueprint, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from supplecast.document.model import Document, Kind, known_document, parse_document, read_step
from supplecast.document.step import Step
from supplecast.errors import StoreError, SuppleError
from supplecast.exchange.datasheet import Datasheet, datasheet
from supplecast.exchange.formats import formats
from supplecast.exchange.handoff import file_name
from supplecast.exchange.parts_csv import write_parts_csv, write_surfaces_csv
from supplecast.exchange.triangles import ROLE_COLOURS
from supplecast.geometry import Vec
from supplecast.store.library import ProjectCard
from supplecast.text import cleaned
from supplecast.tooling.grades import Grade, GradeLook
from supplecast.tooling.materials import MATERIALS
from supplecast.tooling.resins import PRICE_SOURCE, RESINS, SOURCE
from supplecast.web import context, demo, habits, sheet
from supplecast.web.spoken import MASS_UNITS, Voice, said
from supplecast.wire.results import ReportResult
from supplecast.wire.verbs import REPORT
from supplecast.wording import show
from supplecast.workers.engine import Job

pages = Blueprint("pages", __name__)


@pages.get("/favicon.ico")
def favicon() -> Response:
    return redirect(url_for("static", filename="favicon.svg"))


@pages.get("/")
def projects() -> str:
    return render_template("projects.html", projects=context.library().projects())


@pages.post("/projects")
def create_project() -> Response:
    card = context.library().create_project(request.form.get("name", ""))
    return redirect(url_for("pages.projects") + f"#{card.id}")


@pages.post("/projects/demo")
def add_demo() -> Response:
    demo.add(context.library())
    return redirect(url_for("pages.projects"))


@pages.post("/projects/<project_id>/gone")
def remove_project(project_id: str) -> Response:
    context.library().set_gone(project_id, request.form.get("back") != "yes")
    return redirect(url_for("pages.projects", removed="" if request.form.get("back") else project_id))


@pages.post("/projects/<project_id>/documents")
def create_document(project_id: str) -> Response:
    """A new part, tool or assembly. An assembly begins with all parts of the project, and follows them."""
    library = context.library()
    asked = request.form.get("kind")
    kind: Kind = "tool" if asked == "tool" else "assembly" if asked == "assembly" else "part"
    project = library.project(project_id)
    name = cleaned(request.form.get("name", "")).strip() or f"New {kind}"
    document = Document(kind=kind, name=name[:120], steps=_parts_of(project) if kind == "assembly" else [])
    card = library.add_document(project.id, document)
    return redirect(url_for("pages.document", document_id=card.id))


def _parts_of(project: ProjectCard) -> list[Step]:
    parts = [card for card in project.documents if card.kind == "part"]
    picks = [{"document": card.id, "every": True} for card in parts]
    return [read_step({"id": f"l{number}", "type": "link", "part": pick}) for number, pick in enumerate(picks, 1)]


@pages.post("/projects/<project_id>/import")
def import_document(project_id: str) -> Response:
    """A document from a .supple.json file, or a part that begins with the bodies of a STEP, 3MF or STL file.

    What the file is, is told from its content.
    """
    library = context.library()
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise SuppleError("No file was chosen.", "Choose a .supple.json, STEP, 3MF or STL file.")
    content = upload.read()
    if content.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] != b"{":
        name = cleaned(upload.filename.rsplit("/", 1)[-1].rsplit(".", 1)[0]).strip()[:120] or "Import"
        document = Document(name=name, steps=[read_step({"id": "m1", **context.keep_bodies_file(upload.filename, content)})])
    else:
        document = parse_document(content)
    card = library.add_document(project_id, document, f"Import {upload.filename}"[:200])
    return redirect(url_for("pages.document", document_id=card.id))


@pages.get("/documents/<document_id>")
def document(document_id: str) -> str:
    library = context.library()
    head = library.head(document_id)
    card = library.document(document_id)
    project = library.project(card.project)
    around = context.around(head.document)
    standing = request.args.get("at")
    return render_template(
        "workbench.html",
        card=card,
        project=project,
        document=head.document,
        head=head,
        lines=sheet.lines(head.document, around, standing),
        moved=sheet.moved_on(head.document, around),
        behind=sheet.behind(head.document, around, lambda name: library.head(name).document),
        addable=sheet.addable(head.document),
        made_of=_made_of(head.document),
        resin_source=SOURCE,
        standing=standing,
        pull=_direction(head.document.pull),
        cuts=json.dumps([cut.model_dump() for cut in head.document.cuts]),
        pulls=_pulls(head.document.pull),
        screen=head.document.kind,
    )


_AXES = {"0,0,1": "up (+z)", "0,0,-1": "down (−z)", "1,0,0": "along +x", "-1,0,0": "along −x", "0,1,0": "along +y",
         "0,-1,0": "along −y"}  # fmt: skip


def _direction(pull: Vec) -> str:
    return ",".join(show(c, 6) for c in pull)


def _pulls(pull: Vec) -> dict[str, str]:
    """Directions to choose from, by how the page sends them; a pull of another direction is among them."""
    return _AXES if _direction(pull) in _AXES else {**_AXES, _direction(pull): f"along ({', '.join(show(c, 2) for c in pull)})"}


@pages.get("/documents/<document_id>/sheet")
def sheet_fragment(document_id: str) -> str:
    """The sheet alone, with the outcomes of a finished job, to be swapped into the page."""
    head = context.library().head(document_id)
    job_id = request.args.get("job")
    around = context.around(head.document, context.engine().job(job_id) if job_id else None)
    standing = request.args.get("at") or None
    return render_template(
        "sheet.html",
        document=head.document,
        lines=sheet.lines(head.document, around, standing),
        moved=sheet.moved_on(head.document, around),
        behind=sheet.behind(head.document, around, lambda name: context.library().head(name).document),
        standing=standing,
    )


_REVISIONS_A_PAGE = 40
_TO_COMPARE = 100


@pages.get("/documents/<document_id>/history")
def history(document_id: str) -> str:
    """The revisions of a document, newest first."""
    library = context.library()
    head = library.head(document_id)
    card = library.document(document_id)
    before = request.args.get("before", type=int)
    pasts = library.history(document_id, _REVISIONS_A_PAGE + 1, before)
    return render_template(
        "history.html",
        card=card,
        project=library.project(card.project),
        document=head.document,
        pasts=pasts[:_REVISIONS_A_PAGE],
        more=len(pasts) > _REVISIONS_A_PAGE,
        total=library.history(document_id, 1)[0].number,
        screen="history",
    )


def _made_of(document: Document) -> dict[str, list[str]]:
    """What a document can be made of, by kind; what it is of now is among it."""
    own = [grade.name for grade in context.library().grades()]
    known = {*RESINS, *MATERIALS, *own}
    other = [document.resin] if document.resin and document.resin not in known else []
    return {"resins": list(RESINS), "grades of your own": [*own, *other], "not molded": list(MATERIALS)}


@pages.get("/resins")
def resins() -> str:
    """The table of resins and the grades of one's own; `like` begins a new grade with a resin's figures."""
    grades = context.library().grades()
    like, name = request.args.get("like"), request.args.get("grade")
    edited = next((grade for grade in grades if grade.name == name), None)
    begun = like in RESINS or like == ""
    if begun:
        taken, stem = {grade.name for grade in grades}, f"{like} grade" if like else "Material"
        fresh = next(n for n in (stem, *(f"{stem} {k}" for k in range(2, 999))) if n not in taken)
        edited = Grade.of(RESINS[like], fresh) if like else Grade(name=fresh, density=1.0)
    return render_template(
        "resins.html",
        resins=list(RESINS.values()),
        grades=grades,
        edited=edited,
        look=edited.look or GradeLook() if edited else None,
        fresh=begun,
        materials=list(MATERIALS.values()),
        source=SOURCE,
        price_source=PRICE_SOURCE,
    )


@pages.get("/numbers")
def numbers() -> str:
    """How the one at this browser wants numbers written."""
    voice, back = habits.voice(), request.args.get("back", "")
    return render_template(
        "numbers.html",
        voice=voice,
        masses=list(MASS_UNITS),
        example=said("A wall of 2.5 mm; 12.5 g, resin for ¤0.09", voice),
        back=back if back.startswith("/documents/") else "",
        kept="kept" in request.args,
    )


@pages.post("/numbers")
def keep_numbers() -> Response:
    """Keep how numbers are to be written, and show it."""
    return habits.keep(redirect(url_for("pages.numbers", kept="", back=request.form.get("back", ""))))


@pages.get("/documents/<document_id>/report")
def report(document_id: str) -> str:
    """The report of a part; with a finished `job` what it says, else the page that waits for it."""
    library = context.library()
    card = library.document(document_id)
    number = request.args.get("job")
    job = _report_job(document_id, number) if number else None
    return render_template(
        "report.html",
        card=card,
        project=library.project(card.project),
        document=library.head(document_id).document,
        report=_datasheet(job) if job else None,
        job=number,
        pictures=job.result.pictures if job and job.result else [],
        colours=ROLE_COLOURS,
    )


@pages.get("/documents/<document_id>/report.pdf")
def report_pdf(document_id: str) -> Response:
    """The report as a PDF to take away."""
    from supplecast.exchange.datasheet_pdf import write_pdf  # the PDF library would add 0.2 s to every start of the web

    sheet_of = _datasheet(_report_job(document_id, str(request.args.get("job"))))
    name = file_name(sheet_of.title, "report", extension="pdf")
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(write_pdf(sheet_of), mimetype="application/pdf", headers=headers)


def _report_job(document_id: str, job_id: str) -> Job[ReportResult]:
    job = context.engine().job(job_id)
    if job.verb is not REPORT or job.document != document_id or job.result is None:
        raise StoreError("That report is not made yet, or forgotten.", "Make it again.")
    return job


@pages.get("/documents/<document_id>/parts-list.csv")
def parts_list(document_id: str) -> Response:
    """The parts list of a tool as a table for a spreadsheet."""
    sheet_of = _datasheet(_report_job(document_id, str(request.args.get("job"))))
    name = file_name(sheet_of.title, "parts list", extension="csv")
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(write_parts_csv(sheet_of.items), mimetype="text/csv", headers=headers)


@pages.get("/documents/<document_id>/surfaces.csv")
def surfaces(document_id: str) -> Response:
    """What is to be done to surfaces, as a table for a spreadsheet."""
    sheet_of = _datasheet(_report_job(document_id, str(request.args.get("job"))))
    name = file_name(sheet_of.title, "surfaces", extension="csv")
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(write_surfaces_csv(sheet_of.surfaces), mimetype="text/csv", headers=headers)


def _datasheet(job: Job[ReportResult]) -> Datasheet:
    """What a finished report says, of the document as it was when the report was asked for."""
    assert job.result is not None
    document = known_document(job.task.document)
    steps = [
        ("(left out) " if line.skip else "") + sheet.spoken(line) for line in sheet.lines(document, context.around(document))
    ]
    pictures = [(p.words, (context.library().blobs / p.blob).read_bytes()) for p in job.result.pictures]
    return _said(datasheet(job.result, document, job.options.revision, steps, pictures), habits.voice(document.unit))


def _said(made: Datasheet, voice: Voice) -> Datasheet:
    """A report as its reader writes."""
    return replace(
        made,
        about=said(made.about, voice),
        readings=[replace(one, value=said(one.value, voice), verdict=said(one.verdict, voice)) for one in made.readings],
        places=[said(place, voice) for place in made.places],
        facts=[(name, said(words, voice)) for name, words in made.facts],
    )


@pages.get("/documents/<document_id>/compare")
def compare(document_id: str) -> str:
    """Two revisions, or two documents, side by side: the one before and the one now, unless others are asked for."""
    library = context.library()
    head = library.head(document_id)
    card = library.document(document_id)
    project = library.project(card.project)
    other = request.args.get("other") or document_id
    pasts = library.history(document_id, _TO_COMPARE)
    first = request.args.get("first", type=int)
    if first is None and other == document_id and len(pasts) > 1:
        first = next((past.number for past in pasts if past.milestone and not past.is_head), pasts[1].number)
    return render_template(
        "compare.html",
        card=card,
        project=project,
        document=head.document,
        others=[d for d in project.documents if d.kind == card.kind],
        other=library.document(other),
        pasts=pasts,
        other_pasts=library.history(other, _TO_COMPARE),
        first=first,
        second=request.args.get("second", type=int),
        screen="compare",
    )


@pages.get("/documents/<document_id>/handoff")
def handoff(document_id: str) -> str:
    library = context.library()
    head = library.head(document_id)
    card = library.document(document_id)
    return render_template(
        "handoff.html",
        card=card,
        project=library.project(card.project),
        document=head.document,
        head=head,
        formats=list(formats().values()),
        json_name=file_name(head.document.name, extension="supple.json"),
        screen="handoff",
    )
