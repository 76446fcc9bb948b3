"""The command line. Documents go to standard output as JSON, everything else to standard error.

Exit codes: 0 a result, 1 no feasible design (and why), 2 a request that is wrong (field by field).
"""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from functools import partial
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any

import click

if TYPE_CHECKING:
    from wedgecraft.core.ground.documents import Document
    from wedgecraft.core.shop.document import ShopEntry
    from wedgecraft.store.database import Database

_KINDS = (
    "cutting",
    "hold",
    "share",
    "row",
    "grip",
    "vise",
    "clamp",
    "give",
    "workpiece",
    "locate",
    "fit",
    "tolerance",
    "verdicts",
    "layout",
    "make",
    "program",
    "run-program",
    "sheet",
    "run",
    "log",
    "learn",
)
_FILE = click.Path(dir_okay=False, allow_dash=True)
_SHOP = click.option(
    "--shop",
    type=click.Path(dir_okay=False, exists=True),
    help="The shop's own export (JSON): what things of the shop called by name are. Without it,"
    " those that ship.",
)


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="wedgecraft")
def main() -> None:
    """Fixture layouts with the most good parts a cycle, held and in tolerance."""


@main.command()
@click.argument("file", type=_FILE)
@_SHOP
def plan(file: str, shop: str | None) -> None:
    """Plan the route of the job in FILE (or -): prints the job document with its result.

    Plan requests and plan documents of versions 1 and 2 are read too.
    """
    _compute("plan", file, shop)


@main.command()
@click.argument("file", type=_FILE)
@click.option("--material", required=True, help="Its id, or the name of one of the shop.")
@click.option("--quantity", required=True, type=click.IntRange(1, 10_000_000))
@click.option("--thickness", type=float, help="In mm, where a drawing says none.")
@click.option("--machine", metavar="NAME", help="Of the shop; without it the smallest with room.")
@click.option("--unit", type=click.Choice(["mm", "in"]), help="Of a file that names none.")
@click.option("--plan", "planned", is_flag=True, help="Plan it; print a line on it.")
@_SHOP
def draft(
    file: str,
    material: str,
    quantity: int,
    thickness: float | None,
    machine: str | None,
    unit: str | None,
    planned: bool,
    shop: str | None,
) -> None:
    """Propose everything for the part in FILE: stock, ops, cuts, and how each op is held.

    Prints the job document. Exit codes as for plan.
    """
    from wedgecraft.core.draft.assumed import answered
    from wedgecraft.core.draft.proposal import drafted
    from wedgecraft.core.draft.shop import Stores
    from wedgecraft.core.ground.documents import FieldError
    from wedgecraft.core.ground.errors import OutOfRange
    from wedgecraft.core.plan.route import plan_route
    from wedgecraft.formats.errors import FileRefused
    from wedgecraft.formats.part_files import read_part

    with _documents_only() as out:
        stores = Stores.of(_shop_entries(shop))
        try:
            work = stores.material(material)
            picked = None if machine is None else stores.machine(machine)
            part = read_part(_read(file), Path(file).name, work, thickness, unit)  # type: ignore[arg-type]
            found = drafted(part.name, quantity, [part], stores, picked, unit=unit or "mm")  # type: ignore[arg-type]
        except FileRefused as error:
            said = f"{error.what}; {error.remedy}"
            _wrong(out, [FieldError(field="file", value=file, message=said)])
        except OutOfRange as error:
            asked = str(error.value)
            _wrong(out, [FieldError(field=error.field, value=asked, message=error.allowed)])
        if not planned:
            _print(out, found.model_dump(mode="json"))
            sys.exit(0)
        answer = answered(plan_route(found, alternatives=False))
        out.write(json.dumps(answer.model_dump(mode="json"), ensure_ascii=False) + "\n")
    sys.exit(0 if answer.feasible else 1)


