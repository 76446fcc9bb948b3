"""Sign-in, sign-out, preferences."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import current_app, request
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address
from flask_login import current_user, login_user, logout_user
from flask_wtf.csrf import generate_csrf

from wedgecraft.api.access import SignedIn, me, open_to_all
from wedgecraft.api.documents import DemoAccount, Me, Preferences, SessionState, SignIn
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.demo.people import DEMO_PEOPLE
from wedgecraft.store import people
from wedgecraft.store.models import Person, Setting

blueprint = APIBlueprint("session", __name__, url_prefix="/api/session", tag="Session")


def _who_is_guessing() -> str:
    given = request.get_json(silent=True)
    name = given.get("sign_in", "") if isinstance(given, dict) else ""
    return f"{get_remote_address()}|{str(name).strip().lower()[:60]}"


#: Failed attempts per name and per address; right ones do not count.
limiter = Limiter(get_remote_address, storage_uri="memory://")
_slowed = limiter.limit("6 per 5 minutes", key_func=_who_is_guessing, deduct_when=lambda response: response.status_code == 401)
_slowed_address = limiter.limit("40 per 5 minutes", deduct_when=lambda response: response.status_code == 401)


def _as_me(person: Person) -> Me:
    return Me.model_validate({key: getattr(person, key) for key in Me.model_fields})


def _state() -> SessionState:
    with current_app.extensions["database"].session() as session:
        demo = session.get(Setting, "demo") is not None
        needs_admin = not people.anyone(session)
        shown = [
            DemoAccount(sign_in=entry.sign_in, name=entry.name, role=entry.role, password=entry.password) for entry in DEMO_PEOPLE
        ] if demo else []  # fmt: skip
    person = _as_me(me()) if current_user.is_authenticated else None
    return SessionState(person=person, csrf_token=generate_csrf(), demo_accounts=shown, needs_admin=needs_admin)


@blueprint.get("")
@blueprint.output(SessionState)
@open_to_all
def read() -> SessionState:
    """Who is signed in, and the token that changes must carry."""
    return _state()


@blueprint.post("")
@_slowed
@_slowed_address
@blueprint.input(SignIn, arg_name="given")
@blueprint.output(SessionState)
@open_to_all
def sign_in(given: SignIn) -> SessionState:
    """Sign in."""
    with current_app.extensions["database"].session() as session:
        person = people.check_sign_in(session, given.sign_in, given.password)
    if person is None:
        raise ProblemRaised(
            401, "Not signed in", "Name and password do not belong together. After six tries this waits five minutes."
        )
    login_user(SignedIn(person), fresh=True)
    return _state()


@blueprint.delete("")
@blueprint.output(SessionState)
def sign_out() -> SessionState:
    """Sign out."""
    logout_user()
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
    login_user(SignedIn(person))
    return _state()
