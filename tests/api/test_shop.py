"""The shop over the service: change with history, retire without vanishing, in and out as files,
and who may.
"""

from __future__ import annotations

import pytest

from tests.api.service import Browser, new_job, send
from wedgecraft.core.shop.shipped import shipped


def _entries(browser, kind):
    return [
        item
        for item in browser.call("GET", "/api/shop?limit=500")[1]["entries"]
        if item["kind"] == kind
    ]


def _entry(browser, kind, name):
    return next(item for item in _entries(browser, kind) if item["name"] == name)


def test_a_change_is_kept_with_its_source_and_its_history_and_an_old_version_refused(planner):
    vise = _entry(planner, "vise", "Vise, 125 mm jaws")
    path = f"/api/shop/entries/{vise['id']}"
    status, changed = planner.call(
        "PATCH",
        path,
        {"version": 1, "data": {"rated_force_n": "6000 lbf", "jaw_height_mm": "1 3/4 in"}},
    )
    assert status == 200
    assert changed["data"]["rated_force_n"] == pytest.approx(26_689.3, rel=1e-5)
    assert changed["data"]["jaw_height_mm"] == 44.45
    assert changed["sources"]["rated_force_n"].startswith("entered by Planner, ")
    assert "opening_mm" not in changed["sources"]
    assert planner.call("PATCH", path, {"version": 1, "data": {"stations": 2}})[0] == 409
    status, problem = planner.call("PATCH", path, {"version": 2, "data": {"opening_mm": "wide"}})
    assert (status, problem["errors"][0]["field"]) == (422, "opening_mm")
    assert (
        planner.call("PATCH", path, {"version": 2, "sources": {"opening_mm": "measured"}})[1][
            "sources"
        ]["opening_mm"]
        == "measured"
    )
    sourced, first = planner.call("GET", f"{path}/history")[1]["changes"]
    assert (first["person"], first["what"]) == ("Planner", "changed")
    assert first["fields"]["jaw_height_mm"] == [40.0, 44.45]
    assert sourced["fields"]["sources"][1] == {"opening_mm": "measured"}


def test_what_is_added_is_picked_in_jobs_and_what_is_retired_stays_in_those_that_hold_it(planner):
    model = _entry(planner, "machine", "Horizontal, 400 mm pallet")
    status, own = planner.call(
        "POST",
        "/api/shop/entries",
        {"kind": "machine", "name": "Our big one", "data": model["data"] | {"pallets": 6}},
    )
    assert (status, own["source"]) == (201, "entered by Planner")
    assert (
        planner.call(
            "POST",
            "/api/shop/entries",
            {"kind": "machine", "name": "OUR BIG ONE", "data": model["data"]},
        )[0]
        == 422
    )
    assert (
        planner.call("POST", "/api/shop/entries", {"kind": "rules", "name": "More rules"})[0] == 422
    )
    picked = next(
        item
        for item in planner.call("GET", "/api/catalogue")[1]["machines"]
        if item["name"] == "Our big one"
    )
    assert (picked["shop_id"], picked["pallets"]) == (own["id"], 6)
    job = new_job(planner)
    planner.call(
        "PATCH",
        f"/api/jobs/{job['id']}/fields",
        {"version": 1, "path": "route.setups.0.machine", "value": picked},
    )
    path = f"/api/shop/entries/{own['id']}"
    status, gone = planner.call("PATCH", path, {"version": 1, "retired": True})
    assert (status, gone["retired"], gone["used_by"]) == (200, True, [job["name"]])
    assert all(
        item["name"] != "Our big one"
        for item in planner.call("GET", "/api/catalogue")[1]["machines"]
    )
    assert (
        planner.call("GET", f"/api/jobs/{job['id']}")[1]["document"]["route"]["setups"][0][
            "machine"
        ]["pallets"]
        == 6
    )
    assert planner.call("PATCH", path, {"version": 2, "retired": False})[1]["retired"] is False