@main.command()
@click.argument("file", type=_FILE)
@click.option("--out", type=click.Path(file_okay=False), help="Write their files into this folder.")
@click.option("--unit", type=click.Choice(["mm", "in"]), default="mm", help="Of drawings.")
@_SHOP
def make(file: str, out: str | None, unit: str, shop: str | None) -> None:
    """What must be made for the job document in FILE (or -): pieces with their holes, drawings.

    Prints the pieces of all setups; a job without a result is planned first. Exit codes as for
    plan.
    """
    _compute("make", file, shop, None if out is None else partial(_write_pieces, Path(out), unit))


def _write_pieces(folder: Path, unit: str, document: Any, made: Any) -> None:
    """A folder a setup, all files of its pieces in it."""
    from datetime import date

    from wedgecraft.core.make.drawing import Title
    from wedgecraft.core.plan.assembled import assembled
    from wedgecraft.core.plan.route import plan_route
    from wedgecraft.formats.piece_files import Kernel, pack, solids_of
    from wedgecraft.formats.step.writer import write_assembly, write_step

    title = Title("", document.job.name, "", "", date.today().isoformat())
    if document.result is None:
        document = plan_route(document, alternatives=False)
    for setup in made.setups:
        own = folder / f"setup {setup.number}"
        own.mkdir(parents=True, exist_ok=True)
        together = assembled(document, setup.number)
        solids = solids_of(setup, together, Kernel(write_step, write_assembly))
        for name, data in pack(setup, title, "inch" if unit == "in" else "mm", solids):
            (own / name).write_bytes(data)
            click.echo(f"{own / name}", err=True)


_OPS = click.option(
    "--op",
    "ops",
    multiple=True,
    metavar="PART:NUMBER=FILE.nc",
    help="An op's program: the part by name or number, the op by its number.",
)


@main.command()
@click.argument("file", type=_FILE)
@_OPS
@click.option("--order", type=click.Choice(["by tool", "by station"]), help="Else the house rule.")
@click.option("--out", type=click.Path(file_okay=False), help="Write the programs here.")
@_SHOP
def program(
    file: str, ops: tuple[str, ...], order: str | None, out: str | None, shop: str | None
) -> None:
    """Zeros of every setup of the job in FILE (or -), and one program out of those of its ops.

    Each is tried on a stand-in for a control. Exit 1: a program is missing, or something is wrong.
    """
    given = {"ops": _op_texts(ops), "order": order}
    then = None if out is None else partial(_write_programs, Path(out))
    _compute("program", file, shop, then, lambda document: {"document": document, **given})


@main.command()
@click.argument("file", type=_FILE)
@_OPS
@click.option("--setup", type=int, default=1, help="Which of its setups, from 1.")
@click.option("--out", type=click.Path(dir_okay=False), help="Write the sheet here, as PDF.")
@click.option("--paper", type=click.Choice(["A4", "letter"]), default="A4")
@click.option("--units", type=click.Choice(["mm", "inch"]), default="mm")
@_SHOP
def sheet(
    file: str,
    ops: tuple[str, ...],
    setup: int,
    out: str | None,
    paper: Any,
    units: Any,
    shop: str | None,
) -> None:
    """The setter's sheet of one setup of the job in FILE (or -), as JSON, and as PDF."""
    from wedgecraft.formats.sheets.setup_pdf import setup_pdf

    def write(asked: Any, made: Any) -> None:
        if out is not None:
            Path(out).write_bytes(setup_pdf(made, paper, units, f"{made.job}, setup {made.setup}"))
            click.echo(out, err=True)

    given = {"ops": _op_texts(ops), "setup": setup}
    _compute("sheet", file, shop, write, lambda document: {"document": document, **given})


@main.command("run")
@click.argument("file", type=_FILE)
@click.option("--repeats", type=click.IntRange(2, 1000), default=100, show_default=True)
@_SHOP
def run(file: str, repeats: int, shop: str | None) -> None:
    """How the job in FILE (or -) runs: parts a day, what the spindle waits for, money; as JSON."""
    _compute("run", file, shop, None, lambda document: {"document": document, "repeats": repeats})


