"""Stand-ins and who listens to them: nothing lost, nothing double, whatever a device does.

The agent's words are checked against the model of the MTConnect standard, as a package of the
registry has it, made from the standard's own published model.
"""

from __future__ import annotations

import json
import re
import time
from datetime import UTC, datetime, timedelta

import pytest
from defusedxml.ElementTree import fromstring
from hypothesis import given
from hypothesis import strategies as st
from pymtconnect.Classes.MTConnectDevicesResponseDocument.Header import Header as DevicesHeader
from pymtconnect.Classes.MTConnectStreamsResponseDocument.Header import Header as StreamsHeader
from pymtconnect.Enums.DataTypes.EventEnum import EventEnum
from pymtconnect.Enums.DataTypes.ExecutionEnum import ExecutionEnum

from wedgecraft.devices.control import ITEMS, Agent, run_cycle, serve
from wedgecraft.devices.listen import ControlEar, Outbox, TableEar, WrenchEar
from wedgecraft.devices.wrench import Wrench
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.logs.mtconnect import ENDS, Cycles, Observation, Streams, read_streams
from wedgecraft.formats.logs.wrench import read_line

START = datetime(2026, 3, 2, 7, tzinfo=UTC)


def after(seconds):
    return START + timedelta(seconds=seconds)


@pytest.fixture
def agent():
    made = Agent(now=lambda: START, buffer=40)
    server = serve(made)
    yield made, f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    server.server_close()


def wait(what, seconds=20):
    until = time.monotonic() + seconds
    while not (found := what()):
        assert time.monotonic() < until, "not within a while"
        time.sleep(0.02)
    return found


def test_our_agent_speaks_in_the_words_of_the_standard():
    ours = Agent(now=lambda: START)
    run_cycle(ours, 6, START, after(600), 0)
    probe, sample = fromstring(ours.probe()), fromstring(ours.sample())
    named = {
        item.get("id"): item.get("type") for item in probe.iter() if item.tag.endswith("DataItem")
    }
    assert named == {ident: kind for ident, (_, kind) in ITEMS.items()}
    assert set(named.values()) <= {str(kind.value) for kind in EventEnum}
    events = [item for item in sample.iter() if item.get("sequence")]
    assert [int(e.get("sequence")) for e in events] == list(range(1, len(events) + 1))
    assert all(e.get("dataItemId") in named for e in events)
    # an observation is called by its type's name without its underlines
    for name, kind in ITEMS.values():
        assert name == "".join(word.title() for word in kind.split("_"))
    states = {kind.value for kind in ExecutionEnum} | {"UNAVAILABLE"}
    assert {e.text for e in events if e.tag.endswith("}Execution")} <= states
    assert states > ENDS
    for document, model in ((probe, DevicesHeader), (sample, StreamsHeader)):
        header = next(item for item in document.iter() if item.tag.endswith("Header"))
        given = model.from_dict(dict(header.attrib))
        assert (given.version, given.sender, given.buffer_size) == ("1.4.0.0", "stand-in", "4096")
        known = set(model.from_dict({}).to_dict()) | set(vars(given))
        words = {re.sub("([A-Z])", r"_\1", word).lower() for word in header.attrib}
        assert words <= known, words - known
    assert int(header.get("nextSequence")) == len(events) + 1
    (cycle,) = Cycles("job", 1).take(read_streams(ours.sample()))
    assert (cycle.seconds, cycle.good) == (600, 0)  # nobody knows what it had counted before


def test_every_cycle_is_heard_once_though_the_control_stops_floods_or_begins_anew(agent):
    control, url = agent
    ear = ControlEar(url, Cycles("job", 1))
    assert ear.hear() == []
    control.put("parts", "0", START)
    made = run_cycle(control, 5, after(0), after(600), 0)
    (first,) = ear.hear()
    assert (first.seconds, first.good, first.at) == (600, 5, after(600))
    assert ear.hear() == []
    # half a cycle, then the rest
    control.put("exec", "ACTIVE", after(700))
    assert ear.hear() == []
    control.put("exec", "FEED_HOLD", after(800))
    control.put("exec", "ACTIVE", after(900))
    control.put("parts", str(made + 5), after(1200))
    control.put("exec", "READY", after(1300))
    (second,) = ear.hear()
    assert (second.seconds, second.good) == (600, 5)
    # it lies: time runs backwards, a count that is none, one that falls
    control.put("exec", "ACTIVE", after(2000))
    control.put("exec", "READY", after(1000))
    (note,) = ear.hear()
    assert "its clock was set" in note.note
    for value in ("many", "-3", "2"):
        control.put("parts", value, after(2100))
    control.put("exec", "ACTIVE", after(2200))
    control.put("exec", "READY", after(2300))
    assert [entry.good for entry in ear.hear()] == [0]
    # unavailable in the middle: that is no cycle
    control.put("exec", "ACTIVE", after(2400))
    control.put("exec", "UNAVAILABLE", after(2500))
    control.put("exec", "READY", after(2600))
    assert ear.hear() == []
    # it floods: more than it keeps, and what was lost is said
    for k in range(60):
        control.put("program", f"O{k}", after(3000 + k))
    run_cycle(control, 5, after(4000), after(4500), 2)
    found = ear.hear()
    assert [entry.kind for entry in found] == ["note", "cycle"]
    assert "were lost" in found[0].note
    # another hears all that is left once; both give the same entries the same names
    again = ControlEar(url, Cycles("job", 1)).hear()
    assert [entry.id for entry in again if entry.kind == "cycle"] == [found[1].id]
    assert ControlEar("http://127.0.0.1:9", Cycles("job", 1)).hear() == []


