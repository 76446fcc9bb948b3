"""Accounts, for administrators."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import current_app
from sqlalchemy import select

from wedgecraft.api.access import may
from wedgecraft.api.documents import NewPerson, Person, PersonChange, PersonList
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.core.model import FieldError
from wedgecraft.store import models, people

blueprint = APIBlueprint("people", __name__, url_prefix="/api/people", tag="People")


def _shown(person: models.Person) -> Person:
    return Person.model_validate({key: getattr(person, key) for key in Person.model_fields})


@blueprint.get("")
@may("administer")
@blueprint.output(PersonList)
def listing() -> PersonList:
    """All accounts."""
    with current_app.extensions["database"].session() as session:
        return PersonList(
            people=[_shown(person) for person in session.scalars(select(models.Person).order_by(models.Person.sign_in))]
        )


@blueprint.post("")
@may("administer")
@blueprint.input(NewPerson, arg_name="given")
@blueprint.output(Person, status_code=201)
def make(given: NewPerson) -> Person:
    """Add an account."""
    with current_app.extensions["database"].session() as session:
        if session.scalar(select(models.Person).where(models.Person.sign_in == given.sign_in.lower())):
            error = FieldError(field="sign_in", value=given.sign_in, message="this name is taken; choose another")
            raise ProblemRaised(422, "Not possible", f"sign_in: {error.message}", [error])
        return _shown(people.add_person(session, given.sign_in, given.name, given.role, given.password))


@blueprint.patch("/<person_id>")
@may("administer")
@blueprint.input(PersonChange, arg_name="given")
@blueprint.output(Person)
def change(person_id: str, given: PersonChange) -> Person:
    """Change role or password, or lock an account. The last administrator stays one."""
    with current_app.extensions["database"].session() as session:
        person = session.get(models.Person, person_id)
        if person is None:
            raise ProblemRaised(404, "No such person", "This account does not exist.")
        person.role = given.role or person.role
        person.active = person.active if given.active is None else given.active
        if given.password:
            person.password_hash = people.hash_password(given.password)
        person.session_number += 1  # signs them out everywhere
        session.flush()
        if people.admins(session) == 0:
            raise ProblemRaised(422, "Not possible", "Someone must be able to administer; make another administrator first.")
        return _shown(person)
