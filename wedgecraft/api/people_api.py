"""Accounts, for administrators."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import current_app
from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError

from wedgecraft.api import once
from wedgecraft.api.access import may, me, this_session
from wedgecraft.api.documents import NewPerson, Page, Person, PersonChange, PersonList
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.core.ground.documents import FieldError
from wedgecraft.store import models, people

blueprint = APIBlueprint("people", __name__, url_prefix="/api/people", tag="People")


def _shown(person: models.Person) -> Person:
    return Person.model_validate({key: getattr(person, key) for key in Person.model_fields})


@blueprint.get("")
@may("administer")
@blueprint.input(Page, location="query", arg_name="asked")
@blueprint.output(PersonList)
def listing(asked: Page) -> PersonList:
    """A page of the accounts."""
    with current_app.extensions["database"].session() as session:
        query = (
            select(models.Person)
            .order_by(models.Person.sign_in)
            .limit(asked.limit)
            .offset(asked.offset)
        )
        total = session.scalar(select(func.count()).select_from(models.Person)) or 0
        return PersonList(people=[_shown(person) for person in session.scalars(query)], total=total)


@blueprint.post("")
@may("administer")
@blueprint.input(NewPerson, arg_name="given")
@blueprint.output(Person, status_code=201)
def make(given: NewPerson) -> Person:
    """Add an account."""
    taken = FieldError(
        field="sign_in", value=given.sign_in, message="this name is taken; choose another"
    )
    with current_app.extensions["database"].session() as session:
        made = once.before(session)
        if made is not None:
            return _shown(session.get_one(models.Person, made.subject))
        try:
            with session.begin_nested():
                person = people.add_person(
                    session, given.sign_in, given.name, given.role, given.password
                )
        except IntegrityError:  # also of two who choose it at once
            raise ProblemRaised(422, "Not possible", f"sign_in: {taken.message}", [taken]) from None
        once.note(session, person.id)
        return _shown(person)


@blueprint.patch("/<person_id>")
@may("administer")
@blueprint.input(PersonChange, arg_name="given")
@blueprint.output(Person)
def change(person_id: str, given: PersonChange) -> Person:
    """Change role or password, or lock an account, which signs it out everywhere. The last
    administrator stays one.
    """
    with current_app.extensions["database"].session() as session:
        people.admins(session)  # one such change at a time
        person = session.get(models.Person, person_id, with_for_update=True, populate_existing=True)
        if person is None:
            raise ProblemRaised(404, "No such person", "This account does not exist.")
        person.role = given.role or person.role
        person.active = person.active if given.active is None else given.active
        if given.password:
            person.password_hash = people.hash_password(given.password)
        people.end_sessions(
            session,
            person.id,
            but=this_session() if person.id == me().id and person.active else None,
        )
        session.flush()
        if people.admins(session) == 0:
            raise ProblemRaised(
                422,
                "Not possible",
                "Someone must be able to administer; make another administrator first.",
            )
        return _shown(person)
