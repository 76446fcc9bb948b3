"""What tests of the service share: a client as the front end is one, what its pages send, what a
worker does.
"""

from __future__ import annotations

import functools
import io

from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.job import JobDocument
from wedgecraft.jobs.queue import Queue
from wedgecraft.store import jobs
from wedgecraft.store.models import Job, Run


class Browser:
    """A client that keeps its token, as the front end does."""

    def __init__(self, app):
        self._client = app.test_client()
        self._token = ""

    def call(self, method, path, body=None, token=True, **more):
        headers = {"X-CSRFToken": self._token} if token and self._token else {}
        answer = self._client.open(path, method=method, json=body, headers=headers, **more)
        document = answer.get_json(silent=True)
        if isinstance(document, dict) and "csrf_token" in document:
            self._token = document["csrf_token"]
        return answer.status_code, document

    def sign_in(self, name, password="long enough password"):
        self.call("GET", "/api/session")
        status, _ = self.call("POST", "/api/session", {"sign_in": name, "password": password})
        self.call("GET", "/api/session")
        return status


def new_job(browser):
    status, job = browser.call("POST", "/api/jobs", {"name": "Bracket", "quantity": 50})
    assert status == 201
    return job


def send(browser, path, data, name="part.dxf", **form):
    """Upload a file as a form does."""
    body = dict(form) | ({"file": (io.BytesIO(data), name)} if data is not None else {})
    answer = browser._client.post(
        path, data=body, headers={"X-CSRFToken": browser._token}, content_type="multipart/form-data"
    )
    return answer.status_code, answer.get_json()


def change_field(browser, job, path, value):
    version = browser.call("GET", f"/api/jobs/{job['id']}")[1]["version"]
    return browser.call(
        "PATCH", f"/api/jobs/{job['id']}/fields", {"version": version, "path": path, "value": value}
    )


def setup_of(state):
    """The first setup of a job."""
    return state["document"]["route"]["setups"][0]


def station_of(state):
    """How it holds its first op."""
    return setup_of(state)["holds"][0]["station"]


def parts_of(state):
    """The parts of a job."""
    return state["document"]["job"]["parts"]


def result_of(state):
    """What was worked out for the first setup."""
    return state["latest"]["result"]["setups"][0]["result"]


def solve(database, job):
    """What the worker does, here; the result of the first setup."""
    with database.session() as session:
        stored = session.get_one(Job, job["id"])
        run, _ = jobs.start_run(session, stored)
        ident, document = run.id, jobs.document_of(stored)
    result = _planned(document.model_dump_json()).result
    with database.session() as session:
        jobs.finish(
            session,
            ident,
            status="done",
            result=result.model_dump(mode="json"),
            count=jobs.count_of(result),
            share=1.0,
            step="done",
        )
    return result.setups[0].result


@functools.cache
def _planned(document: str) -> JobDocument:
    """Many tests begin with the same job: it is planned once."""
    return plan_route(JobDocument.model_validate_json(document), alternatives=False)


def run_once(database, job, meanwhile=lambda: None) -> Run:
    """What a worker does with a run, here; ``meanwhile`` happens once it has taken it up."""
    with database.session() as session:
        run, _ = jobs.start_run(session, session.get_one(Job, job["id"]))
        ident = run.id
    meanwhile()
    Queue(database)._plan_run(ident)
    with database.session() as session:
        return session.get_one(Run, ident)