@main.command("log")
@click.argument("file", type=_FILE)
@click.argument("entries", type=click.Path(dir_okay=False, exists=True))
@_SHOP
def log(file: str, entries: str, shop: str | None) -> None:
    """What the log in ENTRIES (CSV) says of the planned job in FILE (or -); as JSON."""
    given = _entries(entries)
    _compute("log", file, shop, None, lambda document: {"document": document, "entries": given})


@main.command("learn")
@click.argument("file", type=_FILE)
@click.argument("entries", type=click.Path(dir_okay=False, exists=True))
@_SHOP
def learn(file: str, entries: str, shop: str | None) -> None:
    """What can be learned of the planned job in FILE (or -) from the log in ENTRIES (CSV)."""
    given = _entries(entries)
    _compute("learn", file, shop, None, lambda document: {"document": document, "entries": given})


@main.command("devices")
@click.option("--control", "control_port", default=8431, show_default=True)
@click.option("--wrench", "wrench_port", default=8432, show_default=True)
@click.option("--cycle", default=60.0, show_default=True, help="Seconds of a cycle.")
@click.option("--parts", default=1, show_default=True, help="Parts of a cycle.")
@click.option("--torque", default=16.0, show_default=True, help="What the wrench is set to, N·m.")
def devices(control_port: int, wrench_port: int, cycle: float, parts: int, torque: float) -> None:
    """Run the stand-ins: a control that speaks MTConnect, a wrench. Ctrl-C stops them."""
    import random
    import time
    from datetime import UTC, datetime

    from wedgecraft.devices.control import Agent, run_cycle, serve
    from wedgecraft.devices.wrench import Wrench

    agent, wrench, made = Agent(), Wrench(wrench_port), 0
    serve(agent, control_port)
    click.echo(f"Control: http://127.0.0.1:{control_port}  Wrench: 127.0.0.1:{wrench.port}")
    draw = random.Random(1)  # noqa: S311 (no secret)
    with suppress(KeyboardInterrupt):
        while True:
            began = datetime.now(UTC)
            for station in range(1, parts + 1):
                wrench.say(station, round(draw.gauss(torque, 0.02 * torque), 1))
            time.sleep(cycle)
            made = run_cycle(agent, parts, began, datetime.now(UTC), made)
    wrench.close()


@main.command("listen")
@click.argument("job_id")
@click.option("--setup", default=1, show_default=True)
@click.option("--server", default="http://127.0.0.1:8420", show_default=True)
@click.option("--sign-in", required=True)
@click.option("--password", envvar="WEDGECRAFT_PASSWORD", prompt=True, hide_input=True)
@click.option("--control", help="An MTConnect agent, such as http://127.0.0.1:8431.")
@click.option("--wrench", help="Host and port of a wrench, such as 127.0.0.1:8432.")
@click.option("--table", type=click.Path(dir_okay=False), help="A CSV that a gauge writes.")
@click.option("--outbox", type=click.Path(dir_okay=False), default="wedgecraft-outbox.jsonl")
@click.option("--once", is_flag=True, help="Hear what there is now, hand it over, and end.")
def listen(
    job_id: str,
    setup: int,
    server: str,
    sign_in: str,
    password: str,
    control: str | None,
    wrench: str | None,
    table: str | None,
    outbox: str,
    once: bool,
) -> None:
    """Hand over what a control, a wrench and a gauge say, to the log of JOB_ID."""
    import time

    from wedgecraft.devices.listen import ControlEar, Outbox, Service, TableEar, WrenchEar
    from wedgecraft.formats.logs.mtconnect import Cycles

    ears: list[Any] = []
    if control:
        ears.append(ControlEar(control, Cycles(job_id, setup)))
    if wrench:
        host, _, port = wrench.rpartition(":")
        if not port.isdigit():
            raise click.UsageError("--wrench is a host and a port, such as 127.0.0.1:8432")
        ears.append(WrenchEar(host or "127.0.0.1", int(port), job_id, setup))
    if table:
        ears.append(TableEar(Path(table), job_id))
    if not ears:
        raise click.UsageError("Say whom to listen to: --control, --wrench or --table.")
    box = Outbox(Path(outbox), Service(server, sign_in, password, job_id).deliver)
    with suppress(KeyboardInterrupt):
        while True:
            for ear in ears:
                box.put(ear.hear())
            sent = box.send()
            if sent:
                click.echo(f"{sent} handed over")
            if once:
                break
            time.sleep(2)
    if box.waiting():
        click.echo(f"{len(box.waiting())} wait in {outbox}", err=True)
        sys.exit(1)