def test_a_new_job_starts_with_the_shops_own_rules(planner):
    (rules,) = _entries(planner, "rules")
    path = f"/api/shop/entries/{rules['id']}"
    assert planner.call("PATCH", path, {"version": 1, "data": {"safety_factor": 3}})[0] == 200
    assert new_job(planner)["document"]["job"]["rules"]["safety_factor"] == 3
    assert planner.call("PATCH", path, {"version": 2, "retired": True})[0] == 422
    assert planner.call("PATCH", path, {"version": 2, "data": {"safety_factor": 0.5}})[0] == 422


def _exported(browser, query):
    return browser._client.get(f"/api/shop/export?{query}").data


def test_an_export_read_back_changes_nothing_and_an_edited_one_only_what_it_says(planner):
    clamps = sum(entry.kind == "clamp" for entry in shipped())
    for query, form, count in (
        ("kind=clamp&format=csv", {"kind": "clamp"}, clamps),
        ("format=json", {}, len(shipped())),
    ):
        status, preview = send(
            planner, "/api/shop/import", _exported(planner, query), "x.csv", **form
        )
        assert (status, preview["added"], preview["changed"], preview["faults"]) == (
            200,
            [],
            [],
            [],
        )
        assert preview["unchanged"] == count
    table = (
        "Name,Usual torque [N·m],Source\nEdge clamp M8,12,the maker's sheet\nOur clamp,9,typed\n"
    ).encode()
    status, preview = send(planner, "/api/shop/import", table, "x.csv", kind="clamp")
    assert preview["faults"][0]["row"] == 2  # a new clamp needs its sizes
    table = "Name,Usual torque [N·m],Source\nEdge clamp M8,12,the maker's sheet\n".encode()
    before = _entry(planner, "clamp", "Edge clamp M8")
    assert send(planner, "/api/shop/import", table, "x.csv", kind="clamp")[1]["changed"] == [
        "Edge clamp M8"
    ]
    assert _entry(planner, "clamp", "Edge clamp M8") == before  # looking stores nothing
    assert send(planner, "/api/shop/import", table, "x.csv", kind="clamp", store="yes")[1]["stored"]
    after = _entry(planner, "clamp", "Edge clamp M8")
    assert after["data"] == before["data"] | {"torque_nm": 12}
    assert after["sources"] == {"torque_nm": "the maker's sheet"}


def test_an_import_with_one_fault_stores_nothing(planner):
    table = b"Name,Width [mm],Length [mm],Height [mm]\nGood one,20,30,12\nBad one,20,thirty,12\n"
    status, answer = send(planner, "/api/shop/import", table, "x.csv", kind="clamp", store="yes")
    assert (status, answer["stored"]) == (200, False)
    assert "not a length" in answer["faults"][0]["message"]
    assert all(item["name"] != "Good one" for item in _entries(planner, "clamp"))
    for data, form, said in [
        (None, {}, "No file"),
        (b"a,b", {}, "one kind"),
        (b"a", {"kind": "boat"}, "no kind"),
        (b"", {"kind": "vise"}, "empty"),
    ]:
        status, problem = send(planner, "/api/shop/import", data, "x.csv", **form)
        assert (status, said in problem["detail"]) == (422, True)


@pytest.mark.parametrize("role", ["operator", "viewer"])
def test_who_only_reads_changes_nothing(app, role):
    browser = Browser(app)
    browser.sign_in(role)
    entry = _entries(browser, "vise")[0]
    assert (
        browser.call("PATCH", f"/api/shop/entries/{entry['id']}", {"version": 1, "retired": True})[
            0
        ]
        == 403
    )
    assert browser.call("POST", "/api/shop/entries", {"kind": "vise", "name": "x"})[0] == 403
    assert send(browser, "/api/shop/import", b"Name\nx", "x.csv", kind="vise")[0] == 403
    assert send(browser, "/api/drawings", b"x")[0] == 403
    assert send(browser, "/api/solids", b"ISO-10303-21;")[0] == 403
