"""Migrations, accounts, and the rules that keep runs and jobs straight under concurrency."""

from __future__ import annotations

import json
import shutil
import socket
import stat
import tempfile
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from pathlib import Path

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from sqlalchemy import func, select, text, update

from tests.conftest import fresh
from wedgecraft.core.plan.job import plan
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.shop.picks import starting_job, starting_request
from wedgecraft.demo import shop
from wedgecraft.jobs.queue import Queue
from wedgecraft.service.state import prepare_database
from wedgecraft.store import jobs, migrations, people, presence, programs
from wedgecraft.store.cluster import Cluster
from wedgecraft.store.database import Database
from wedgecraft.store.models import Base, Job, Person, Presence, ProgramTried, Run, now


def _job(database) -> str:
    with database.session() as session:
        return jobs.add_job(session, starting_job("Block", 100), None).id


def test_migrations_make_exactly_the_tables_of_the_models_and_run_twice(database):
    database.upgrade()
    with database.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def _insert(connection, table: str, **values) -> None:
    """A row as an older version stored it."""
    names = ", ".join(f'"{name}"' for name in values)
    given = ", ".join(f":{name}" for name in values)
    plain = {k: json.dumps(v) if isinstance(v, dict) else v for k, v in values.items()}
    connection.execute(text(f"INSERT INTO {table} ({names}) VALUES ({given})"), plain)  # noqa: S608


@pytest.mark.parametrize("revision", ["0001", "0002", "0003", "0004"])
def test_jobs_of_every_older_version_come_along_with_their_designs(cluster, revision):
    """Version 1 of a request, version 2 with its design, one held in a plain vise that nothing
    read, one with an op elsewhere, one that no version could read.
    """
    two = starting_request("Two", 40).model_dump(mode="json")
    vise = json.loads(json.dumps(two))
    vise["parts"][0]["ops"][0]["form"] = "plain vise"
    elsewhere = json.loads(json.dumps(two))
    elsewhere["parts"][0]["ops"].append(two["parts"][0]["ops"][0] | {"number": 20, "up": "-Z"})
    elsewhere["elsewhere"] = [{"part": 0, "op": 1, "station": two["station"]}]
    old = json.loads((Path(__file__).parents[1] / "core/plan_request_v1.json").read_text())
    stored = {"one": old, "two": two, "vise": vise, "elsewhere": elsewhere, "odd": {"name": "?"}}
    result = plan(PlanRequest.model_validate(two)).model_dump(mode="json")
    for line in (line for design in result["designs"] for line in design["limits"]):
        line["set_by"] = None  # none of those versions said what moves a limit
    _, database = fresh(cluster)
    config = Config()
    config.set_main_option("script_location", str(Path(migrations.__file__).parent))
    with database.engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
        late = {"digest": "d", "machine": "M", "per_kit": 1} if revision == "0004" else {}
        for name, request in stored.items():
            common = {"created_at": now(), "id": name}
            more = {"updated_at": now(), "version": 3, "demo": False, **late}
            _insert(connection, "job", name=name, quantity=40, request=request, **common, **more)
            if name == "one":
                continue
            more = {"digest": "d", "status": "done", "step": "done", "share": 1.0, "count": 5}
            more |= {"attempts": 0} if revision == "0004" else {}
            common |= {"job_id": name, "request": request, "result": result}
            _insert(connection, "run", **common, **more)
    database.upgrade()
    with database.session() as session:
        opened = {name: session.get_one(Job, name) for name in stored}
        first = jobs.document_of(opened["two"])
        assert jobs.as_json(first) == opened["two"].document
        run = jobs.latest_run(session, opened["two"])
        assert run.digest == ""  # its part was a prism of its finished outline: planned again
        known = jobs.result_of(run)
        assert known.setups[0].result.model_dump(mode="json") == result | {"reasons": []}
        assert known.complete_a_cycle == result["designs"][0]["count"]
        assert jobs.document_of(opened["one"]).route.setups[0].form.kind == "plate"
        assert jobs.document_of(opened["vise"]).route.setups[0].form.kind == "vises"
        assert len(jobs.document_of(opened["elsewhere"]).route.setups) == 2
        assert [line.job.id for line in jobs.lines(session, 10)[0]]  # all are listed
        with pytest.raises(ValueError, match="job"):
            jobs.document_of(opened["odd"])
        # What does not fit any more is planned again, and says so.
        assert sorted(jobs.plan_outgrown(session)) == ["elsewhere", "odd", "two", "vise"]
        assert jobs.latest_run(session, opened["vise"]).note == jobs.OUTGROWN
    database.close()


