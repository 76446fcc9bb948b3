"""The shop's entries: add, change, retire, and who did it."""

from __future__ import annotations

from typing import Any

from sqlalchemy import String, cast, func, select
from sqlalchemy.orm import Session

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.shop.document import KINDS, KindName, ShopEntry, checked
from wedgecraft.core.shop.shipped import shipped
from wedgecraft.store.models import Job, Thing, ThingChange, now


class NameTaken(ValueError):
    """There is another entry of this kind and name."""


class Stale(RuntimeError):
    """Someone else changed the entry since it was read."""

    def __init__(self, thing: Thing) -> None:
        super().__init__(thing.name)
        self.thing = thing


def stock_up(session: Session) -> int:
    """Put the generic entries in that were never there; a shop's own changes and retirements
    stay.
    """
    known = {(kind, name) for kind, name in session.execute(select(Thing.kind, Thing.name))}
    fresh = (
        [entry for entry in shipped() if (entry.kind, entry.name) not in known] if not known else []
    )
    for entry in fresh:
        session.add(
            Thing(
                kind=entry.kind,
                name=entry.name,
                data=entry.data,
                source=entry.source,
                sources=entry.sources,
                ships=True,
            )
        )
    session.flush()
    return len(fresh)


def entries(
    session: Session,
    kind: KindName | None = None,
    retired: bool = True,
    limit: int | None = None,
    offset: int = 0,
) -> list[Thing]:
    query = select(Thing).order_by(Thing.kind, Thing.name).limit(limit).offset(offset)
    if kind is not None:
        query = query.where(Thing.kind == kind)
    if not retired:
        query = query.where(~Thing.retired)
    return list(session.scalars(query))


def count(session: Session, kind: KindName | None = None) -> int:
    """How many entries there are, retired ones too."""
    query = select(func.count()).select_from(Thing)
    return session.scalar(query if kind is None else query.where(Thing.kind == kind)) or 0


def document(thing: Thing) -> Document:
    """The entry's own document; machines, plates and cutters carry its id, so that a job knows
    where they came from.
    """
    model = KINDS[thing.kind]  # type: ignore[index]
    extra = {"shop_id": thing.id} if "shop_id" in model.model_fields else {}
    return model.model_validate({**thing.data, **extra})


def rules(session: Session) -> HouseRules:
    thing = session.scalar(select(Thing).where(Thing.kind == "rules"))
    return HouseRules.model_validate(thing.data) if thing else HouseRules()


def used_by(session: Session, thing_id: str) -> list[str]:
    """Names of jobs that hold this entry."""
    holds = cast(Job.document, String).contains(thing_id)
    return list(
        session.scalars(
            select(Job.name).where(holds, Job.deleted_at.is_(None)).order_by(Job.name).limit(100)
        )
    )


def _check_name(session: Session, kind: str, name: str, but: str | None = None) -> None:
    # One at a time until the transaction ends: two who choose a name at once would both find it
    # free.
    session.execute(select(func.pg_advisory_xact_lock(func.hashtext(f"shop {kind}"))))
    other = session.scalar(
        select(Thing.id).where(
            Thing.kind == kind, func.lower(Thing.name) == name.lower(), Thing.id != (but or "")
        )
    )
    if other is not None:
        raise NameTaken(f"there is another entry called “{name}”")


def add(session: Session, entry: ShopEntry, person: str, what: str = "added") -> Thing:
    """Raises NameTaken, and pydantic.ValidationError for data that is not of its kind."""
    _check_name(session, entry.kind, entry.name)
    thing = Thing(
        kind=entry.kind,
        name=entry.name,
        data=checked(entry.kind, entry.name, entry.data),
        source=entry.source or f"entered by {person}"[:200],
        sources=entry.sources,
        updated_by=person,
    )
    session.add(thing)
    session.flush()
    session.add(ThingChange(entry_id=thing.id, person=person, what=what))
    return thing


def change(
    session: Session,
    thing_id: str,
    version: int | None,
    person: str,
    *,
    name: str | None = None,
    data: dict[str, Any] | None = None,
    sources: dict[str, str] | None = None,
    retired: bool | None = None,
    what: str = "changed",
) -> Thing | None:
    """Change what is given; a changed value without a source of its own was entered by this person.

    Raises Stale, NameTaken, pydantic.ValidationError.
    """
    thing = session.get(
        Thing, thing_id, with_for_update=True, populate_existing=True
    )  # as committed, not as read before
    if thing is None:
        return None
    if version is not None and thing.version != version:
        raise Stale(thing)
    fields: dict[str, Any] = {}
    if name is not None and name != thing.name:
        _check_name(session, thing.kind, name, thing.id)
        fields["name"] = [thing.name, name]
        thing.name = name
    if data is not None or "name" in fields:
        after = checked(thing.kind, thing.name, {**thing.data, **(data or {})})  # type: ignore[arg-type]
        changed = {
            key: [thing.data.get(key), value]
            for key, value in after.items()
            if thing.data.get(key) != value and key != "name"
        }
        fields |= changed
        entered = f"entered by {person}, {now().date().isoformat()}"[:200]
        thing.sources = {**thing.sources, **dict.fromkeys(changed, entered), **(sources or {})}
        thing.data = after
    elif sources:
        thing.sources = {**thing.sources, **sources}
    if sources:
        fields["sources"] = [None, sources]
    if retired is not None and retired != thing.retired:
        thing.retired = retired
        what = "retired" if retired else "taken back into use"
        fields["retired"] = [not retired, retired]
    if fields:
        thing.version += 1
        thing.updated_at, thing.updated_by = now(), person
        session.add(ThingChange(entry_id=thing.id, person=person, what=what, fields=fields))
    session.flush()
    return thing


def history(
    session: Session, thing_id: str, limit: int, offset: int
) -> tuple[list[ThingChange], int]:
    """A page of an entry's changes, newest first, and how many there are."""
    mine = ThingChange.entry_id == thing_id
    query = (
        select(ThingChange)
        .where(mine)
        .order_by(ThingChange.at.desc(), ThingChange.id)
        .limit(limit)
        .offset(offset)
    )
    return list(session.scalars(query)), session.scalar(
        select(func.count()).select_from(ThingChange).where(mine)
    ) or 0
