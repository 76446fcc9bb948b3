"""The service over a database that has its people and its shop: set up once, copied for each
test.
"""

from __future__ import annotations

import pytest

from tests.api.service import Browser
from tests.conftest import fresh
from wedgecraft.api.app import create_app
from wedgecraft.jobs.queue import Queue
from wedgecraft.store import people, shop
from wedgecraft.store.database import Database


@pytest.fixture(scope="session")
def stocked(cluster, migrated) -> str:
    """The name of a database to copy."""
    name, database = fresh(cluster, migrated)
    stocked_in(database)
    database.close()
    return name


def stocked_in(database: Database) -> None:
    """A person of every role, the shop's first entries, and the queue's tables."""
    queue = Queue(database)
    queue.ensure_schema()
    queue.close()
    with database.session() as session:
        for role in ("admin", "planner", "operator", "viewer"):
            people.add_person(session, role, role.title(), role, "long enough password")
        shop.stock_up(session)


@pytest.fixture
def template(request, migrated):
    """Tests of the service itself begin with people and a shop; others, the queue's, with bare
    tables.
    """
    return request.getfixturevalue("stocked") if "app" in request.fixturenames else migrated


@pytest.fixture
def app(database: Database):
    queue = Queue(database)
    made = create_app(database, queue, "a secret of the tests")
    yield made
    queue.close()


@pytest.fixture
def planner(app):
    browser = Browser(app)
    assert browser.sign_in("planner") == 200
    return browser