def test_planning_twice_at_once_makes_one_run(database):
    job_id = _job(database)

    def start(_: int) -> tuple[str, bool]:
        with database.session() as session:
            run, added = jobs.start_run(session, session.get_one(Job, job_id))
            return run.id, added

    with ThreadPoolExecutor(8) as pool:
        started = list(pool.map(start, range(16)))
    assert len({run for run, _ in started}) == 1
    assert sum(added for _, added in started) == 1


def test_of_two_changes_at_one_version_only_the_first_is_stored(database):
    job_id = _job(database)
    with database.session() as session:
        person = people.add_person(session, "a", "A", "planner", "long enough password").id

    def change(quantity: int) -> bool:
        try:
            with database.session() as session:
                return (
                    jobs.change_job(session, job_id, 1, starting_job("Block", quantity), person)
                    is not None
                )
        except jobs.VersionConflict as conflict:
            return conflict.version != 2

    with ThreadPoolExecutor(6) as pool:
        assert sum(pool.map(change, range(1, 13))) == 1


def test_an_outcome_is_stored_once_and_never_over_a_cancelled_run(database):
    with database.session() as session:
        run, _ = jobs.start_run(session, session.get_one(Job, _job(database)))
        assert jobs.report(session, run.id, step="layout", share=0.5)
        assert jobs.finish(session, run.id, status="cancelled")
        assert not jobs.finish(session, run.id, status="done", result={"feasible": True})
        assert not jobs.report(session, run.id, step="layout", share=0.9)
        assert session.get_one(Run, run.id).result is None


def test_who_has_a_job_open_is_known_while_the_page_is_and_forgotten_after(database):
    job_id = _job(database)
    with database.session() as session:
        ann, bo = (
            people.add_person(session, name, name.title(), "planner", "long enough password").id
            for name in ("ann", "bo")
        )
        assert presence.here(session, job_id, "1" * 32, ann, "Cuts") == []
        # the same person twice is told as such, and on what the other page is
        assert presence.here(session, job_id, "2" * 32, ann) == [("Ann", "Cuts", True)]
        presence.here(session, job_id, "2" * 32, ann, "Cuts")
        assert presence.here(session, job_id, "3" * 32, bo) == [("Ann", "Cuts", False)]
        presence.gone(session, "2" * 32)
        assert presence.here(session, job_id, "1" * 32, ann) == [("Bo", "", False)]
        presence.gone(session, "3" * 32)
        assert presence.here(session, job_id, "1" * 32, ann) == []
        presence.here(session, job_id, "3" * 32, bo)
        session.execute(
            update(Presence)
            .where(Presence.person_id == bo)
            .values(seen_at=now() - timedelta(seconds=60))
        )
        assert presence.here(session, job_id, "1" * 32, ann) == []
        session.delete(session.get_one(Job, job_id))
        session.flush()
        assert session.scalar(select(func.count()).select_from(Presence)) == 0


def test_passwords_are_argon2_hashes_and_only_the_right_one_signs_in(database):
    with database.session() as session:
        person = people.add_person(session, "Planner", "P", "planner", "correct horse battery")
        assert person.password_hash.startswith("$argon2id$")
        assert people.check_sign_in(session, " PLANNER ", "correct horse battery").id == person.id
        assert people.check_sign_in(session, "planner", "wrong") is None
        assert people.check_sign_in(session, "nobody", "correct horse battery") is None
        person.active = False
        session.flush()
        assert people.check_sign_in(session, "planner", "correct horse battery") is None
        with pytest.raises(people.PasswordTooShort):
            people.hash_password("short")


