"""The shop in the database: two people at one entry, a name taken by two at once, and a history
that tells the whole story.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from wedgecraft.core.shop.document import ShopEntry
from wedgecraft.core.shop.shipped import shipped
from wedgecraft.store import shop
from wedgecraft.store.models import Thing

VISE = next(entry for entry in shipped() if entry.kind == "vise")


def _added(database, name="Our vise") -> str:
    with database.session() as session:
        return shop.add(session, ShopEntry(kind="vise", name=name, data=VISE.data), "Planner").id


def test_of_eight_who_add_one_name_at_once_one_does_and_the_others_are_told(database):
    def add(number: int) -> str:
        name = "Our vise" if number % 2 else "OUR VISE"
        try:
            return _added(database, name)
        except shop.NameTaken as taken:
            return str(taken)

    with ThreadPoolExecutor(8) as pool:
        said = list(pool.map(add, range(8)))
    with database.session() as session:
        stored = [thing.id for thing in shop.entries(session, "vise")]
    assert len(stored) == 1
    assert sorted(answer for answer in said if answer in stored) == stored
    assert sum("another entry called" in answer for answer in said) == 7


def test_of_two_changes_at_one_version_only_the_first_is_stored(database):
    ident = _added(database)

    def change(torque: int) -> bool:
        try:
            with database.session() as session:
                return (
                    shop.change(
                        session, ident, 1, f"Person {torque}", data={"rated_torque_nm": torque}
                    )
                    is not None
                )
        except shop.Stale as stale:
            return not str(stale)

    with ThreadPoolExecutor(8) as pool:
        assert sum(pool.map(change, range(50, 58))) == 1
    with database.session() as session:
        (only,) = (
            item for item in shop.history(session, ident, 50, 0)[0] if item.what == "changed"
        )
        assert (
            only.fields["rated_torque_nm"][1]
            == session.get_one(Thing, ident).data["rated_torque_nm"]
        )


CHANGES = st.lists(
    st.one_of(
        st.fixed_dictionaries(
            {"data": st.fixed_dictionaries({"jaw_width_mm": st.floats(20, 500)})}
        ),
        st.fixed_dictionaries(
            {
                "data": st.fixed_dictionaries(
                    {"stations": st.integers(0, 3), "opening_mm": st.sampled_from([1e9, 90, 200])}
                )
            }
        ),
        st.fixed_dictionaries({"name": st.sampled_from(["Vise A", "Vise B", "Taken"])}),
        st.fixed_dictionaries({"retired": st.booleans()}),
        st.fixed_dictionaries(
            {
                "sources": st.fixed_dictionaries(
                    {"opening_mm": st.sampled_from(["measured", "a leaflet"])}
                )
            }
        ),
    ),
    max_size=12,
)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(changes=CHANGES)
def test_the_history_replayed_is_the_entry_as_it_stands(database, changes):
    """Every step says what was before it, and all of them together make the entry; a refused change
    leaves no trace.
    """
    with database.session() as session:
        for thing in shop.entries(session):
            session.delete(thing)
        session.flush()
        shop.add(session, ShopEntry(kind="vise", name="Taken", data=VISE.data), "Planner")
        thing = shop.add(session, ShopEntry(kind="vise", name="Start", data=VISE.data), "Planner")
        ident, known = thing.id, dict(thing.data) | {"name": "Start", "retired": False}
    refused = 0
    for wanted in changes:
        try:
            with database.session() as session:
                shop.change(session, ident, None, "Setter", **wanted)
        except (ValidationError, shop.NameTaken):
            refused += 1
    with database.session() as session:
        thing, steps = session.get_one(Thing, ident), shop.history(session, ident, 50, 0)[0][::-1]
        assert steps[0].what == "added"
        for step in steps[1:]:
            for field, (before, after) in step.fields.items():
                if field != "sources":
                    assert known[field] == before
                    known[field] = after
        assert known == dict(thing.data) | {"name": thing.name, "retired": thing.retired}
        assert thing.version == len(steps)
        assert len(steps) <= 1 + len(changes) - refused
        for step in steps[1:]:
            for field in set(step.fields) - {"name", "retired", "sources"}:
                assert thing.sources[field].startswith("entered by Setter") or field in {
                    "opening_mm"
                }


def test_stocking_up_again_brings_nothing_back_and_takes_nothing_away(database):
    with database.session() as session:
        count = shop.stock_up(session)
        gone = shop.entries(session, "cutter")[0]
        shop.change(session, gone.id, 1, "Planner", retired=True, data={})
    with database.session() as session:
        assert shop.stock_up(session) == 0
        assert len(shop.entries(session)) == count == len(shipped())
        assert session.get_one(Thing, gone.id).retired
        with pytest.raises(ValidationError):
            shop.add(
                session,
                ShopEntry(kind="vise", name="Half a vise", data={"jaw_width_mm": 100}),
                "Planner",
            )
