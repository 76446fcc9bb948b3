"""The service keeps to what it says of itself: a bounded part of what ``contract`` does at
length.
"""

from __future__ import annotations

from tests.api.contract import ROLES, Contract


def test_no_call_of_any_role_finds_a_fault_or_an_answer_that_is_not_described(app, database):
    contract = Contract(app, database)
    seen = contract.run(2, roles=ROLES)
    assert contract.faults == []
    assert seen.total() > 300
    statuses = {line.rsplit(" ", 1)[1] for line in seen}
    assert {"200", "401", "403", "404", "422"} <= statuses  # it got past the door