def test_what_a_person_asks_goes_before_the_demos_own_plans(database):
    """A stranger's first file does not wait until the shop that came along is planned."""
    prepare_database(database, demo=True)
    with database.session() as session:
        job = jobs.add_job(session, starting_job("Own", 20), None)
        own = jobs.start_run(session, job)[0].id
    queue = Queue(database)
    queue.add(own, before_it=len(shop.demo_documents()))
    queue.close()
    with database.engine.connect() as connection:
        rows = connection.exec_driver_sql(
            "SELECT args->>'run_id' FROM procrastinate_jobs WHERE queue_name = 'plans'"
            " ORDER BY priority DESC, id"
        )
        waiting = [row[0] for row in rows]
    assert waiting[0] == own
    assert len(waiting) == 1 + len(shop.demo_documents())


def test_the_demo_is_loaded_once_and_never_over_a_persons_own(database):
    with database.session() as session:
        assert len(shop.load(session)) == len(shop.demo_documents())
    with database.session() as session:
        session.delete(session.scalars(select(Job)).first())
        assert shop.load(session) == []
        assert (
            session.scalar(select(func.count()).select_from(Job)) == len(shop.demo_documents()) - 1
        )


def test_nothing_is_less_than_nothing_in_a_digest(database):
    """PostgreSQL reads -0.0 back as 0.0: a document is the same before and after."""
    document, _ = shop.demo_documents()[2]
    given = document.model_dump(mode="json")
    given["job"]["parts"][0]["ops"][1]["cuts"][0]["from_top_mm"] = -0.0
    written = json.dumps(given)
    assert '"from_top_mm": -0.0' in written
    given["job"]["parts"][0]["ops"][1]["cuts"][0]["from_top_mm"] = 0.0
    assert jobs.digest(json.loads(written)) == jobs.digest(given)
    with database.session() as session:
        job = jobs.add_job(session, JobDocument.model_validate_json(written), None)
        session.flush()
        session.expire(job)
        assert jobs.digest(job.document) == job.digest
        given["job"]["parts"][0]["ops"][1]["cuts"][0]["from_top_mm"] = -0.5
        assert jobs.digest(given) != job.digest


def test_a_shop_with_accounts_of_its_own_gets_no_demo(database):
    with database.session() as session:
        people.add_person(session, "own", "Own", "admin", "a password of its own")
        assert shop.load(session) == []
        assert session.scalar(select(func.count()).select_from(Person)) == 1


def test_our_server_listens_on_loopback_alone_and_keeps_its_password_to_itself(cluster):
    secret = cluster.folder / "access.json"
    assert stat.S_IMODE(secret.stat().st_mode) == 0o600
    port = int(cluster.url.rsplit(":", 1)[1].split("/")[0])
    tables = [Path("/proc/net") / name for name in ("tcp", "tcp6")]
    lines = [
        line.split()
        for table in tables
        if table.exists()
        for line in table.read_text().splitlines()[1:]
    ]
    listening = [fields[1] for fields in lines if fields[3] == "0A"]
    ours = [address for address in listening if int(address.rsplit(":", 1)[1], 16) == port]
    assert ours == [f"{socket.inet_aton('127.0.0.1')[::-1].hex().upper()}:{port:04X}"]
    assert not cluster.start()


