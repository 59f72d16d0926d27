"""Changing the catalog: documents, drafts, history, page files, quick entry, proposals, photos."""

from __future__ import annotations

from collections.abc import Iterable

from flask import Blueprint, Response, jsonify

from almanac.core.parts.faults import PageFault, path_words
from almanac.core.parts.inheritance import own_page
from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.machine import read_machine
from almanac.core.parts.labels.read import read_label
from almanac.core.parts.labels.strings import proposed_role
from almanac.core.parts.proposals import fastener_entry, read_notes
from almanac.core.teardown.shorthand import read_shorthand
from almanac.exchange.pages.read import FileFault, check_page, read_page, validate_page
from almanac.exchange.pages.typed import TypedLine, take_in
from almanac.exchange.pages.write import write_page
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.pages.bundle import bundle, unbundle
from almanac.services.pages.library import read_library
from almanac.services.pages.photos import photo_named, store_photo
from almanac.services.pages.save import PageChange, Saved, restore_revision, save_page
from almanac.services.pages.sheets import fastener_words
from almanac.store import catalog, pages
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import pages as forms
from almanac.web.uploads import sent_file

HEAD = ("maker", "name", "family")
"""What a page begins with: not in fault while nobody has typed it."""
blueprint = Blueprint("pages", __name__, url_prefix="/api/v1")


def _faults(faults: Iterable[PageFault]) -> list[forms.PageFaultView]:
    return [
        forms.PageFaultView(where=path_words(fault.where), message=fault.message, cure=fault.cure, open=fault.open, noted=fault.noted)
        for fault in faults
    ]


def _file_faults(faults: Iterable[FileFault]) -> list[forms.PageFaultView]:
    return [
        forms.PageFaultView(where=fault.path, message=fault.message, cure=fault.cure, open=fault.open, noted=fault.noted, line=fault.line)
        for fault in faults
    ]


def _saved(saved: Saved) -> forms.PageSaved:
    return forms.PageSaved(
        model_id=saved.model_id, number=saved.number, draft=saved.draft, changed=saved.changed, faults=_faults(saved.faults)
    )


@endpoint(blueprint, "/models/<int:model_id>/document", access=Role.READER, replies=forms.DocumentView)
def page_document(model_id: int, query: forms.DocumentQuery) -> Response:
    """A page as written: the draft in hand, or a revision by its number."""
    library = read_library(session())
    library.page(model_id)
    latest = pages.last_number(session(), model_id)
    row = pages.revision(session(), model_id, query.number or latest)
    if row is None:
        raise NotFound(f"the model has no revision {query.number}")
    sibling = library.named(row.page["inherits"]) if row.page.get("inherits") else None
    # What was written and nothing else: a page that inherits must not restate what it left out.
    document = {
        "model_id": model_id,
        "number": latest,
        "draft": row.draft,
        "page": own_page(row.page, sibling.whole if sibling else None),
        "sibling": sibling.whole if sibling else None,
    }
    return jsonify(document)


@endpoint(blueprint, "/pages", method="POST", access=Role.TECHNICIAN, replies=forms.PageSaved, status=201)
def save_document(json: forms.PageIn) -> forms.PageSaved:
    """Save a page as the next revision, or as a draft."""
    change = PageChange(json.page, json.reason, json.number, json.draft, [_line(one) for one in json.lines])
    return _saved(save_page(session(), change, clock=read_clock(session()), author_id=author_id()))


def _line(given: forms.TypedLineIn) -> TypedLine:
    return TypedLine(tuple(given.place), given.text)


