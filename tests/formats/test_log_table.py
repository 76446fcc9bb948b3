"""Logs as tables: whatever comes in, a word or an entry, and what is written is read as it was."""

from __future__ import annotations

import uuid
from contextlib import suppress
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from wedgecraft.core.records.log import (
    CycleDone,
    Loaded,
    NewEdge,
    Noted,
    PartMeasured,
    Stop,
    Tightened,
    Trouble,
)
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.logs.table import COLUMNS, as_csv, read_log

TIMES = st.datetimes(datetime(2020, 1, 1), datetime(2030, 1, 1), timezones=st.just(UTC)).map(
    lambda t: t.replace(microsecond=0)
)
WORDS = st.text(st.characters(blacklist_categories=["Cs", "Cc"]), min_size=1, max_size=30).map(
    str.strip
).filter(lambda text: text and not text.startswith("'"))  # fmt: skip
SECONDS = st.integers(1, 90_000).map(float)


def _entries():
    common = {
        "id": st.uuids().map(lambda u: u.hex), "at": TIMES, "setup": st.integers(1, 20),
        "by": st.sampled_from(["tablet", "typed", "file", "control"]),
    }  # fmt: skip
    station = st.integers(1, 400)
    return st.one_of(
        st.builds(
            CycleDone, **common, seconds=SECONDS, good=st.integers(0, 400),
            scrapped=st.lists(station, max_size=4),
        ),
        st.builds(Loaded, **common, seconds=SECONDS, parts=st.integers(1, 400), note=WORDS),
        st.builds(Tightened, **common, station=station, torque_nm=st.floats(0, 500)),
        st.builds(
            PartMeasured, **common, station=station, feature=WORDS,
            axis=st.sampled_from(["X", "Y", ""]), off_mm=st.floats(-5, 5),
        ),
        st.builds(NewEdge, **common, tool=WORDS, minutes=st.floats(0.1, 900), worn=st.booleans()),
        st.builds(Stop, **common, seconds=SECONDS, reason=WORDS),
        st.builds(
            Trouble, **common, kind=st.sampled_from(["slip", "crash"]),
            station=st.one_of(st.none(), station),
        ),
        st.builds(Noted, **common, note=WORDS),
    )  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(st.lists(_entries(), max_size=12))
def test_what_is_written_is_read_as_it_was(entries):
    read = read_log(as_csv(entries).encode(), "job")
    assert (read.faults, read.wrong) == ([], 0)
    assert read.entries == entries


@settings(max_examples=120, deadline=None)
@given(st.one_of(st.binary(max_size=400), st.text(max_size=400).map(str.encode)))
def test_noise_is_a_word_never_a_fall(noise):
    for data in (noise, b"at,kind,seconds,parts\n" + noise, "\t".join(COLUMNS).encode() + noise):
        with suppress(FileRefused):
            read = read_log(data, "job")
            assert all(fault.row >= 1 for fault in read.faults)


ROW = "2026-03-02T07:00:00Z,load,600,9"


@pytest.mark.parametrize(
    ("row", "column", "said"),
    [
        ("2026-03-02T07:00:00,load,600,9", "at", "timezone"),
        ("yesterday,load,600,9", "at", "valid"),
        ("2026-03-02T07:00:00Z,dance,600,9", "kind", "load"),
        ("2026-03-02T07:00:00Z,load,-1,9", "seconds", "greater than 0"),
        ("2026-03-02T07:00:00Z,load,nan,9", "seconds", "finite"),
        ("2026-03-02T07:00:00Z,load,600,9.5", "parts", "integer"),
        ("2026-03-02T07:00:00Z,load,600,", "parts", "required"),
        ("2026-03-02T07:00:00Z,load", "", "torn"),
    ],
)
def test_a_wrong_row_is_named_and_takes_no_other_with_it(row, column, said):
    text = "\n".join(["at,kind,seconds,parts", ROW, row, ROW.replace("07:", "08:")])
    read = read_log(text.encode(), "job")
    assert len(read.entries) == 2
    (fault,) = read.faults
    assert (fault.row, fault.column) == (2, column)
    assert said in fault.message


def test_rows_alike_count_each_and_come_again_as_they_were():
    start = datetime(2026, 3, 2, tzinfo=UTC)
    rows = [f"{(start + timedelta(hours=k // 2)).isoformat()},load,600,9" for k in range(10)]
    text = "\n".join(["at,kind,seconds,parts", *rows]).encode()
    first = read_log(text, "job")
    assert len({entry.id for entry in first.entries}) == 10
    # written on: what was there keeps its names; another job's rows have names of their own
    longer = read_log(text + b"\n" + ROW.encode(), "job")
    assert [e.id for e in longer.entries[:10]] == [e.id for e in first.entries]
    other = read_log(text, "another")
    assert not {e.id for e in other.entries} & {e.id for e in first.entries}
    assert all(uuid.UUID(entry.id) for entry in first.entries)
    for mark in (";", "\t"):
        same = read_log(text.replace(b",", mark.encode()), "job")
        assert same.entries == first.entries