@pytest.mark.parametrize("seen", [True, False])
def test_a_taken_port_makes_our_server_move_and_a_half_made_cluster_is_made_again(
    seen, monkeypatch
):
    folder = Path(tempfile.mkdtemp(prefix="wedgecraft-test-"))
    made = Cluster(folder)
    try:
        made.start()
        before = made.url
        made.stop()
        assert not made.running
        port = int(before.rsplit(":", 1)[1].split("/")[0])
        with socket.socket() as squatter:
            squatter.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            squatter.bind(("127.0.0.1", port))
            squatter.listen()
            if not seen:  # taken after we looked: the server itself finds out
                monkeypatch.setattr("wedgecraft.store.cluster._port_is_free", lambda asked: True)
            assert made.start()
            assert made.url != before
            Database(made.url).upgrade()
        made.stop()
        (folder / "access.json").unlink()
        assert made.start()
        Database(made.url).upgrade()
        monkeypatch.undo()
        # Killed, and started again by two at once, as supervisor and person may: both find it
        # running.
        for _ in range(3):
            made.kill()
            with ThreadPoolExecutor(2) as pool:
                started = list(
                    pool.map(lambda one: one.start(), [Cluster(folder), Cluster(folder)])
                )
            assert any(started)
            Database(made.url).upgrade()
    finally:
        made.stop()
        shutil.rmtree(folder, ignore_errors=True)


def test_how_a_program_came_out_is_known_only_of_what_it_was_tried_with(database):
    """Of one run and its programs as they are loaded: another file, or another run, and nothing is
    known; the same again writes nothing; it goes with its job.
    """
    job = _job(database)
    step = {"step": "program", "state": "within", "why": "accepted", "fields": []}
    with database.session() as session:
        person = people.add_person(session, "nc", "Nc", "planner", "a password of its own").id
        given = {"name": "a.nc", "text": "T1 M6", "person": person}
        programs.keep(session, job, "Block", 10, **given)
        key = programs.key_of(session, job, "run-1")
        programs.note_tried(session, job, 1, key=key, step=step, seconds=61.5)
    with database.session() as session:
        found = programs.tried(session, job, "run-1")
        assert {n: (row.step, row.seconds) for n, row in found.items()} == {1: (step, 61.5)}
        assert programs.tried(session, job, "run-2") == {}
        at = found[1].tried_at
        mark = jobs.mark_of(session, job)
        programs.note_tried(session, job, 1, key=key, step=step, seconds=61.5)
    with database.session() as session:
        assert programs.tried(session, job, "run-1")[1].tried_at == at
        assert jobs.mark_of(session, job) == mark  # what a browser has is still right
        # of another setup, and of this one anew
        programs.note_tried(session, job, 2, key=key, step=step, seconds=None)
        programs.note_tried(session, job, 1, key=key, step={**step, "state": "over"}, seconds=70.0)
    with database.session() as session:
        found = programs.tried(session, job, "run-1")
        assert (found[1].step["state"], found[2].seconds) == ("over", None)
        assert jobs.mark_of(session, job) != mark
        mark = jobs.mark_of(session, job)
        # the same op's file again: what it was tried with is not there any more
        programs.keep(session, job, "Block", 10, **given | {"text": "T2 M6"})
    with database.session() as session:
        assert programs.tried(session, job, "run-1") == {}
        assert jobs.mark_of(session, job) != mark
        mark = jobs.mark_of(session, job)
        programs.remove(session, job, "Block", 10)
        programs.remove(session, job, "Block", 10)
    with database.session() as session:
        assert jobs.mark_of(session, job) != mark
        assert programs.key_of(session, job, "run-1") != key
        session.delete(session.get_one(Job, job))
    with database.session() as session:
        assert session.scalar(select(func.count()).select_from(ProgramTried)) == 0


def test_two_who_look_at_a_program_at_once_leave_one_answer(database):
    job = _job(database)

    def look(number: int) -> None:
        with database.session() as session:
            step = {"step": "program", "state": "within", "why": str(number), "fields": []}
            programs.note_tried(session, job, 1, key="k" * 64, step=step, seconds=float(number))

    with ThreadPoolExecutor(8) as crowd:
        list(crowd.map(look, range(24)))
    with database.session() as session:
        (row,) = session.scalars(select(ProgramTried).where(ProgramTried.job_id == job))
        assert row.step["why"] == str(int(row.seconds))
