"""The service keeps to what it says of itself: a bounded part of what ``contract`` does at
length.
"""

from __future__ import annotations

from contextlib import nullcontext

from tests.api.contract import ROLES, Contract
from wedgecraft.api import make_api


def test_no_call_of_any_role_finds_a_fault_or_an_answer_that_is_not_described(
    app, database, monkeypatch
):
    # the CAD kernel takes seconds to start for each of them; it writes a piece in test_make
    monkeypatch.setattr(make_api, "_kernel", lambda: nullcontext(lambda _: b"ISO-10303-21;"))
    contract = Contract(app, database)
    seen = contract.run(2, roles=ROLES)
    assert contract.faults == []
    assert seen.total() > 300
    statuses = {line.rsplit(" ", 1)[1] for line in seen}
    assert {"200", "401", "403", "404", "422"} <= statuses  # it got past the door