def _entries(file: str) -> list[dict[str, Any]]:
    """Of a log; rows that cannot be read are said, and take nothing with them."""
    from wedgecraft.formats.errors import FileRefused
    from wedgecraft.formats.logs.table import read_log

    try:
        read = read_log(Path(file).read_bytes(), "")
    except FileRefused as refused:
        raise click.UsageError(f"{file}: {refused}") from None
    for fault in read.faults:
        where = f"row {fault.row}" + (f", {fault.column}" if fault.column else "")
        click.echo(f"{file}, {where}: {fault.message}", err=True)
    return [entry.model_dump(mode="json") for entry in read.entries]


@main.command(name="run-program")
@click.argument("nc", type=_FILE)
@click.option("--plan", "plan_", type=_FILE, required=True, help="The job document.")
@click.option("--setup", type=int, default=1, help="Which of its setups, from 1.")
@_OPS
@_SHOP
def run_program(nc: str, plan_: str, setup: int, ops: tuple[str, ...], shop: str | None) -> None:
    """Run a program (NC) on a stand-in for a control, for one setup of a job."""
    given = {"text": _nc(nc), "setup": setup, "ops": _op_texts(ops)}
    _compute("run-program", plan_, shop, None, lambda document: {"document": document, **given})


def _nc(file: str) -> str:
    """A program's text, in whatever character set: only comments have more than ASCII."""
    data = _read(file)
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _op_texts(ops: Sequence[str]) -> list[dict[str, Any]]:
    found = []
    for item in ops:
        where, _, file = item.partition("=")
        part, _, number = where.rpartition(":")
        if not file or not part or not number.isdigit():
            click.echo(f"--op {item}: PART:NUMBER=FILE.nc, such as 1:10=first.nc", err=True)
            sys.exit(2)
        found.append({"part": part, "op": int(number), "text": _nc(file)})
    return found


def _write_programs(folder: Path, asked: Any, made: Any) -> None:
    """The program, the zeros for the control and as a table of every setup that has them."""
    from wedgecraft.formats.program_files import zeros_csv

    folder.mkdir(parents=True, exist_ok=True)
    for setup in made.setups:
        files = {}
        if setup.program is not None:
            files[f"setup {setup.number}.nc"] = setup.program.text
        if setup.table is not None:
            files[f"setup {setup.number} zeros.nc"] = "\n".join(setup.g10) + "\n"
            files[f"setup {setup.number} zeros.csv"] = zeros_csv(setup.table)
        for name, text in files.items():
            (folder / name).write_text(text)
            click.echo(f"{folder / name}", err=True)


@main.command()
@click.argument("kind", type=click.Choice(_KINDS))
@click.argument("file", type=_FILE)
@_SHOP
def compute(kind: str, file: str, shop: str | None) -> None:
    """Compute KIND for the document in FILE (or -): prints the result."""
    _compute(kind, file, shop)


@main.command()
@click.argument("kind", type=click.Choice((*_KINDS, "plan", "errors", "openapi")))
def schema(kind: str) -> None:
    """Print the JSON Schema of KIND's two documents (or the OpenAPI description of the service)."""
    click.echo(json.dumps(schemas(kind), indent=1))


def schemas(kind: str) -> dict[str, Any]:
    """Request as it may be written, result as it is printed."""
    if kind == "openapi":
        return _openapi()
    if kind == "errors":
        from wedgecraft.core.ground.documents import Errors

        return Errors.model_json_schema()
    from wedgecraft.core.compute import computation

    found = computation(kind)
    return _published(found.request, found.result)