@given(
    st.lists(st.sampled_from(["ACTIVE", "READY", "FEED_HOLD", "STOPPED", "UNAVAILABLE"])), st.data()
)
def test_documents_that_overlap_or_come_twice_give_what_one_would(values, data):
    seen = [Observation(k + 1, after(10 * k), "Execution", v) for k, v in enumerate(values)]
    whole = Cycles("job", 1).take(Streams("1", 1, len(seen) + 1, seen))
    ear, found = Cycles("job", 1), []
    at = 0
    while at < len(seen):
        back = data.draw(st.integers(0, 3))
        size = data.draw(st.integers(1, 4))
        part = seen[max(0, at - back) : at + size]
        found += ear.take(Streams("1", 1, part[-1].sequence + 1, part))
        at += size
    assert found == whole


@pytest.mark.parametrize(
    "document",
    [
        b"",
        b"not xml",
        b"<MTConnectDevices/>",
        b"<!DOCTYPE a [<!ENTITY b 'c'>]><MTConnectStreams>&b;</MTConnectStreams>",
        b"\x00\x01",
    ],
)
def test_what_is_no_stream_is_refused(document):
    with pytest.raises(FileRefused):
        read_streams(document)


def test_a_wrench_is_heard_through_cut_lines_and_nonsense():
    wrench = Wrench()
    ear = WrenchEar("127.0.0.1", wrench.port, "job", 2)
    assert ear.hear() == []
    wait(lambda: wrench.heard)
    wrench.say(3, 15.8, START)
    (first,) = wait(ear.hear)
    assert (first.station, first.torque_nm, first.setup) == (3, 15.8, 2)
    wrench.send(b'{"at": "2026-03-02T07:00:00Z", "station": 4, ')
    assert ear.hear() == []
    wrench.send(b'"torque_nm": 16.1}\nhello\n{"station": 5}\n[]\n' + b"x" * 5000 + b"\n")
    (second,) = wait(ear.hear)
    assert second.torque_nm == 16.1
    assert read_line(b"[" * 1500, "job", 1) is None
    line = b'{"at": "2026-03-02T07:00:00Z", "station": 4, "torque_nm": 1e999}'
    assert read_line(line, "job", 1) is None
    wrench.close()
    wait(lambda: ear.hear() == [] and ear._line is None)
    assert ear.hear() == []


def test_what_cannot_be_handed_over_waits_and_goes_once(tmp_path, agent):
    control, url = agent
    there, got = [False], []

    def deliver(entries):
        if not there[0]:
            raise OSError("no route")
        got.extend(entries)

    box = Outbox(tmp_path / "out.jsonl", deliver)
    ear = ControlEar(url, Cycles("job", 1))
    run_cycle(control, 5, after(0), after(600), 0)
    box.put(ear.hear())
    assert box.send() == 0
    # killed, and begun again: the file has it; a line torn by a power cut takes nothing with it
    with (tmp_path / "out.jsonl").open("a") as file:
        file.write('{"kind": "cycle", "sec')
    box = Outbox(tmp_path / "out.jsonl", deliver)
    assert len(box.waiting()) == 1
    there[0] = True
    assert box.send() == 1
    assert (box.waiting(), box.send(), len(got)) == ([], 0, 1)


def test_a_gauges_table_is_read_while_it_is_being_written(tmp_path):
    file = tmp_path / "gauge.csv"
    ear = TableEar(file, "job")
    assert ear.hear() == []
    row = "{at},measure,3,Supply bore,X,{off},gauge\n"
    with file.open("w") as out:
        out.write("at,kind,station,feature,axis,off_mm,by\n")
        out.write(row.format(at=START.isoformat(), off=0.012))
        out.write(START.isoformat())  # in the middle of a row
    (first,) = ear.hear()
    assert (first.off_mm, first.by) == (0.012, "gauge")
    assert ear.hear() == []
    with file.open("a") as out:
        out.write(row.format(at="", off=0.02))
    assert [entry.off_mm for entry in ear.hear()] == [0.012, 0.02]
    assert json.loads(first.model_dump_json())["id"] == first.id
