"""Who may do what. Every address of the service is closed unless it is marked open."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from flask import Flask, current_app, request
from flask_login import LoginManager, UserMixin, current_user

from wedgecraft.api.problems import ProblemRaised
from wedgecraft.store import people
from wedgecraft.store.models import Person
from wedgecraft.store.models import SignedIn as Row

_OPEN = "_open_to_all"
#: What each role may do; reading needs only a session.
_MAY = {
    "admin": {"plan", "administer", "log"},
    "planner": {"plan", "log"},
    "operator": {"log"},
    "viewer": set(),
}


class SignedIn(UserMixin):
    """The person behind a session. The cookie names a row of the database; with the row gone it is
    worth nothing.
    """

    def __init__(self, row: Row) -> None:
        self.session_id, self.person = row.id, row.person

    def get_id(self) -> str:
        return self.session_id


def open_to_all(view: Callable[..., Any]) -> Callable[..., Any]:
    """Mark a view that needs no session."""
    setattr(view, _OPEN, True)
    return view


def may(what: str) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Let a view through only for roles that may do this."""

    def decorate(view: Callable[..., Any]) -> Callable[..., Any]:
        @wraps(view)
        def checked(*args: Any, **kwargs: Any) -> Any:
            role = me().role
            if what not in _MAY[role]:
                allowed = [name for name, rights in _MAY.items() if what in rights]
                raise ProblemRaised(
                    403,
                    "Not allowed",
                    f"A {role} may read this, not change it; ask one of: {', '.join(allowed)}.",
                )
            return view(*args, **kwargs)

        return checked

    return decorate


def me() -> Person:
    person: Person = current_user.person
    return person


def this_session() -> str:
    """The id of the sign-in this request came with."""
    return str(current_user.session_id)


def install(app: Flask) -> None:
    manager = LoginManager(app)
    manager.session_protection = None

    @manager.user_loader
    def _load(identity: str) -> SignedIn | None:
        with current_app.extensions["database"].session() as session:
            row = people.session_of(session, identity)
            return SignedIn(row) if row is not None else None

    @app.before_request
    def _closed_by_default() -> None:
        if not request.path.startswith("/api/") or request.endpoint is None:
            return
        view = current_app.view_functions[request.endpoint]
        if not getattr(view, _OPEN, False) and not current_user.is_authenticated:
            raise ProblemRaised(401, "Please sign in", "This needs a signed-in person.")
