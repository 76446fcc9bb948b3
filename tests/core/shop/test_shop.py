"""The shop's kinds and generic entries, and tables of them read back exactly or refused cell by
cell.
"""

from __future__ import annotations

import contextlib
import json
import re
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import wedgecraft
from tests.formats.fuzz import damaged
from wedgecraft.core.ground.units import UNITS, parse, parse_places
from wedgecraft.core.shop.document import KINDS, UNREAD, checked, kind_info, kind_shown
from wedgecraft.core.shop.shipped import shipped
from wedgecraft.core.shop.table import from_rows
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.tables import read_entries, to_csv, to_json

ENTRIES = shipped()


def test_enough_ships_to_start_without_typing_and_every_value_says_where_it_comes_from():
    least = {
        "machine": 6,
        "vise": 3,
        "plate": 4,
        "block": 5,
        "clamp": 9,
        "locator": 6,
        "cutter": 30,
        "holder": 5,
        "material": 8,
        "stock": 6,
        "rules": 1,
    }
    for kind, count in least.items():
        entries = [entry for entry in ENTRIES if entry.kind == kind]
        assert len(entries) >= count
        assert len({entry.name for entry in entries}) == len(entries)
        for entry in entries:
            assert entry.source
            assert checked(kind, entry.name, entry.data) == entry.data
    elements = {entry.data["kind"] for entry in ENTRIES if entry.kind == "clamp"}
    assert elements >= {
        "edge clamp",
        "strap",
        "double wedge",
        "expanding pin",
        "dovetail",
        "pull stud",
        "vacuum",
        "threaded rod",
        "toothed insert",
    }


def test_every_field_has_a_title_of_its_own_and_rules_their_reasons():
    for kind in KINDS:
        fields = kind_info(kind).fields
        assert fields
        assert len({field.title for field in fields}) == len(fields)
        for field in fields:
            assert (field.type == "quantity") == bool(field.unit)
            assert (
                not field.name.endswith(("_mm", "_nm", "_kg", "_n")) or field.type == "quantity"
            ), field
    assert all(field.reason for field in kind_info("rules").fields)


@pytest.mark.parametrize("kind", KINDS)
def test_tables_come_back_as_they_went(kind):
    entries = [entry for entry in ENTRIES if entry.kind == kind]
    for text in (
        to_csv(kind, entries),
        to_csv(kind, entries).replace(",", ";") if kind == "none" else to_json(entries),
    ):
        read = read_entries(text.encode(), kind, "x")
        assert read.faults == []
        assert [(entry.name, entry.data, entry.source) for entry in read.entries] == [
            (entry.name, entry.data, entry.source) for entry in entries
        ]


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.floats(0.001, 4999, allow_nan=False), min_size=4, max_size=4),
    st.text(min_size=1, max_size=40).filter(str.strip),
)
def test_any_value_and_any_name_survive_the_table(sizes, name):
    data = dict(
        zip(
            ("jaw_width_mm", "opening_mm", "length_mm", "rated_force_n"),
            (s / 4 + 0.001 for s in sizes),
            strict=True,
        )
    )
    clean = " ".join(name.split())
    if not clean or any(ord(letter) < 32 for letter in clean) or clean[0] in "'{[":
        return
    entry = ENTRIES[0].model_copy(
        update={
            "kind": "vise",
            "name": clean,
            "data": checked("vise", clean, {"jaw_height_mm": 30, "rated_torque_nm": 60, **data}),
        }
    )
    (back,) = read_entries(to_csv("vise", [entry]).encode(), "vise", "x").entries
    assert (back.name, back.data) == (entry.name, entry.data)


def test_columns_in_any_order_with_units_in_cells_and_defaults_for_the_rest():
    rows = [
        [
            "Rated",
            "Jaw width [mm]",
            "name",
            "Jaw height",
            "Opening, largest",
            "Clamping force, rated",
            "Handle torque for it",
        ]
    ]
    del rows[0][0]
    rows.append(["6 in", "Bench vise", "1 5/8 in", "200", "4500 lbf", "60 ft·lb"])
    (entry,) = from_rows("vise", rows, "typed").entries
    assert entry.data["jaw_width_mm"] == pytest.approx(152.4)
    assert entry.data["rated_force_n"] == pytest.approx(20_017, rel=1e-4)
    assert entry.data["stations"] == 1
    assert entry.source == "typed"