@endpoint(blueprint, "/pages/line", method="POST", access=Role.READER, replies=forms.TypedRead)
def read_typed_line(json: forms.TypedIn) -> forms.TypedRead:
    """What a page says once a typed line is read into it."""
    given = json.model_dump(mode="json", exclude_unset=True)
    entries = {name: [given[one]] for name, one in (("positions", "position"), ("operations", "operation")) if given.get(one)}
    page = take_in({"evidence": given["evidence"], "facts": given.get("facts") or {}, **entries}, [_line(json.line)])
    said = {**page.page, **{name: value for several in entries for name, value in page.page[several][0].items()}}
    fields = {name: said[name] for name in ("takes", "fitted", "facts", "fasteners") if said.get(name)}
    return forms.TypedRead.model_validate({**fields, "faults": _faults(page.faults), "asked": [fault.message for fault in page.asked]})


@endpoint(blueprint, "/pages/check", method="POST", access=Role.READER, replies=forms.PageChecked)
def check_document(json: forms.PageCheckIn) -> forms.PageChecked:
    """Every fault of a page as it stands."""
    unnamed = [name for name in HEAD if not str(json.page.get(name) or "").strip()]
    begun = [PageFault((name,), f"{name}: nobody has named it yet", "type it at The machine", open=True) for name in unnamed]
    page, noted = validate_page({**json.page, **dict.fromkeys(unnamed, "not named yet")})
    noted = [*begun, *noted]
    if page is None:
        return forms.PageChecked(sound=False, faults=_faults(noted))
    sibling = read_library(session()).named(page["inherits"]) if page.get("inherits") else None
    faults = [*noted, *check_page(page, sibling.whole if sibling else None)]
    return forms.PageChecked(sound=not unnamed and not any(not fault.open for fault in faults), faults=_faults(faults))


@endpoint(blueprint, "/models/<int:model_id>/history", access=Role.READER, replies=forms.PageHistory)
def page_history(model_id: int) -> forms.PageHistory:
    """Who changed the page, when and why."""
    read_library(session()).page(model_id)
    rows = pages.history(session(), model_id)
    return forms.PageHistory(revisions=[forms.RevisionRow.model_validate(row, from_attributes=True) for row in rows])


@endpoint(
    blueprint, "/models/<int:model_id>/history/<int:number>/restore", method="POST", access=Role.TECHNICIAN, replies=forms.PageSaved,
    status=201,
)  # fmt: skip
def restore_page(model_id: int, number: int, json: forms.RestoreIn) -> forms.PageSaved:
    """Make an older revision the page that holds, as a new revision."""
    clock = read_clock(session())
    return _saved(restore_revision(session(), model_id, number, latest=json.latest, clock=clock, author_id=author_id()))


@endpoint(blueprint, "/models/<int:model_id>/page.yaml", access=Role.READER, replies=None)
def page_file(model_id: int) -> Response:
    """The page as a file."""
    page = read_library(session()).page(model_id)
    name = "-".join(page.name.lower().split())
    headers = {"Content-Disposition": f'attachment; filename="{name}.yaml"'}
    return Response(write_page(page.own), mimetype="application/yaml", headers=headers)


@endpoint(blueprint, "/models/<int:model_id>/page.zip", access=Role.READER, replies=None)
def page_bundle(model_id: int) -> Response:
    """The page as a file, with its photos."""
    page = read_library(session()).page(model_id)
    name = "-".join(page.name.lower().split())
    headers = {"Content-Disposition": f'attachment; filename="{name}.zip"'}
    return Response(bundle(session(), page), mimetype="application/zip", headers=headers)


