"""One PostgreSQL cluster of our own for all tests that need a database, gone afterwards; random
input that is the same every time.

``HYPOTHESIS_PROFILE=explore ./test tests/core`` looks for new cases instead.
"""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
import uuid
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from hypothesis import settings

from wedgecraft.store.cluster import Cluster
from wedgecraft.store.database import Database

settings.register_profile("repeatable", derandomize=True, deadline=None)
settings.register_profile("explore", deadline=None)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "repeatable"))


def pytest_configure(config: pytest.Config) -> None:
    if not hasattr(config, "workerinput"):
        config.pluginmanager.register(_SaidAtOnce())


class _SaidAtOnce:
    """What fails is said when it does, not twenty minutes later."""

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        if report.failed:
            print(f"\n{report.nodeid} failed", file=sys.stderr, flush=True)


def pytest_sessionfinish(session: pytest.Session) -> None:
    """What tests side by side shared goes with the last of them: the process that only hands them
    out removes it.
    """
    if not hasattr(session.config, "workerinput") and session.config.pluginmanager.hasplugin(
        "dsession"
    ):
        for note in session.config._tmp_path_factory.getbasetemp().glob("demo-shop"):
            shutil.rmtree(note.read_text(), ignore_errors=True)


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    folder = Path(tempfile.mkdtemp(prefix="wedgecraft-test-"))
    made = Cluster(folder)
    try:
        made.start()
        yield made
    finally:
        made.stop()
        shutil.rmtree(folder, ignore_errors=True)


def fresh(cluster: Cluster, like: str = "template1") -> tuple[str, Database]:
    """A database of its own, a copy of another one, and its name."""
    name = f"test_{uuid.uuid4().hex}"
    base = cluster.url.rsplit("/", 1)[0]
    with psycopg.connect(f"{base}/postgres", autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE {like}")
    return name, Database(f"{base}/{name}")


@pytest.fixture(scope="session")
def migrated(cluster: Cluster) -> str:
    """The name of a database with all tables: made once, copied for each test."""
    name, database = fresh(cluster)
    database.upgrade()
    database.close()
    return name


@pytest.fixture
def template(migrated: str) -> str:
    """What a test's database is a copy of."""
    return migrated


@pytest.fixture
def database(cluster: Cluster, template: str) -> Iterator[Database]:
    """A fresh database with all tables."""
    name, made = fresh(cluster, template)
    yield made
    made.close()
    with psycopg.connect(
        f"{cluster.url.rsplit('/', 1)[0]}/postgres", autocommit=True
    ) as connection:
        connection.execute(f"DROP DATABASE {name} WITH (FORCE)")