def _published(request: type[Document], result: type[Document]) -> dict[str, Any]:
    """Both documents, and every definition that either needs, once.

    As they may be written: what is printed has every field, and quantities as numbers.
    """
    from pydantic.json_schema import models_json_schema

    asked: list[tuple[type[Document], Any]] = [(request, "validation"), (result, "validation")]
    refs, shared = models_json_schema(asked)
    return {"request": refs[asked[0]], "result": refs[asked[1]], "$defs": shared["$defs"]}


def _openapi() -> dict[str, Any]:
    from wedgecraft.api.app import create_app
    from wedgecraft.jobs.queue import Queue
    from wedgecraft.store.database import Database

    database = Database("postgresql://nobody@127.0.0.1:1/none")
    spec: dict[str, Any] = json.loads(
        json.dumps(create_app(database, Queue(database), "none").spec)
    )
    return spec


def _shop_entries(file: str | None) -> list[ShopEntry]:
    """The shop's own entries, or those that ship."""
    from wedgecraft.core.shop.shipped import shipped

    if file is None:
        return shipped()
    from wedgecraft.formats.errors import FileRefused
    from wedgecraft.formats.tables import read_entries

    try:
        read = read_entries(Path(file).read_bytes(), None, Path(file).name)
    except FileRefused as error:
        raise click.ClickException(f"{file}: {error.what}; {error.remedy}") from None
    if read.faults:
        said = "; ".join(
            f"row {item.row}, {item.column}: {item.message}" for item in read.faults[:3]
        )
        raise click.ClickException(f"{file}: {said}")
    return read.entries


