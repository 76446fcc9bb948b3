"""The shop: what there is, with its history; in and out as CSV and JSON."""

from __future__ import annotations

from typing import Any, Literal

from apiflask import APIBlueprint
from flask import Response, current_app, request
from pydantic import ValidationError
from sqlalchemy import select

from wedgecraft.api import lanes, once
from wedgecraft.api.access import may, me
from wedgecraft.api.description import files
from wedgecraft.api.documents import (
    ImportPreview,
    NewShopItem,
    Page,
    ShopAsked,
    ShopChange,
    ShopChanged,
    ShopHistory,
    ShopItem,
    ShopList,
)
from wedgecraft.api.problems import ProblemRaised, invalid
from wedgecraft.core.ground.documents import Document, FieldError
from wedgecraft.core.shop.document import KINDS, KindName, ShopEntry, kind_shown
from wedgecraft.formats.child import Readers
from wedgecraft.formats.drawings import LIMITS
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.tables import MOST_BYTES, read_entries
from wedgecraft.store import shop
from wedgecraft.store.models import Thing

blueprint = APIBlueprint("shop", __name__, url_prefix="/api/shop", tag="Shop")


class ExportAsked(Document):
    """Which kind, as what."""

    kind: KindName | None = None
    format: Literal["csv", "json"] = "csv"


def _session() -> Any:
    return current_app.extensions["database"].session()


def _item(thing: Thing, used: list[str] | None = None) -> ShopItem:
    return ShopItem(
        id=thing.id,
        kind=thing.kind,
        name=thing.name,
        data=thing.data,
        source=thing.source,
        sources=thing.sources,
        ships=thing.ships,
        retired=thing.retired,
        version=thing.version,
        updated_at=thing.updated_at,
        updated_by=thing.updated_by,
        used_by=used or [],
    )


@blueprint.get("")
@blueprint.input(ShopAsked, location="query", arg_name="asked")
@blueprint.output(ShopList)
def everything(asked: ShopAsked) -> ShopList:
    """Kinds with their fields, and a page of the entries, retired ones too."""
    with _session() as session:
        listed = [
            _item(thing)
            for thing in shop.entries(session, asked.kind, limit=asked.limit, offset=asked.offset)
        ]
        total = shop.count(session, asked.kind)
    return ShopList(kinds=[kind_shown(kind) for kind in KINDS], entries=listed, total=total)


@blueprint.post("/entries")
@may("plan")
@blueprint.input(NewShopItem, arg_name="given")
@blueprint.output(ShopItem, status_code=201)
def add(given: NewShopItem) -> ShopItem:
    """Add an entry."""
    if given.kind == "rules":
        raise ProblemRaised(
            422, "Not possible", "There is one set of house rules; change that one."
        )
    with _session() as session:
        made = once.before(session)
        if made is not None:
            return _item(session.get_one(Thing, made.subject))
        try:
            entry = ShopEntry(
                kind=given.kind, name=given.name, data=given.data, source=given.source
            )
            thing = shop.add(session, entry, me().name)
            once.note(session, thing.id)
            return _item(thing)
        except ValidationError as error:
            raise invalid(error) from None
        except shop.NameTaken as error:
            raise _name_taken(error) from None


def _name_taken(error: Exception) -> ProblemRaised:
    return ProblemRaised(
        422,
        "Not possible",
        f"{error}; give this one a name of its own.",
        [FieldError(field="name", value="", message=str(error))],
    )


@blueprint.get("/entries/<entry_id>")
@blueprint.output(ShopItem)
def one(entry_id: str) -> ShopItem:
    """An entry, with the jobs that hold it."""
    with _session() as session:
        thing = session.get(Thing, entry_id)
        if thing is None:
            raise _missing()
        return _item(thing, shop.used_by(session, entry_id))


def _missing() -> ProblemRaised:
    return ProblemRaised(404, "No such entry", "This entry of the shop does not exist.")


@blueprint.patch("/entries/<entry_id>")
@may("plan")
@blueprint.input(ShopChange, arg_name="given")
@blueprint.output(ShopItem)
def change(entry_id: str, given: ShopChange) -> ShopItem:
    """Change, retire or take back an entry. Nothing is ever deleted: jobs keep what they were
    planned with.
    """
    with _session() as session:
        made = once.before(session)
        if made is not None:
            return _item(session.get_one(Thing, made.subject), shop.used_by(session, entry_id))
        try:
            thing = shop.change(
                session,
                entry_id,
                given.version,
                me().name,
                name=given.name,
                data=given.data,
                sources=given.sources,
                retired=given.retired,
            )
        except shop.Stale as stale:
            raise ProblemRaised(
                409,
                "Changed meanwhile",
                f"{stale.thing.updated_by or 'Someone'} changed “{stale.thing.name}” since you read"
                " it. Your change was not stored.",
            ) from None
        except shop.NameTaken as error:
            raise _name_taken(error) from None
        except ValidationError as error:
            raise invalid(error) from None
        if thing is None:
            raise _missing()
        if thing.kind == "rules" and thing.retired:
            raise ProblemRaised(422, "Not possible", "House rules are always in use.")
        once.note(session, thing.id)
        return _item(thing, shop.used_by(session, entry_id))


