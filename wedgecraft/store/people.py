"""Accounts: argon2 hashes, checked in the same time whether or not the name exists."""

from __future__ import annotations

from functools import lru_cache

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from wedgecraft.store.models import Person

_HASHER = PasswordHasher()
SHORTEST_PASSWORD = 10


class PasswordTooShort(ValueError):
    def __init__(self) -> None:
        super().__init__(f"a password needs at least {SHORTEST_PASSWORD} characters")


@lru_cache(maxsize=1)
def _nobody() -> str:
    """What a name that does not exist is checked against, so that it takes as long."""
    return _HASHER.hash("no such person")


def hash_password(password: str) -> str:
    """Raises PasswordTooShort."""
    if len(password) < SHORTEST_PASSWORD:
        raise PasswordTooShort
    return _HASHER.hash(password)


def check_sign_in(session: Session, sign_in: str, password: str) -> Person | None:
    """The active person with this name and password, or nobody."""
    person = session.scalar(select(Person).where(Person.sign_in == sign_in.strip().lower(), Person.active))
    try:
        _HASHER.verify(person.password_hash if person else _nobody(), password)
    except (Argon2Error, InvalidHashError):
        return None
    if person and _HASHER.check_needs_rehash(person.password_hash):
        person.password_hash = _HASHER.hash(password)
    return person


def add_person(session: Session, sign_in: str, name: str, role: str, password: str, demo: bool = False) -> Person:
    person = Person(sign_in=sign_in.strip().lower(), name=name, role=role, password_hash=hash_password(password), demo=demo)
    session.add(person)
    session.flush()
    return person


def anyone(session: Session) -> bool:
    return bool(session.scalar(select(func.count()).select_from(Person)))


def admins(session: Session) -> int:
    """How many can still administer."""
    return session.scalar(select(func.count()).select_from(Person).where(Person.role == "admin", Person.active)) or 0
