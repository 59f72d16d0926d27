"""The stores on paper and as files, and what a scan leads to."""

from __future__ import annotations

from flask import Blueprint, Response, request
from flask_login import current_user

from almanac.services.clock import read_clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.stores import files, labels
from almanac.services.stores.acts import Recorded
from almanac.services.stores.count_sheet import count_table
from almanac.services.stores.scan import act_for
from almanac.store.books import breaks
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import store_files as schemas

blueprint = Blueprint("store_files", __name__, url_prefix="/api/v1/stores")
SHEET = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@endpoint(blueprint, "/scan", access=Role.READER, replies=schemas.ScanLeads)
def scan(query: schemas.ScanQuery) -> schemas.ScanLeads:
    """The page and the act that fit what was scanned."""
    return schemas.ScanLeads.model_validate(act_for(session(), query.text, site_code=query.site))


@endpoint(blueprint, "/files/<name>.<kind>", access=Role.READER, replies=None)
def store_table(name: str, kind: str) -> Response:
    """Moves, balances, orders or counts, as CSV or XLSX."""
    if name not in files.NAMES or kind not in ("csv", "xlsx"):
        raise NotFound(f"there is no file {name}.{kind}: the files are {', '.join(files.NAMES)}, as csv or xlsx")
    headers = {"Content-Disposition": f'attachment; filename="{name}-{read_clock(session()).today.isoformat()}.{kind}"'}
    if kind == "xlsx":
        return Response(files.table_xlsx(session(), name), mimetype=SHEET, headers=headers)
    return Response(b"".join(files.table_csv(session(), name)), mimetype="text/csv", headers=headers)


@endpoint(blueprint, "/files/<name>", method="POST", access=Role.TECHNICIAN, replies=schemas.FileTaken, status=201)
def take_store_file(name: str) -> schemas.FileTaken:
    """Carry out a file of counts, acts or order lines: all of it, or nothing."""
    sent = request.files.get("file")
    if sent is None:
        raise Refused(Fault("file", "choose a file: CSV or XLSX"))
    by = Recorded(read_clock(session()), author_id(), is_lead=current_user.role is Role.LEAD)
    return schemas.FileTaken.model_validate(files.take_file(session(), name, sent.read(), by))


@endpoint(blueprint, "/labels.pdf", access=Role.READER, replies=None)
def shelf_labels(query: schemas.LabelsQuery) -> Response:
    """Labels of a site's shelves, or of one."""
    return Response(labels.shelf_labels(session(), query.site, query.part), mimetype="application/pdf")


@endpoint(blueprint, "/lots/<order_number>.pdf", access=Role.READER, replies=None)
def lot_labels(order_number: str) -> Response:
    """Labels of what arrived with an order."""
    return Response(labels.lot_labels(session(), order_number), mimetype="application/pdf")


@endpoint(blueprint, "/packing-list.pdf", access=Role.READER, replies=None)
def packing_list(query: schemas.SiteAsked) -> Response:
    """What is packed for a site or under way to it."""
    return Response(labels.packing_list(session(), query.site), mimetype="application/pdf")


@endpoint(blueprint, "/count-sheet.csv", access=Role.READER, replies=None)
def count_sheet_csv(query: schemas.SiteAsked) -> Response:
    """The shelves of a site to count, as a file to fill in and give back."""
    headers = {"Content-Disposition": f'attachment; filename="count-{query.site.upper()}.csv"'}
    return Response(count_table(session(), query.site), mimetype="text/csv", headers=headers)


@endpoint(blueprint, "/books", access=Role.LEAD, replies=schemas.BooksView, kept="slow")
def books() -> schemas.BooksView:
    """Whether moves, balances, transfers, promises and orders add up; looked at after each day's writes."""
    return schemas.BooksView(as_of=read_clock(session()).today, breaks=[schemas.BreakView.model_validate(one) for one in breaks(session())])