@blueprint.get("/entries/<entry_id>/history")
@blueprint.input(Page, location="query", arg_name="asked")
@blueprint.output(ShopHistory)
def past(entry_id: str, asked: Page) -> ShopHistory:
    """Who changed what, newest first."""
    with _session() as session:
        if session.get(Thing, entry_id) is None:
            raise _missing()
        lines, total = shop.history(session, entry_id, asked.limit, asked.offset)
        found = [
            ShopChanged(at=line.at, person=line.person, what=line.what, fields=line.fields)
            for line in lines
        ]
    return ShopHistory(changes=found, total=total)


@blueprint.get("/export")
@blueprint.input(ExportAsked, location="query", arg_name="asked")
@blueprint.doc(responses=files("text/csv", "application/json"))
def export(asked: ExportAsked) -> Response:
    """Entries in use as a file: one kind as CSV, one or all as JSON."""
    from wedgecraft.formats.tables import to_csv, to_json

    with _session() as session:
        things = shop.entries(session, asked.kind, retired=False)
        found = [
            ShopEntry(
                kind=thing.kind,
                name=thing.name,
                data=thing.data,
                source=thing.source,
                sources=thing.sources,
            )
            for thing in things
        ]
    if asked.format == "json":
        body, kind = to_json(found), "application/json"
    elif asked.kind is None:
        raise ProblemRaised(422, "Not possible", "A CSV holds one kind of thing: say which.")
    else:
        body, kind = to_csv(asked.kind, found), "text/csv"
    name = f"shop-{asked.kind or 'all'}.{asked.format}"
    return Response(
        body, mimetype=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


_readers = Readers(LIMITS)


@blueprint.post("/import")
@may("plan")
@lanes.files
@blueprint.output(ImportPreview)
def bring_in() -> ImportPreview:
    """What a CSV or JSON would change (fields ``file``, ``kind``), and with ``store`` = yes the
    change itself: all of it or nothing.
    """
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        raise ProblemRaised(422, "File not used", "No file was sent; choose a CSV or JSON file.")
    kind = request.form.get("kind") or None
    if kind is not None and kind not in KINDS:
        raise ProblemRaised(
            422, "File not used", f"“{kind[:40]}” is no kind of thing a shop has here."
        )
    known = {}
    if kind is not None:
        with _session() as session:
            known = {thing.name.lower(): thing.data for thing in shop.entries(session, kind)}
    try:
        read = _readers.call(
            read_entries, sent.stream.read(MOST_BYTES + 1), kind, sent.filename, known
        )
    except FileRefused as error:
        raise ProblemRaised(
            422, "File not used", f"{error.what[:1].upper()}{error.what[1:]}; {error.remedy}."
        ) from None
    store = request.form.get("store") == "yes" and not read.faults
    with _session() as session:
        return _brought_in(session, read.entries, read.columns, store).model_copy(
            update={"faults": read.faults[:200]}
        )


def _brought_in(
    session: Any, entries: list[ShopEntry], columns: list[str] | None, store: bool
) -> ImportPreview:
    """Entries that are not there are added; of those that are, the columns the file has are
    changed.
    """
    known = {(thing.kind, thing.name.lower()): thing for thing in session.scalars(select(Thing))}
    added, changed, unchanged = [], [], 0
    for entry in entries:
        thing = known.get((entry.kind, entry.name.lower()))
        if thing is None:
            added.append(entry.name)
            if store:
                known[(entry.kind, entry.name.lower())] = shop.add(
                    session, entry, me().name, "imported"
                )
            continue
        asked = entry.data if columns is None else {key: entry.data[key] for key in columns}
        fresh = {
            key: value
            for key, value in asked.items()
            if key != "name" and thing.data.get(key) != value
        }
        if not fresh:
            unchanged += 1
            continue
        changed.append(entry.name)
        if store:
            sources = dict.fromkeys(fresh, entry.source)
            shop.change(
                session,
                thing.id,
                None,
                me().name,
                data=fresh,
                sources=sources,
                what="changed by import",
            )
    return ImportPreview(added=added, changed=changed, unchanged=unchanged, faults=[], stored=store)
