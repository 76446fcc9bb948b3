"""Every address of the service asked by each role with whatever its own description allows, and
with what it does not, by a fuzzer.

    python -m tests.api.contract --calls 20000 [--seed 1]

What it checks: never a fault of the service's own (5xx, but for 503), every status is described,
every answer is as its schema says. ``test_contract`` does the same, bounded.
"""

from __future__ import annotations

import argparse
import json
import shutil
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from jsonschema import Draft202012Validator
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.core.failures import FailureGroup
from schemathesis.specs.openapi.checks import content_type_conformance, status_code_conformance

from tests.api.service import Browser, new_job, send, solve
from tests.formats.fuzz import step_seed

CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance]
ROLES = ("admin", "planner", "operator", "viewer", None)


class Contract:
    """The service's description, its addresses filled with things that are there."""

    def __init__(self, app, database) -> None:
        self.app, self.seen, self.faults = app, Counter(), []
        planner = Browser(app)
        planner.sign_in("planner")
        job = new_job(planner)
        solve(database, job)
        run = planner.call("POST", f"/api/jobs/{job['id']}/runs")[1]["run"]["id"]
        solid = send(planner, "/api/solids", step_seed(), "part.step")[1]["id"]
        entry = planner.call("GET", "/api/shop?kind=vise")[1]["entries"][0]["id"]
        self._there = {
            "job_id": job["id"],
            "run_id": run,
            "upload_id": solid,
            "entry_id": entry,
            "part": 0,
        }
        self._spec, self._validators = json.loads(json.dumps(app.spec)), {}
        self._schema = schemathesis.openapi.from_dict(json.loads(json.dumps(app.spec)))
        self._schema.app = app
        self._schema.config.generation.update(
            modes=[GenerationMode.POSITIVE, GenerationMode.NEGATIVE]
        )

    def _signed_in(self, role: str | None) -> dict[str, dict[str, str]]:
        """What a request of this role carries."""
        browser = Browser(self.app)
        if role is not None:
            assert browser.sign_in(role) == 200
        browser.call("GET", "/api/session")
        cookie = browser._client.get_cookie("wedgecraft")
        return {
            "cookies": {"wedgecraft": cookie.value},
            "headers": {"X-CSRFToken": browser._token, "Accept-Encoding": "identity"},
        }

    def run(self, examples: int, number: int = 1, roles=ROLES) -> Counter:
        """So many calls of every address by each role; how often each status came. What the fuzzer
        finds is in ``faults``.
        """
        for role in roles:
            carried = self._signed_in(role)
            for found in self._schema.get_all_operations():
                operation = found.ok()
                comes_and_goes = operation.path == "/api/session" and operation.method in (
                    "post",
                    "delete",
                )
                self._operation(
                    operation,
                    self._signed_in(role) if comes_and_goes else carried,
                    examples,
                    number,
                )
        return self.seen

    def _operation(self, operation, carried, examples, number) -> None:
        @seed(number)
        @settings(
            max_examples=examples,
            deadline=None,
            database=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
            print_blob=False,
            derandomize=False,
        )
        @given(case=operation.as_strategy())
        def ask(case) -> None:
            for name, there in self._there.items():
                # Four calls of five go to something that is there.
                if name in (case.path_parameters or {}) and hash(str(case.body)) % 5:
                    case.path_parameters[name] = there
            if operation.method == "delete" and "job_id" in (case.path_parameters or {}):
                case.path_parameters["job_id"] = "nobody"  # or nothing would be left to ask about
            case.headers = {
                k: v
                for k, v in (case.headers or {}).items()
                if k.lower() not in ("cookie", "x-csrftoken")
            }
            case.cookies = {}
            response = case.call(**carried)
            self.seen[f"{operation.method.upper()} {operation.path} {response.status_code}"] += 1
            if response.status_code != 503:
                case.validate_response(response, checks=CHECKS)
                self._as_described(operation, response)

        try:
            ask()
        except FailureGroup as group:
            self.faults += [
                f"{operation.method.upper()} {operation.path}: {fault}"
                for fault in group.exceptions
            ]

    def _as_described(self, operation, response) -> None:
        """The body against the schema published for its status; by a validator of JSON Schema, on
        the description as it is published.
        """
        answers = self._spec["paths"][operation.path][operation.method]["responses"]
        content = answers[str(response.status_code)].get("content", {})
        kind = response.headers.get("content-type", [""])[0].split(";")[0]
        if kind not in content or "json" not in kind:
            return
        at = (operation.path, operation.method, response.status_code)
        if at not in self._validators:
            self._validators[at] = Draft202012Validator(
                {**content[kind]["schema"], "components": self._spec["components"]}
            )
        wrong = next(self._validators[at].iter_errors(json.loads(response.content)), None)
        if wrong is not None:
            self.faults.append(f"{at}: {wrong.json_path}: {wrong.message[:200]}")


def main() -> None:
    from tests.api.conftest import stocked_in
    from tests.conftest import fresh
    from wedgecraft.api.app import create_app
    from wedgecraft.jobs.queue import Queue
    from wedgecraft.store.cluster import Cluster

    asked = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    asked.add_argument("--calls", type=int, default=20_000)
    asked.add_argument("--seed", type=int, default=1)
    given_ = asked.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="wedgecraft-test-"))
    cluster = Cluster(folder)
    cluster.start()
    try:
        _, database = fresh(cluster)
        database.upgrade()
        stocked_in(database)
        contract = Contract(
            create_app(database, Queue(database), "a secret of the tests"), database
        )
        began, number = time.monotonic(), given_.seed
        while contract.seen.total() < given_.calls:
            contract.run(10, number)
            number += 1
            print(
                contract.seen.total(),
                "calls",
                f"{time.monotonic() - began:.0f} s",
                file=sys.stderr,
                flush=True,
            )
        statuses = Counter()
        for line, count in contract.seen.items():
            statuses[line.rsplit(" ", 1)[1]] += count
        print(contract.seen.total(), "calls; by status:", dict(sorted(statuses.items())))
        print(*sorted(set(contract.faults)), sep="\n")
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
