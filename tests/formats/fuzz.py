"""Throw damaged files at every reader for as long as one likes: ``python -m tests.formats.fuzz
--minutes 10``.

Each reader may answer or refuse in words (FileRefused, or faults); anything else it raises, and
anything that takes too long, is printed with the input that did it. STEP files go to the kernel's
own process, which may be brought down and must come back.
"""

from __future__ import annotations

import argparse
import contextlib
import io
import random
import re
import sys
import time
import traceback
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import ezdxf

from wedgecraft.core.cutting.table import cuts_from_text
from wedgecraft.core.shop.shipped import shipped
from wedgecraft.formats.drawings import read_drawing
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.step.reader import LIMITS, StepReader
from wedgecraft.formats.tables import read_entries, to_csv, to_json

#: What libraries say to programmers.
_RAW = re.compile(
    r"Error\b|Exception|Traceback|recursion|NoneType|\bobject\b|0x[0-9a-f]|codec|syntax|\btoken\b|attribute"
)


@contextlib.contextmanager
def refused_in_words() -> Iterator[None]:
    """It may be refused, in words of the trade; anything else fails the test."""
    try:
        yield
    except FileRefused as refusal:
        if _RAW.search(str(refusal)):
            raise AssertionError(f"not in words: {refusal}") from refusal


#: STEP files that send the kernel into an endless loop are given up after a time by the reader:
#: that is an answer.
SLOW_SECONDS = 20.0
GIVEN_UP_SECONDS = 8.0
_TOKENS = [
    b"nan",
    b"-inf",
    b"1e400",
    b"1e-400",
    b"-0",
    b"99999999999999999999",
    b"\x00",
    b"\xff\xfe",
    b"0\n",
    b"INSERT",
    b"SPLINE",
    b"EOF",
    b";",
    b",",
    b'"',
    b"'",
    b"<g>",
    b"</g>",
    b"<use href='#a'/>",
    b"matrix(0 0 0 0 0 0)",
    b"rotate(1e9)",
    b"M0 0",
    b"A0 0 0 0 0 0 0",
    b"Z",
    b"%",
    b"in",
    b"#1=",
    b"#999999",
    b"$",
    b"*",
    b"()",
    b"-1",
    b"1.5.5",
    b"{",
    b"[",
    b"[[[[",
    b"=1+1",
    b"\t",
    b"\r\n",
    b"\xc3\x28",
    b"viewBox='0 0 0 0'",
]


def _dxf() -> bytes:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    block = document.blocks.new("b")
    block.add_circle((0, 0), 3)
    space = document.modelspace()
    space.add_lwpolyline(
        [(0, 0, 0.3), (50, 0, 0), (50, 30, 0), (0, 30, -0.2)], format="xyb", close=True
    )
    space.add_circle((20, 15), 4, dxfattribs={"layer": "holes"})
    space.add_ellipse((35, 15), (4, 0), 0.5)
    space.add_spline([(5, 5), (8, 9), (12, 5), (5, 5)])
    space.add_blockref("b", (10, 20))
    out = io.StringIO()
    document.write(out)
    text = out.getvalue()
    # Only what matters to a reader: the header's units, the blocks and the entities.
    return text.encode()


_SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"
width="100mm" height="60mm" viewBox="0 0 200 120"><defs><circle id="c" r="5"/></defs>
<g id="layer1" transform="translate(10 10) rotate(5)">
<rect x="0" y="0" width="120" height="60" rx="8"/>
<path d="M10 10 h20 v20 q-10 10 -20 0 z m40 5 a8 8 0 1 0 16 0 a8 8 0 1 0 -16 0"/>
<use xlink:href="#c" x="90" y="30"/></g><polygon points="150,80 180,80 165,110"/>
<ellipse cx="60" cy="100" rx="9" ry="4"/><text>op 10</text></svg>"""

_CUTS = (
    b"name\tkind\tdiameter\tteeth\tdepth\twidth\tfeed per tooth\trpm\tat\n"
    b"T1\tcontour\t10\t3\t8\t1.5\t0.05\t9000\t\nT2\tdrill\t5\t2\t14\t\t0.06\t7000\t13, 16; 39, 16\n"
)


def step_seed() -> bytes:
    """A block with a hole, written by the kernel."""
    import tempfile

    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer

    shape = BRepAlgoAPI_Cut(
        BRepPrimAPI_MakeBox(40.0, 30.0, 20.0).Shape(), BRepPrimAPI_MakeCylinder(6.0, 50.0).Shape()
    ).Shape()
    writer = STEPControl_Writer()
    writer.Transfer(shape, STEPControl_AsIs)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "seed.step"
        writer.Write(str(path))
        return path.read_bytes()


def damaged(seed: bytes, rng: random.Random) -> bytes:
    """Bytes flipped, pieces cut, doubled, moved, and tokens put in; numbers changed most of all."""
    data = bytearray(seed)
    for _ in range(rng.choice((1, 1, 2, 3, 6, 15))):
        if not data:
            break
        at = rng.randrange(len(data))
        how = rng.randrange(8)
        if how == 0:
            data[at] = rng.randrange(256)
        elif how == 1:
            del data[at : at + rng.choice((1, 5, 60, 1000))]
        elif how == 2:
            piece = data[at : at + rng.choice((4, 40, 400))]
            data[at:at] = piece * rng.choice((1, 2, 30))
        elif how in (3, 4):
            data[at:at] = rng.choice(_TOKENS)
        elif how == 5:
            digits = [k for k in range(at, min(at + 4000, len(data))) if 48 <= data[k] <= 57]
            if digits:
                k = rng.choice(digits)
                data[k : k + 1] = rng.choice((b"0", b"9", b"-7", b"1e9", b"1e308", b"nan", b".5"))
        elif how == 6:
            lines = bytes(data).split(b"\n")
            (
                rng.shuffle(lines)
                if rng.random() < 0.1
                else lines.insert(rng.randrange(len(lines)), lines[rng.randrange(len(lines))])
            )
            data = bytearray(b"\n".join(lines))
        else:
            data = data[:at]
    return bytes(data)


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=10)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--only", default="")
    asked = parser.parse_args()
    rng = random.Random(asked.seed)
    reader = StepReader(replace(LIMITS, seconds=GIVEN_UP_SECONDS))
    clamps = [entry for entry in shipped() if entry.kind == "clamp"]
    targets = {
        "dxf": (_dxf(), lambda data: read_drawing(data, "mm", "x.dxf")),
        "svg": (_SVG, lambda data: read_drawing(data, "mm", "x.svg")),
        "csv": (
            to_csv("clamp", clamps).encode(),
            lambda data: read_entries(data, "clamp", "x.csv"),
        ),
        "json": (to_json(clamps[:3]).encode(), lambda data: read_entries(data, None, "x.json")),
        "cuts": (_CUTS, lambda data: cuts_from_text(data.decode("utf-8", "replace"))),
        "step": (step_seed(), lambda data: reader.read(data, "x.step")),
    }
    targets = {
        name: target
        for name, target in targets.items()
        if not asked.only or name in asked.only.split(",")
    }
    answered, refused, wrong = Counter[str](), Counter[str](), 0
    slowest: dict[str, float] = dict.fromkeys(targets, 0.0)
    end = time.monotonic() + 60 * asked.minutes
    while time.monotonic() < end:
        for name, (seed, read) in targets.items():
            data = damaged(seed, rng)
            began = time.monotonic()
            try:
                read(data)
                answered[name] += 1
            except FileRefused:
                refused[name] += 1
            except Exception:
                wrong += 1
                path = Path(f"/tmp/fuzz-{name}-{wrong}")  # noqa: S108
                path.write_bytes(data)
                print(f"{name}: {path}\n{traceback.format_exc(limit=-3)}", flush=True)
            took = time.monotonic() - began
            slowest[name] = max(slowest[name], took)
            if took > SLOW_SECONDS:
                wrong += 1
                path = Path(f"/tmp/fuzz-slow-{name}-{wrong}")  # noqa: S108
                path.write_bytes(data)
                print(f"{name}: {took:.1f} s: {path}", flush=True)
    reader.close()
    for name in targets:
        print(
            f"{name}: {answered[name]} answered, {refused[name]} refused, slowest"
            f" {slowest[name]:.1f} s"
        )
    print(f"{wrong} wrong")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