@endpoint(blueprint, "/pages/bundle", method="POST", access=Role.TECHNICIAN, replies=forms.BundleText, status=201)
def read_page_bundle() -> forms.BundleText:
    """Keep the photos of an exported page and give its text, to be checked and saved as any page file."""
    data = sent_file("file", "a page that was exported with its photos")
    return forms.BundleText(text=unbundle(session(), data, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/pages/file", method="POST", access=Role.TECHNICIAN, replies=forms.YamlReport)
def read_page_file(json: forms.YamlIn) -> forms.YamlReport:
    """Check a page file with the line of every fault; with `write`, save it."""
    library = read_library(session())
    found = read_page(json.text.encode())
    sibling = library.named(found.page["inherits"]) if found.page and found.page.get("inherits") else None
    if sibling:
        found = read_page(json.text.encode(), sibling.whole)
    name = f"{found.page['maker']} {found.page['name']}" if found.page else None
    known = library.named(name) if name else None
    number = pages.last_number(session(), known.model_id) if known else None
    saved = None
    if json.write and found.page is not None:
        change = PageChange(found.page, json.reason, json.number, json.draft)
        saved = _saved(save_page(session(), change, clock=read_clock(session()), author_id=author_id()))
    return forms.YamlReport(sound=found.sound, name=name, known_number=number, faults=_file_faults(found.faults), saved=saved)


@endpoint(blueprint, "/pages/shorthand", method="POST", access=Role.READER, replies=forms.Understood)
def understand_line(json: forms.ShorthandIn) -> forms.Understood:
    """What a line of fastener shorthand says."""
    read = read_shorthand(json.line)
    return forms.Understood(
        groups=[
            forms.UnderstoodGroup(entry=fastener_entry(item), words=fastener_words(item), place=place)
            for item, place in zip(read.groups, read.places, strict=True)
        ],
        total=read.total.words,
        unread=list(read.unread),
    )


@endpoint(blueprint, "/pages/label", method="POST", access=Role.READER, replies=forms.LabelReading)
def understand_label(json: forms.LabelIn) -> forms.LabelReading:
    """What a label says, as it is typed."""
    kind = Kind(json.kind) if json.kind in list(Kind) else None
    reading = read_label(json.text, kind)
    return forms.LabelReading(kind=reading.kind.value if reading.kind else None, facts=reading.facts, flags=reading.flags)


@endpoint(blueprint, "/pages/machine-label", method="POST", access=Role.READER, replies=forms.MachineLabelView)
def understand_machine_label(json: forms.MachineLabelIn) -> forms.MachineLabelView:
    """What the label of a whole machine says, by the makers and families of the catalog."""
    read = read_machine(json.text, pages.families(session()), json.form, generations=json.generations)
    return forms.MachineLabelView.model_validate(read, from_attributes=True)


@endpoint(blueprint, "/pages/strings", method="POST", access=Role.READER, replies=forms.StringRoles)
def propose_string_roles(json: forms.StringsIn) -> forms.StringRoles:
    """What strings on a part are likely to be; one that is in the parts list is what is ordered."""
    known = dict.fromkeys(catalog.known_numbers(session(), json.texts), "spare_code")
    return forms.StringRoles(roles={text: proposed_role(text, known) for text in json.texts})


@endpoint(blueprint, "/pages/proposals", method="POST", access=Role.READER, replies=forms.Proposals)
def propose_from_notes(json: forms.NotesIn) -> forms.Proposals:
    """Proposals from pasted notes, graded "told", each to be accepted or refused."""
    if any("key" not in entry or "kind" not in entry for entry in json.positions):
        raise Refused(Fault("positions", "each position needs a key and a kind"))
    found = read_notes(json.text, json.positions)
    return forms.Proposals(
        proposals=[
            forms.ProposalView(
                line=item.line, text=item.text, field=item.field, target=item.target, value=item.value, flags=list(item.flags)
            )
            for item in found
        ]
    )


@endpoint(blueprint, "/photos", method="POST", access=Role.TECHNICIAN, replies=forms.PhotoStored, status=201)
def add_photo() -> forms.PhotoStored:
    """Keep a PNG picture, its metadata stripped."""
    data = sent_file("photo", "a PNG or JPEG")
    photo = store_photo(session(), data, clock=read_clock(session()), author_id=author_id())
    return forms.PhotoStored(digest=photo.digest, width=photo.width, height=photo.height)


@endpoint(blueprint, "/photos/<digest>.png", access=Role.READER, replies=None)
def photo_file(digest: str) -> Response:
    """A picture by its digest; it never changes."""
    photo = photo_named(session(), digest)
    return Response(photo.png, mimetype="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})
