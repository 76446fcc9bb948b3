"""Accounts: argon2 hashes, checked in the same time whether or not the name exists."""

from __future__ import annotations

from datetime import timedelta
from functools import lru_cache

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError
from sqlalchemy import bindparam, delete, func, select, update
from sqlalchemy.orm import Session

from wedgecraft.store.models import Person, SignedIn, now

_HASHER = PasswordHasher()
SHORTEST_PASSWORD = 10
_NOTED_EVERY = timedelta(minutes=10)
_SESSION_QUERY = select(SignedIn).where(
    SignedIn.id == bindparam("ident")
)  # every request asks it: put together once


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
    person = session.scalar(
        select(Person).where(Person.sign_in == sign_in.strip().lower(), Person.active)
    )
    try:
        _HASHER.verify(person.password_hash if person else _nobody(), password)
    except (Argon2Error, InvalidHashError):
        return None
    if person and _HASHER.check_needs_rehash(person.password_hash):
        person.password_hash = _HASHER.hash(password)
    return person


def begin_session(session: Session, person: Person, address: str) -> SignedIn:
    """A sign-in, until it is ended or not used for a long time."""
    made = SignedIn(person=person, address=address[:60])
    session.add(made)
    session.flush()
    return made


def session_of(session: Session, ident: str) -> SignedIn | None:
    """The sign-in with its person, while it lasts; that it is used is noted now and then."""
    found = session.scalar(_SESSION_QUERY, {"ident": ident})
    if found is None or not found.person.active:
        return None
    if now() - found.seen_at > _NOTED_EVERY:
        session.execute(update(SignedIn).where(SignedIn.id == ident).values(seen_at=now()))
    return found


def end_session(session: Session, ident: str) -> None:
    session.execute(delete(SignedIn).where(SignedIn.id == ident))


def end_sessions(session: Session, person_id: str, but: str | None = None) -> None:
    """Sign a person out everywhere, but where they are now."""
    session.execute(
        delete(SignedIn).where(SignedIn.person_id == person_id, SignedIn.id != (but or ""))
    )


def change_password(session: Session, person_id: str, present: str, fresh: str) -> bool:
    """A person's own password, by who knows the present one; false when it was not that. Raises
    PasswordTooShort.
    """
    person = session.get_one(Person, person_id, with_for_update=True, populate_existing=True)
    if check_sign_in(session, person.sign_in, present) is None:
        return False
    person.password_hash = hash_password(fresh)
    return True


def add_person(
    session: Session, sign_in: str, name: str, role: str, password: str, demo: bool = False
) -> Person:
    person = Person(
        sign_in=sign_in.strip().lower(),
        name=name,
        role=role,
        password_hash=hash_password(password),
        demo=demo,
    )
    session.add(person)
    session.flush()
    return person


def anyone(session: Session) -> bool:
    return bool(session.scalar(select(func.count()).select_from(Person)))


def admins(session: Session) -> int:
    """How many can still administer; nobody else changes who may until the transaction ends: of two
    who give up at once one is told.
    """
    session.execute(select(func.pg_advisory_xact_lock(func.hashtext("wedgecraft administrators"))))
    return (
        session.scalar(
            select(func.count()).select_from(Person).where(Person.role == "admin", Person.active)
        )
        or 0
    )