def _as_json(text: bytes) -> Any:
    """What a text says; nothing where it is no JSON, or nested without end."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        return None


def _compute(
    kind: str,
    file: str,
    shop: str | None = None,
    then: Callable[[Any, Any], None] | None = None,
    within: Callable[[Any], Any] | None = None,
) -> None:
    """``within``: the request round the document in the file."""
    from pydantic import ValidationError

    from wedgecraft.core.compute import computation
    from wedgecraft.core.ground.documents import FieldError, field_errors
    from wedgecraft.core.ground.errors import OutOfRange
    from wedgecraft.core.hold.limit import NotSeated
    from wedgecraft.core.shop.refer import with_entries

    found = computation(kind)
    with _documents_only() as out:
        text = _read(file)
        given = _as_json(text)
        try:
            if given is None:  # says where it is no JSON
                asked = found.request.model_validate_json(text)
            else:
                given = with_entries(given, _shop_entries(shop))
                given = given if within is None else within(given)
                asked = found.request.model_validate_json(json.dumps(given))
            result = found.run(asked)
        except ValidationError as error:
            _wrong(out, field_errors(error, given=given))
        except NotSeated as error:
            _print(
                out,
                {
                    "errors": [
                        FieldError(
                            field=error.field, value=str(error.value), message=error.allowed
                        ).model_dump()
                    ]
                },
            )
            sys.exit(1)
        except OutOfRange as error:
            _wrong(
                out, [FieldError(field=error.field, value=str(error.value), message=error.allowed)]
            )
        if then is not None:
            then(asked, result)
        _print(out, result.model_dump(mode="json"))
    sys.exit(0 if _works(result) else 1)


def _works(result: Document) -> bool:
    answer = getattr(result, "result", None) or result
    return bool(getattr(answer, "feasible", True)) and getattr(answer, "count", 1) > 0


def _wrong(out: IO[str], errors: list[Any]) -> None:
    for error in errors:
        click.echo(f"{error.field}: {error.message} (given: {error.value})", err=True)
    _print(out, {"errors": [error.model_dump() for error in errors]})
    sys.exit(2)


def _read(file: str) -> bytes:
    try:
        return sys.stdin.buffer.read() if file == "-" else Path(file).read_bytes()
    except OSError as error:
        click.echo(f"{file} cannot be read: {error.strerror}", err=True)
        sys.exit(2)


def _print(out: IO[str], document: dict[str, Any]) -> None:
    json.dump(document, out, indent=1, ensure_ascii=False)
    out.write("\n")


@contextmanager
def _documents_only() -> Iterator[IO[str]]:
    """Our own way to standard output, while whatever libraries print there goes to standard
    error.
    """
    sys.stdout.flush()
    kept = os.dup(1)
    os.dup2(2, 1)
    with os.fdopen(kept, "w", encoding="utf-8") as out:
        try:
            yield out
        finally:
            out.flush()
            os.dup2(kept, 1)


@main.command()
@click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="Where to listen; anything but loopback wants --https.",
)
@click.option("--port", default=8420, show_default=True)
@click.option(
    "--real",
    is_flag=True,
    help="A real shop: no demo; asks for the first administrator's password once.",
)
@click.option(
    "--https", is_flag=True, help="Behind a proxy that speaks TLS: cookies are marked secure."
)
@click.option(
    "--plans-at-once",
    type=click.IntRange(1, 64),
    help="Plans worked out side by side; two, or one on a single core, unless given.",
)
def up(host: str, port: int, real: bool, https: bool, plans_at_once: int | None) -> None:
    """Run everything: database, worker, web. Ctrl-C stops it."""
    import logging

    from wedgecraft import logs
    from wedgecraft.service.supervisor import Supervisor

    logs.to_stderr(logging.WARNING)
    if host not in ("127.0.0.1", "localhost", "::1") and not https:
        raise click.UsageError(
            "Listening beyond this machine needs a TLS proxy in front: add --https once there is"
            " one."
        )
    if real:
        _first_admin()
    sys.exit(Supervisor(host, port, demo=not real, https=https, plans_at_once=plans_at_once).run())


def _first_admin() -> None:
    """Ask for the first administrator's password, once, before anything is served; never beside the
    demo's published ones.
    """
    from wedgecraft.service import state
    from wedgecraft.store.cluster import Cluster, ClusterError
    from wedgecraft.store.database import Database

    folder = state.prepare_state()
    own = None if os.environ.get("WEDGECRAFT_DATABASE") else Cluster(folder / "postgres")
    try:
        started = own is not None and own.start()
    except ClusterError as error:
        raise click.ClickException(str(error)) from None
    database = Database(state.database_url())
    try:
        state.prepare_database(database, demo=False)
        _make_first_admin(database, str(folder))
    finally:
        database.close()
        if own is not None and started:
            own.stop()


def _make_first_admin(database: Database, folder: str) -> None:
    from wedgecraft.store import people
    from wedgecraft.store.models import Setting

    with database.session() as session:
        if session.get(Setting, "demo") is not None:
            raise click.ClickException(
                f"{folder} holds the demo shop, whose passwords everybody knows. Set"
                " WEDGECRAFT_STATE to a folder of your own shop."
            )
        if people.anyone(session):
            return
        click.echo(
            "This is a new installation. Choose the first administrator's password; it is stored"
            " only as a hash.",
            err=True,
        )
        if sys.stdin.isatty():
            password = click.prompt(
                "Password for “admin”", hide_input=True, confirmation_prompt=True, err=True
            )
        else:
            password = sys.stdin.readline().rstrip("\n")
        try:
            people.add_person(session, "admin", "Administrator", "admin", password)
        except people.PasswordTooShort as error:
            raise click.ClickException(str(error)) from None


@main.command()
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--port", default=8420, show_default=True)
@click.option("--https", is_flag=True)
@click.option("--supervised", is_flag=True, hidden=True)
@click.option("--socket", "number", type=int, default=None, hidden=True)
@click.option("--light", is_flag=True, hidden=True)
@click.option("--tell", type=int, default=None, hidden=True)
def serve(
    host: str,
    port: int,
    https: bool,
    supervised: bool,
    number: int | None,
    light: bool,
    tell: int | None,
) -> None:
    """Serve the web application alone."""
    from wedgecraft import logs
    from wedgecraft.service import web, worker

    logs.to_stderr()
    if supervised:
        worker.end_with_parent()
        if not light:
            os.nice(2)  # while it loads, those that serve come first
    web.serve(
        web.listen(host, port) if number is None else web.inherited(number), https, light, tell
    )


@main.command()
@click.option(
    "--lane",
    type=click.Choice(("plans", "quick", "all")),
    default="all",
    show_default=True,
    help="Which tasks to serve.",
)
@click.option("--supervised", is_flag=True, hidden=True)
def worker(lane: str, supervised: bool) -> None:
    """Serve queued tasks; start as many as you like, on any machine that reaches the database."""
    from wedgecraft import logs
    from wedgecraft.service import worker as working

    logs.to_stderr()
    if supervised:
        working.end_with_parent()
        working.step_back(10 if lane == "plans" else 5)  # pages come first
    working.work(lane)


@main.command()
@click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
def backup(file: Path) -> None:
    """Copy the whole shop into FILE, running or stopped, and check the copy."""
    from wedgecraft.service import copies

    with _said():
        made = copies.backup(file)
    click.echo(f"{file}: {made.said()}; read back and checked.", err=True)


@main.command()
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
def restore(file: Path) -> None:
    """Put the shop back as it was in FILE, running or stopped. What is there now is kept beside it,
    under a name of its own.
    """
    from wedgecraft.service import copies

    with _said():
        found, kept = copies.restore(file)
    click.echo(
        f"Back as of {found.made}: {found.said()}."
        + (f" What was there is kept as database “{kept}”." if kept else ""),
        err=True,
    )


@contextmanager
def _said() -> Iterator[None]:
    """What goes wrong with a copy, or with the database under it, in words."""
    from wedgecraft.service.copies import CopyError
    from wedgecraft.store.cluster import ClusterError

    try:
        yield
    except (CopyError, ClusterError) as error:
        raise click.ClickException(str(error)) from None


@main.command()
def demo() -> None:
    """Load the demo shop, unless there are accounts already."""
    from wedgecraft import logs
    from wedgecraft.service import state
    from wedgecraft.store.database import Database

    logs.to_stderr()
    state.prepare_database(Database(state.database_url()), demo=True)


@main.command()
@click.argument("job_id")
def export(job_id: str) -> None:
    """Print the plan document of a stored job."""
    from wedgecraft.service import state
    from wedgecraft.store import jobs
    from wedgecraft.store.database import Database
    from wedgecraft.store.models import Job

    with Database(state.database_url()).session() as session:
        job = session.get(Job, job_id)
        if job is None:
            raise click.ClickException(f"there is no job {job_id}")
        document = jobs.document(session, job)
    click.echo(json.dumps(document.model_dump(mode="json"), indent=1))


@main.command()
@click.argument(
    "what",
    type=click.Choice(
        "all draft layout make program run hold tolerance workpiece serving frames".split()  # noqa: SIM905
    ),
    default="all",
)
@click.option(
    "--thorough", is_flag=True, help="With layout: also what twenty times the effort finds."
)
def bench(what: str, thorough: bool) -> None:
    """Measure the speed bars that exist so far, or those of a part alone; or every layout instance
    by itself.
    """
    from wedgecraft import bench as measured
    from wedgecraft.bench import drafts, layouts, making, programs, running

    with _documents_only() as out:
        listed = {
            "layout": lambda: layouts.lines(thorough),
            "draft": drafts.lines,
            "make": making.lines,
            "program": programs.lines,
            "run": running.lines,
        }
        if what in listed:
            for line in listed[what]():
                out.write(line + "\n")
                out.flush()
        else:
            try:
                out.write(measured.table(what))
            except ModuleNotFoundError as error:
                raise click.ClickException(
                    f"{what} needs {error.name}, which comes with requirements-test.lock."
                ) from error


if __name__ == "__main__":
    main()
