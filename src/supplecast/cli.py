"""The command line: build documents without a server, export, print the schema, serve the web application."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from supplecast import __version__
from supplecast.errors import SuppleError
from supplecast.expressions import quoted
from supplecast.tooling.resins import RESINS

if TYPE_CHECKING:
    from supplecast.document.model import Document
    from supplecast.document.state import Outcome

Progress = Callable[[int, int, str, str], None]
GOOD, FAILED, UNUSABLE = 0, 1, 2


def main(arguments: Sequence[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="supplecast", description="Thin-walled molded parts and their molds.")
    parser.add_argument("--version", action="version", version=f"supplecast {__version__}")
    commands = parser.add_subparsers(dest="command", required=True)

    build = commands.add_parser("build", help="build documents and write their bodies and a report")
    build.add_argument("documents", nargs="+", type=Path, metavar="DOC.json", help="one or several linked documents")
    build.add_argument("--out", type=Path, help="directory for the files of the bodies")
    build.add_argument("--formats", default="step", help="such as step, stl, 3mf, glb; separated by commas")
    build.add_argument("--tolerance", type=float, default=0.02, help="of triangles, mm (0.02)")
    build.add_argument("--report", type=Path, help="where to write the report as JSON; - for standard output")

    export = commands.add_parser("export", help="write one body, or all, of a document to one file")
    export.add_argument("documents", nargs="+", type=Path, metavar="DOC.json")
    export.add_argument("--to", type=Path, required=True, help="file to write; its ending chooses the format")
    export.add_argument("--body", help="id of the body; all if left out")
    export.add_argument("--tolerance", type=float, default=0.02)

    names = commands.add_parser("names", help="print every body, face and edge of a document, and how to refer to it")
    names.add_argument("documents", nargs="+", type=Path, metavar="DOC.json", help="the last one is told; the others it links")

    commands.add_parser("schema", help="print the JSON Schema of documents")

    backup = commands.add_parser("backup", help="copy all projects into one file, while the program runs or not")
    backup.add_argument("file", type=Path, metavar="FILE.zip")
    restore = commands.add_parser("restore", help="put a backup into a new data directory")
    restore.add_argument("file", type=Path, metavar="FILE.zip")
    doctor = commands.add_parser("doctor", help="look through the data directory and repair what can be derived")
    doctor.add_argument("--look-only", action="store_true", help="say what is wrong and change nothing")
    for command in (backup, restore, doctor):
        command.add_argument("--data", type=Path, default=Path("data"), help="directory of database and files")

    serve = commands.add_parser("serve", help="start the web application")
    demo = commands.add_parser("demo", help="start the web application with the demo project in it")
    for command in (serve, demo):
        command.add_argument("--data", type=Path, default=Path("data"), help="directory of database and files")
        command.add_argument("--host", default="127.0.0.1")
        command.add_argument("--port", type=int, default=8765)
        command.add_argument("--no-key", action="store_true", help="let anybody on this machine in, without the key")
        command.add_argument("--deadline", type=float, default=60.0, help="seconds a build may take before it is stopped (60)")

    options = parser.parse_args(arguments)
    try:
        match options.command:
            case "build":
                return _isolated(_build, options)
            case "export":
                return _isolated(_export, options)
            case "names":
                return _isolated(_names, options)
            case "schema":
                return _schema()
            case "backup" | "restore":
                return _backup(options)
            case "doctor":
                return _doctor(options)
            case _:
                return _serve(options)
    except SuppleError as fault:
        print(f"supplecast: {fault}", file=sys.stderr)
        return UNUSABLE


def _isolated(work: Callable[[argparse.Namespace, Progress], int], options: argparse.Namespace) -> int:
    """Do the work in a child process: the kernel can crash on rare shapes, which then is said instead of suffered."""
    reader, writer = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(reader)
        try:
            status = work(options, lambda *at: _say_progress(writer, *at))
        except SuppleError as fault:
            print(f"supplecast: {fault}", file=sys.stderr)
            status = UNUSABLE
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(status)
    os.close(writer)
    with os.fdopen(reader, encoding="utf-8") as stream:
        last = [line.rstrip("\n") for line in stream][-1:]
    _, ended = os.waitpid(child, 0)
    if os.WIFSIGNALED(ended):
        at = f" at {last[0]}" if last else ""
        print(f"supplecast: the geometry kernel crashed{at}. Change the sizes of that step a little.", file=sys.stderr)
        return FAILED
    return os.waitstatus_to_exitcode(ended)


def _say_progress(writer: int, number: int, of: int, label: str, step: str) -> None:
    os.write(writer, f"step {number} of {of}, “{label}”\n".encode())


def _build(options: argparse.Namespace, progress: Progress) -> int:
    from supplecast.document.step import load_steps

    load_steps()
    from supplecast import kernel
    from supplecast.document import project
    from supplecast.document.advise import largest
    from supplecast.exchange import handoff, report
    from supplecast.exchange.formats import Tolerance
    from supplecast.exchange.wardrobe import Wardrobe

    kernel.preload()  # so that the report's times are the steps' own

    formats = _formats(options.formats)
    tolerance = Tolerance(options.tolerance)
    opened = project.read_files(options.documents)
    reports, status = [], GOOD
    for (name, revision), document in opened.revisions.items():
        built = opened.build(name, revision, progress)
        reports.append(report.report(document, built))
        if document.material is None and document.made_of.is_molded:
            status = FAILED
            known = f"Known: {', '.join(RESINS)}; or give the figures of another as the document's grade."
            print(f"supplecast: {document.name}: the resin {quoted(document.resin)} is not known. {known}", file=sys.stderr)
        for outcome in built.outcomes:
            if outcome.status in ("failed", "held"):
                status = FAILED
                fitting = largest(document, outcome, opened.memories[name], opened)
                _say_failed(document, outcome, fitting.words if fitting else outcome.hint)
        if options.out:
            options.out.mkdir(parents=True, exist_ok=True)
            wardrobe = Wardrobe(document, built.coats, opened.asset)
            for entry in built.state.bodies.values():
                for format in (f for f in formats if handoff.writable([entry], f)):
                    target = options.out / handoff.file_name(document.name, entry.name, entry.id, extension=format)
                    target.write_bytes(handoff.write([entry], format, tolerance, wardrobe))
    rows = [asdict(one) for one in reports]
    text = json.dumps(rows[0] if len(rows) == 1 else {"documents": rows}, indent=1, ensure_ascii=False)
    if options.report and str(options.report) != "-":
        options.report.write_text(text + "\n", encoding="utf-8")
    else:
        print(text)
    return status


def _say_failed(document: Document, outcome: Outcome, hint: str) -> None:
    step = document.step(outcome.step)
    where = f", field {outcome.field}" if outcome.field else ""
    number = document.position(outcome.step) + 1
    print(
        f"supplecast: {document.name}, step {number} “{step.label}” ({step.id}){where}: {outcome.message} {hint}".rstrip(),
        file=sys.stderr,
    )


def _formats(text: str) -> list[str]:
    from supplecast.exchange.formats import formats

    wanted = [word.strip().lower() for word in text.split(",") if word.strip()]
    unknown = [word for word in wanted if word not in formats()]
    if unknown or not wanted:
        raise SuppleError(f"“{text}” names no known formats.", "Known: " + ", ".join(formats()) + ".")
    return wanted


def _export(options: argparse.Namespace, progress: Progress) -> int:
    from supplecast.document.step import load_steps

    load_steps()
    from supplecast.document import project
    from supplecast.exchange import handoff
    from supplecast.exchange.formats import Tolerance
    from supplecast.exchange.wardrobe import Wardrobe

    format = _formats(options.to.suffix.lstrip(".").replace("stp", "step"))[0]
    opened = project.read_files(options.documents)
    last = list(opened.revisions)[-1]
    built = opened.build(*last, progress)
    bodies = built.state.bodies
    if options.body and options.body not in bodies:
        raise SuppleError(f"There is no body “{options.body}”.", "Bodies: " + ", ".join(bodies) + ".")
    entries = [bodies[options.body]] if options.body else list(bodies.values())
    wardrobe = Wardrobe(opened.revisions[last], built.coats, opened.asset)
    options.to.write_bytes(handoff.write(entries, format, Tolerance(options.tolerance), wardrobe))
    return GOOD


def _names(options: argparse.Namespace, progress: Progress) -> int:
    from supplecast.document.step import load_steps

    load_steps()
    from supplecast.document import project
    from supplecast.exchange import names

    opened = project.read_files(options.documents)
    last = list(opened.revisions)[-1]
    built = opened.build(*last, progress)
    document = opened.revisions[last]
    print(json.dumps({"bodies": names.names(document, built)}, indent=1, ensure_ascii=False))
    for outcome in built.outcomes:
        if outcome.status in ("failed", "held"):
            _say_failed(document, outcome, outcome.hint)
    return GOOD if built.ok else FAILED


def _schema() -> int:
    from supplecast.document.model import schema
    from supplecast.document.step import load_steps

    load_steps()
    print(json.dumps(schema(), indent=1, ensure_ascii=False))
    return GOOD


def _backup(options: argparse.Namespace) -> int:
    from supplecast.store import backup

    if options.command == "backup":
        count = backup.backup(options.data, options.file)
        print(f"All projects and {count} imported files are in {options.file}.")
    else:
        backup.restore(options.file, options.data)
        print(f"The backup is in {options.data}. Start with: supplecast serve --data {options.data}")
    return GOOD


def _doctor(options: argparse.Namespace) -> int:
    from supplecast.document.step import load_steps
    from supplecast.store import doctor

    load_steps()
    findings = doctor.examine(options.data, repair=not options.look_only)
    for finding in findings:
        print(f"{'repaired' if finding.repaired else 'WRONG'}: {finding.words}")
    left = sum(not finding.repaired for finding in findings)
    print("All is well." if not left else f"{left} fault{'s' if left > 1 else ''} left.")
    return FAILED if left else GOOD


def _serve(options: argparse.Namespace) -> int:
    from supplecast.web.serve import serve

    return serve(
        options.data,
        options.host,
        options.port,
        demo=options.command == "demo",
        deadline=options.deadline,
        key=not options.no_key,
    )


if __name__ == "__main__":
    sys.exit(main())