@pytest.mark.parametrize(
    ("text", "row", "said"),
    [
        ("Name,Colour\nA,red", 0, "no such column"),
        ("Jaw width\n5", 0, "needed"),
        (
            "Name,Jaw width [mm],Jaw height [mm],Opening,Clamping force,Handle torque\n,5,5",
            1,
            "needs a name",
        ),
        ("Name,Stations\nA,two", 1, "not a number"),
        ("Name,Jaw width [mm]\nA,-5", 1, "greater than 0"),
        ("Name,Jaw width [mm]\nA,nan", 1, "not a length"),
        ("Name,Jaw width [mm]\nA,5 kg", 1, "not a unit of length"),
        ("Name,Source\nA,x", 1, "required"),
        ("Name,Jaws change quickly\nA,maybe", 0, "no such column"),
    ],
)
def test_wrong_cells_are_named_with_their_row(text, row, said):
    read = read_entries(text.encode(), "vise", "x.csv")
    assert any(fault.row == row and said in fault.message for fault in read.faults), read.faults


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (b"\x00\x01\x02", "no text"),
        (b"{", "could not be read"),
        (b'{"format": "other"}', "no shop export"),
        (b"[" * 100_000, "nested"),
    ],
)
def test_files_that_are_no_tables_are_refused(data, said):
    with pytest.raises(FileRefused, match=said):
        read_entries(data, "vise", "x")


@settings(max_examples=150, deadline=None)
@given(st.randoms(use_true_random=False), st.booleans())
def test_damaged_tables_never_do_worse_than_be_refused(rng, as_json):
    vises = [entry for entry in ENTRIES if entry.kind == "vise"]
    seed = to_json(vises) if as_json else to_csv("vise", vises)
    with contextlib.suppress(FileRefused):
        read = read_entries(damaged(seed.encode(), rng), "vise", "x")
        for entry in read.entries:
            json.dumps(entry.data, allow_nan=False)
            assert checked("vise", entry.name, entry.data) == entry.data


# ---- units


@settings(max_examples=300, deadline=None)
@given(st.sampled_from(sorted(UNITS)), st.integers(1, 10**9), st.integers(0, 6), st.data())
def test_a_quantity_written_in_any_unit_comes_back_to_the_same_digits(kind, digits, places, data):
    """What a person typed in a unit of theirs, stored, shown in that unit again: the same text to
    twelve digits.
    """
    unit, factor = data.draw(st.sampled_from(sorted(UNITS[kind].items())))
    typed = digits / 10**places
    stored = parse(kind, f"{typed!r} {unit}")
    assert stored / factor == pytest.approx(typed, rel=1e-12)
    assert parse(kind, f"{stored / factor:.15g} {unit}") == pytest.approx(stored, rel=1e-13)


@given(st.integers(0, 200), st.integers(1, 63), st.sampled_from([2, 4, 8, 16, 32, 64]))
def test_fractions_of_an_inch_are_exact(whole, top, bottom):
    assert parse("length", f'{whole} {top}/{bottom}"') == float(
        f"{(whole + top / bottom) * 25.4:.14g}"
    )
    assert parse("length", f"{top} thou") == pytest.approx(top * 0.0254, rel=1e-14)


def test_places_are_read_as_people_write_them():
    assert parse_places("13, 16; 39, 16") == [(13, 16), (39, 16)]
    assert parse_places("0.5 0.25; 1 -2 in") == [
        pytest.approx((12.7, 6.35)),
        pytest.approx((25.4, -50.8)),
    ]
    assert parse_places("1 in, 20 mm") == [pytest.approx((25.4, 20))]
    assert parse_places(" ") == []
    with pytest.raises(ValueError, match="write X and Y"):
        parse_places("1, 2, 3")


def test_what_is_shown_is_computed_with_and_what_nothing_reads_is_not_shown():
    """By the source: which fields of a machine and which house rules are read anywhere."""
    folder = Path(wedgecraft.__file__).parent
    source = "\n".join(
        path.read_text()
        for path in folder.rglob("*.py")
        if path.parent.name not in ("shop", "demo")
    )
    for kind in ("machine", "rules"):
        for name in KINDS[kind].model_fields.keys() - {"name", "shop_id"}:
            assert bool(re.search(rf"\b({kind}|m|plan)\.{name}\b", source)) == (
                name not in UNREAD[kind]
            ), f"{kind}.{name}"
        assert {field.name for field in kind_shown(kind).fields} == {
            field.name for field in kind_info(kind).fields
        } - UNREAD[kind]
