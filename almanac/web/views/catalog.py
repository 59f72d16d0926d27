"""Keeping parts and their suppliers up."""

from __future__ import annotations

from decimal import Decimal

from flask import Blueprint

from almanac.services.catalog_edit import PartEdit, edit_part, read_part
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.importing.cells import CellFault, price_breaks
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import catalog as schemas

blueprint = Blueprint("catalog", __name__, url_prefix="/api/v1/catalog")
SAME = ("name", "pack", "minimum_order", "shelf_life_days", "end_of_supply_on", "warranty_days", "lead_time")


@endpoint(blueprint, "/parts/<number>", access=Role.READER, replies=schemas.PartToEdit)
def part_to_edit(number: str) -> schemas.PartToEdit:
    """A part as it stands, its supplier's lead time, and what was changed."""
    found = read_part(session(), number)
    edit = found.edit
    fields = schemas.PartFields(
        **{name: getattr(edit, name) for name in SAME},
        price=float(edit.price),
        price_breaks="; ".join(f"{least}:{price}" for least, price in edit.breaks),
    )
    return schemas.PartToEdit(
        fields=fields,
        supplier=found.supplier,
        shared_by=found.shared_by,
        number_of_changes=found.number_of_changes,
        changes=[schemas.CatalogChangeView.model_validate(row) for row in found.changes],
    )


@endpoint(blueprint, "/parts/<number>", method="POST", access=Role.LEAD, replies=schemas.PartEdited, status=201)
def edit_catalog_part(number: str, json: schemas.PartEditIn) -> schemas.PartEdited:
    """Make a part and its supplier's stated lead time what they should be."""
    given = json.fields
    try:
        breaks = price_breaks(given.price_breaks) if given.price_breaks.strip() else []
    except CellFault as fault:
        raise Refused(Fault("price_breaks", str(fault))) from fault
    price = Decimal(str(given.price)).quantize(Decimal("0.01"))
    edit = PartEdit(**{name: getattr(given, name) for name in SAME}, price=price, breaks=breaks)
    clock = read_clock(session())
    changed = edit_part(session(), number, edit, expected_changes=json.expected_changes, clock=clock, author_id=author_id())
    return schemas.PartEdited(changed=changed)
