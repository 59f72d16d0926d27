"""The company, its sites and suppliers: read by all, kept up by leads."""

from __future__ import annotations

from tempfile import TemporaryFile

from flask import Blueprint, Response, request

from almanac.services.archive import read_archive, write_archive
from almanac.services.clock import read_clock
from almanac.services.company_edit import (
    Described,
    SiteEdit,
    SupplierEdit,
    add_site,
    add_supplier,
    edit_company,
    edit_site,
    edit_supplier,
    read_company,
)
from almanac.services.errors import Fault, Refused
from almanac.services.first_day import first_day
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import one_moment, session
from almanac.web.schemas import company as schemas
from almanac.web.schemas.catalog import CatalogChangeView

blueprint = Blueprint("company", __name__, url_prefix="/api/v1/company")


@endpoint(blueprint, "", access=Role.READER, replies=schemas.CompanyView)
def company_as_it_stands() -> schemas.CompanyView:
    """The company, its sites, its suppliers, and what was changed of them lately."""
    page = read_company(session(), read_clock(session()))
    return schemas.CompanyView(
        fields=schemas.CompanyFields(**vars(page.described)),
        number_of_changes=page.number_of_changes,
        sites=[
            schemas.SiteView(
                code=row.site.code,
                is_depot=row.site.is_depot,
                machines=row.machines,
                number_of_changes=row.number_of_changes,
                fields=schemas.SiteFields.model_validate(row.site, from_attributes=True),
            )
            for row in page.sites
        ],
        suppliers=[
            schemas.SupplierView(
                id=row.supplier.id,
                parts=row.parts,
                number_of_changes=row.number_of_changes,
                fields=schemas.SupplierFields(name=row.supplier.name, lead_time=row.lead_time),
            )
            for row in page.suppliers
        ],
        changes=[schemas.CompanyChangeView(subject=subject, change=CatalogChangeView.model_validate(row)) for subject, row in page.changes],
    )


@endpoint(blueprint, "/first-day", access=Role.READER, replies=schemas.FirstDayView)
def from_nothing_to_the_first_order() -> schemas.FirstDayView:
    """What the company has told so far, and what each step still lacks."""
    steps = first_day(session(), read_clock(session()))
    return schemas.FirstDayView(steps=[schemas.FirstDayStep.model_validate(step, from_attributes=True) for step in steps])


@endpoint(blueprint, "/archive", access=Role.LEAD, replies=None)
def whole_company_as_files() -> Response:
    """Everything on record in one zip, a CSV a table; an empty company reads it."""
    made_on = read_clock(session()).today.isoformat()
    headers = {"Content-Disposition": f'attachment; filename="company-{made_on}.zip"'}
    with TemporaryFile() as file:
        with one_moment() as connection:
            write_archive(connection, file, made_on=made_on)
        file.seek(0)
        return Response(file.read(), mimetype="application/zip", headers=headers)


@endpoint(blueprint, "/archive", method="POST", access=Role.LEAD, replies=schemas.ArchiveRead, status=201)
def read_a_whole_company() -> schemas.ArchiveRead:
    """Read such a zip into an empty company: all of it or nothing."""
    sent = request.files.get("file")
    if sent is None:
        raise Refused(Fault("file", "choose the zip that was written as the whole company"))
    found = read_archive(session().connection(), sent.stream)
    return schemas.ArchiveRead(rows=found.total, machines=found.rows["asset"], incidents=found.rows["incident"], parts=found.rows["part"])


@endpoint(blueprint, "", method="POST", access=Role.LEAD, replies=schemas.CompanyEdited, status=201)
def describe_the_company(json: schemas.CompanyEditIn) -> schemas.CompanyEdited:
    """Name, currency and time zone."""
    wanted = Described(**json.fields.model_dump())
    clock = read_clock(session())
    changed = edit_company(session(), wanted, expected_changes=json.expected_changes, clock=clock, author_id=author_id())
    return schemas.CompanyEdited(changed=changed)


@endpoint(blueprint, "/sites", method="POST", access=Role.LEAD, replies=schemas.SiteAdded, status=201)
def add_a_site(json: schemas.SiteAddIn) -> schemas.SiteAdded:
    """A further site; the first is where orders are delivered to."""
    wanted = SiteEdit(**json.fields.model_dump(mode="python"), code=json.code)
    return schemas.SiteAdded(code=add_site(session(), wanted, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/sites/<code>", method="POST", access=Role.LEAD, replies=schemas.CompanyEdited, status=201)
def edit_a_site(code: str, json: schemas.SiteEditIn) -> schemas.CompanyEdited:
    """Name, time zone, air, and since when repairs are written down."""
    wanted, clock = SiteEdit(**json.fields.model_dump(mode="python")), read_clock(session())
    changed = edit_site(session(), code, wanted, expected_changes=json.expected_changes, clock=clock, author_id=author_id())
    return schemas.CompanyEdited(changed=changed)


@endpoint(blueprint, "/suppliers", method="POST", access=Role.LEAD, replies=schemas.SupplierAdded, status=201)
def add_a_supplier(json: schemas.SupplierFields) -> schemas.SupplierAdded:
    """A further supplier with the days it states."""
    wanted = SupplierEdit(json.name, json.lead_time)
    return schemas.SupplierAdded(id=add_supplier(session(), wanted, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/suppliers/<int:supplier_id>", method="POST", access=Role.LEAD, replies=schemas.CompanyEdited, status=201)
def edit_a_supplier(supplier_id: int, json: schemas.SupplierEditIn) -> schemas.CompanyEdited:
    """Name and stated days."""
    wanted, clock = SupplierEdit(json.fields.name, json.fields.lead_time), read_clock(session())
    changed = edit_supplier(session(), supplier_id, wanted, expected_changes=json.expected_changes, clock=clock, author_id=author_id())
    return schemas.CompanyEdited(changed=changed)
