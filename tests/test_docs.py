"""What the documentation says runs."""

from __future__ import annotations

import re
from pathlib import Path

ROOT = Path(__file__).parent.parent


def code_of(page: str) -> list[str]:
    """The blocks of Python in a page of docs/."""
    return re.findall(r"```python\n(.*?)```", (ROOT / "docs" / page).read_text(), re.DOTALL)


def test_a_part_is_planned_in_ten_lines(capsys):
    from_python, _ = code_of("scripting.md")
    exec(compile(from_python, "scripting.md", "exec"), {})  # noqa: S102
    assert re.match(r"\d+ parts, (at most \d+|proven largest)", capsys.readouterr().out, re.I)
