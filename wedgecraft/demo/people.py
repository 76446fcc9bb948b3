"""The made-up accounts, shown on the sign-in page of the demo and nowhere else."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class DemoPerson:
    sign_in: str
    name: str
    role: Literal["admin", "planner", "operator", "viewer"]
    password: str


DEMO_PEOPLE = (
    DemoPerson("planner", "Demo planner", "planner", "salt-marsh-planner"),
    DemoPerson("setter", "Demo setter", "operator", "salt-marsh-setter"),
    DemoPerson("visitor", "Demo visitor", "viewer", "salt-marsh-visitor"),
    DemoPerson("admin", "Demo admin", "admin", "salt-marsh-admin"),
)
