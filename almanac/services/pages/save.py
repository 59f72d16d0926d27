"""Changing a page: every change is a revision, drafts included, and the positions follow the page that holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.parts.contradictions import contradicted
from almanac.core.parts.faults import PageFault, path_words
from almanac.core.parts.inheritance import own_page, whole_page
from almanac.core.parts.page import positions_of
from almanac.exchange.pages.read import check_page, validate_page
from almanac.exchange.pages.typed import TypedLine, take_in
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.pages.fits import rewrite_computed
from almanac.services.pages.library import Library, read_library
from almanac.store import pages
from almanac.store.models import DeviceModel, ModelRevision, Position


@dataclass(frozen=True)
class PageChange:
    """A page as it should be. `number` is the revision the change began from, None for a new model.

    lines : typed beside it and not read into it yet, such as a label a scanner just sent
    """

    page: Mapping[str, Any]
    reason: str
    number: int | None
    draft: bool
    lines: Sequence[TypedLine] = ()


@dataclass(frozen=True)
class Saved:
    """What was written, and what the page still leaves open. changed : False where the page said all of it before"""

    model_id: int
    number: int
    draft: bool
    faults: list[PageFault]
    changed: bool = True


def save_page(session: Session, change: PageChange, *, clock: Clock, author_id: int | None) -> Saved:
    """Write a page as a draft or as the page that holds. A page with faults can only be a draft.

    Raises
    ------
    Refused : the page breaks the format, or has faults and is no draft, or drops a position that machines have parts in
    Stale : somebody saved another revision since
    """
    if not change.reason.strip():
        raise Refused(Fault("reason", "say why in a few words: who reads the history later has only this"))
    page, noted = _read(change)
    model = _model(session, page, change.number)
    library = read_library(session)
    sibling = _sibling(page, library)
    faults = [*noted, *check_page(page, sibling)]
    if not change.draft and any(not fault.open for fault in faults):
        raise Refused(*[_fault(item) for item in faults if not item.open], Fault("draft", "save it as a draft, or correct what is named"))
    if (unchanged := _unchanged(session, library, model, page, change)) is not None:
        return Saved(model.id, unchanged.number, unchanged.draft, faults, changed=False)
    if not change.draft:
        whole = whole_page(page, sibling)
        _refuse_lost(session, model.id, whole)
        _refuse_contradicted(session, library, model.id, (page, whole), author_id)
    row = _revision(session, model, page, change, clock, author_id)
    if not change.draft:
        _follow(session, model, row.id)
    return Saved(model.id, row.number, row.draft, faults)


def _read(change: PageChange) -> tuple[dict[str, Any], list[PageFault]]:
    """The page in its stored form. What is saved is what was on the screen: a line that cannot be read is named, and nothing is saved."""
    page, noted = validate_page(change.page)
    if page is None:
        raise Refused(*map(_fault, noted))
    if not change.lines:
        return page, noted
    taken = take_in(page, change.lines)
    if unread := [*taken.faults, *taken.asked]:
        raise Refused(*map(_fault, unread))
    whole, said = validate_page(taken.page)
    if whole is None:
        raise Refused(*map(_fault, said))
    return whole, [*noted, *said]


def _unchanged(session: Session, library: Library, model: DeviceModel, page: Mapping[str, Any], change: PageChange) -> ModelRevision | None:
    """The latest revision, where it already says all of it: saving it again would only lengthen the history."""
    latest = pages.revision(session, model.id, change.number) if change.number is not None else None
    return latest if latest is not None and latest.draft == change.draft and _means(library, latest.page, page) else None


def _fault(fault: PageFault) -> Fault:
    return Fault(path_words(fault.where) or "page", f"{fault.message}: {fault.cure}")


def _model(session: Session, page: Mapping[str, Any], number: int | None) -> DeviceModel:
    """The model the page is of. A new one is made; a known one asks for the revision the change began from."""
    model = pages.model_named(session, page["maker"], page["name"])
    if model is None:
        model = DeviceModel(maker=page["maker"], name=page["name"], family=page["family"], form=page["form"])
        session.add(model)
        session.flush()
        return model
    latest = pages.last_number(session, model.id)
    if number != latest:
        began = f"from revision {number}" if number is not None else "as a new model"
        raise Stale(f"{model.maker} {model.name} is at revision {latest}; this change began {began}: read it again and repeat the change")
    model.family, model.form = page["family"], page["form"]
    return model


def _sibling(page: Mapping[str, Any], library: Library) -> Mapping[str, Any] | None:
    if not page.get("inherits"):
        return None
    found = library.named(page["inherits"])
    if found is None:
        raise Refused(Fault("inherits", f"no model is called {page['inherits']}: maker and name, as in the index"))
    own = f"{page['maker']} {page['name']}".lower()
    above: Mapping[str, Any] | None = found.own
    while above is not None:
        if f"{above['maker']} {above['name']}".lower() == own:
            raise Refused(Fault("inherits", f"{page['inherits']} inherits from this page in turn: break the circle"))
        nearest = library.named(above["inherits"]) if above.get("inherits") else None
        above = nearest.own if nearest else None
    return found.whole


def _revision(
    session: Session, model: DeviceModel, page: dict[str, Any], change: PageChange, clock: Clock, author_id: int | None
) -> ModelRevision:
    """The next revision; earlier drafts stay in the history."""
    row = ModelRevision(
        model_id=model.id,
        number=pages.last_number(session, model.id) + 1,
        page=page,
        author_id=author_id,
        reason=change.reason.strip(),
        draft=change.draft,
        recorded_at=clock.now,
    )
    session.add(row)
    session.flush()
    return row


def _follow(session: Session, model: DeviceModel, revision_id: int) -> None:
    """Bring the positions of a model, and of the siblings that inherit from it, up to their pages."""
    library = read_library(session)
    own = library.page(model.id)
    followers = [head for head in library.heads() if head.model_id != model.id and own.head in library.chain(head)]
    for page in [own, *(library.page(head.model_id) for head in followers)]:
        project(session, page.model_id, page.revision_id if page.model_id != model.id else revision_id, page.whole)


def _refuse_lost(session: Session, model_id: int, page: Mapping[str, Any]) -> None:
    """A position that machines have or had parts in cannot go."""
    keys = {entry["key"] for entry in page.get("positions") or []}
    used = pages.positions_with_tenures(session, model_id)
    lost = [row.label for row in pages.positions(session, [model_id]) if row.key not in keys and row.id in used]
    if lost:
        message = f"machines have or had parts in {', '.join(lost)}: keep the position and set its state to not_fitted"
        raise Refused(Fault("positions", message))


def _refuse_contradicted(
    session: Session, library: Library, model_id: int, pages_: tuple[Mapping[str, Any], Mapping[str, Any]], author_id: int | None
) -> None:
    """What was measured is contradicted by two people only: one proposes it as a draft, another makes that draft hold (rule G1c)."""
    page, whole = pages_
    held = library.get(model_id)
    words = contradicted(held.whole, whole) if held is not None and not held.draft else []
    if not words:
        return
    latest = pages.revision(session, model_id, pages.last_number(session, model_id))
    seconded = latest is not None and latest.draft and latest.author_id not in (None, author_id) and _means(library, latest.page, page)
    if author_id is None or not seconded:
        cure = "save the change as a draft; a second person who is signed in then makes that draft hold"
        raise Refused(*[Fault("facts", f"{said}: {cure}") for said in words])


def _means(library: Library, draft: Mapping[str, Any], page: Mapping[str, Any]) -> bool:
    """Whether two pages are the same, whatever form they were written in."""
    sibling = _sibling(page, library)
    return draft.get("inherits") == page.get("inherits") and own_page(draft, sibling) == own_page(page, sibling)


def project(session: Session, model_id: int, revision_id: int, page: Mapping[str, Any]) -> None:
    """Positions and computed fits of a model from its whole page. Keys that stay keep their row.

    Raises
    ------
    Refused : a position would go that machines have or had parts in
    """
    specs = {spec.key: spec for spec in positions_of(page)}
    rows = {row.key: row for row in pages.positions(session, [model_id])}
    _refuse_lost(session, model_id, page)
    gone = [row for key, row in rows.items() if key not in specs]
    pages.remove_positions(session, [row.id for row in gone])
    for key, spec in specs.items():
        row = rows.get(key) or Position(model_id=model_id, key=key)
        row.revision_id, row.label, row.kind = revision_id, spec.label, spec.kind.value
        row.serviceability, row.ordered_unit, row.option_condition = spec.serviceability.value, spec.ordered_unit, spec.option_condition
        session.add(row)
    session.flush()
    entries = {entry["key"]: entry for entry in page.get("positions") or []}
    rewrite_computed(session, [row for row in pages.positions(session, [model_id]) if row.key in entries], entries)


def restore_revision(session: Session, model_id: int, number: int, *, latest: int, clock: Clock, author_id: int | None) -> Saved:
    """Make an older page the one that holds again, as a new revision.

    Raises
    ------
    NotFound : the model has no such revision
    Refused, Stale : as in save_page
    """
    row = pages.revision(session, model_id, number)
    if row is None:
        raise NotFound(f"the model has no revision {number}")
    change = PageChange(row.page, f"Restored revision {number}: {row.reason}"[:200], latest, draft=False)
    return save_page(session, change, clock=clock, author_id=author_id)
