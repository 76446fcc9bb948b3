"""Sign-in, sign-out, one's own password, preferences."""

from __future__ import annotations

import threading

from apiflask import APIBlueprint
from flask import current_app, request
from flask_login import current_user, login_user, logout_user
from flask_wtf.csrf import generate_csrf

from wedgecraft.api.access import SignedIn, me, open_to_all, this_session
from wedgecraft.api.documents import DemoAccount, Me, NewPassword, Preferences, SessionState, SignIn
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.core.ground.documents import FieldError
from wedgecraft.demo.people import DEMO_PEOPLE
from wedgecraft.store import guessing, people
from wedgecraft.store.models import Person, Setting

blueprint = APIBlueprint("session", __name__, url_prefix="/api/session", tag="Session")

#: A password is dear to check, on purpose: many at once would leave nothing for who is already in.
_checking = threading.Semaphore(2)


def _too_many(seconds: int) -> ProblemRaised:
    return ProblemRaised(
        429,
        "Too many attempts",
        f"Too many wrong passwords for this account; wait {-(-seconds // 60)} min, then try again.",
        headers={"Retry-After": str(seconds)},
    )


def _as_me(person: Person) -> Me:
    return Me.model_validate({key: getattr(person, key) for key in Me.model_fields})


def _state() -> SessionState:
    with current_app.extensions["database"].session() as session:
        demo = session.get(Setting, "demo") is not None
        needs_admin = not people.anyone(session)
        shown = (
            [
                DemoAccount(
                    sign_in=entry.sign_in, name=entry.name, role=entry.role, password=entry.password
                )
                for entry in DEMO_PEOPLE
            ]
            if demo
            else []
        )
    person = _as_me(me()) if current_user.is_authenticated else None
    return SessionState(
        person=person, csrf_token=generate_csrf(), demo_accounts=shown, needs_admin=needs_admin
    )


@blueprint.get("")
@blueprint.output(SessionState)
@open_to_all
def read() -> SessionState:
    """Who is signed in, and the token that changes must carry."""
    return _state()


@blueprint.post("")
@blueprint.input(SignIn, arg_name="given")
@blueprint.output(SessionState)
@open_to_all
def sign_in(given: SignIn) -> SessionState:
    """Sign in."""
    address, row = request.remote_addr or "", None
    with _checking, current_app.extensions["database"].session() as session:
        seconds = guessing.wait_for(session, given.sign_in, address)
        person = (
            people.check_sign_in(session, given.sign_in, given.password) if not seconds else None
        )
        if person is not None:
            row = people.begin_session(session, person, address)
            guessing.was_right(session, given.sign_in, address)
        elif not seconds:
            guessing.was_wrong(session, given.sign_in, address)
    if seconds:
        raise _too_many(seconds)
    if row is None:
        raise ProblemRaised(
            401,
            "Not signed in",
            "Name and password do not belong together. After six tries this waits five minutes.",
        )
    if current_user.is_authenticated:
        _end_this()
    login_user(SignedIn(row), fresh=True)
    return _state()


def _end_this() -> None:
    with current_app.extensions["database"].session() as session:
        people.end_session(session, this_session())


@blueprint.delete("")
@blueprint.output(SessionState)
def sign_out() -> SessionState:
    """Sign out: the session is over here too, whoever still has its cookie."""
    _end_this()
    logout_user()
    return _state()


@blueprint.put("/password")
@blueprint.input(NewPassword, arg_name="given")
@blueprint.output(SessionState)
def own_password(given: NewPassword) -> SessionState:
    """Change one's own password; signed in elsewhere, one is no longer."""
    address, right = request.remote_addr or "", False
    with _checking, current_app.extensions["database"].session() as session:
        seconds = guessing.wait_for(session, me().sign_in, address)
        if not seconds:
            right = people.change_password(session, me().id, given.present, given.fresh)
            (guessing.was_right if right else guessing.was_wrong)(session, me().sign_in, address)
        if right:
            people.end_sessions(session, me().id, but=this_session())
    if seconds:
        raise _too_many(seconds)
    if not right:
        error = FieldError(field="present", value="", message="this is not your present password")
        raise ProblemRaised(
            422, "Not changed", "That is not your present password; nothing was changed.", [error]
        )
    return _state()


@blueprint.patch("/preferences")
@blueprint.input(Preferences, arg_name="given")
@blueprint.output(SessionState)
def prefer(given: Preferences) -> SessionState:
    """Keep a person's units and theme."""
    with current_app.extensions["database"].session() as session:
        person = session.get_one(Person, me().id)
        person.units = given.units or person.units
        person.theme = given.theme or person.theme
    current_user.person = person
    return _state()
