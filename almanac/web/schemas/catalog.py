"""Parts to edit, and what was changed."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from almanac.web.schemas.base import Schema


class PartFields(Schema):
    """A part as it stands or should be. price_breaks : 10:17.50; 50:16 · lead_time : of its supplier, 18:0.25; 21:0.75"""

    name: str = Field(max_length=200)
    price: float = Field(ge=0, lt=1e9)
    pack: int
    minimum_order: int
    shelf_life_days: int | None
    end_of_supply_on: date | None
    warranty_days: int | None
    price_breaks: str = Field(default="", max_length=300)
    lead_time: str = Field(max_length=200)


class CatalogChangeView(Schema):
    changed_on: date
    field: str
    before: str
    after: str
    author: str | None


class PartToEdit(Schema):
    """`shared_by` counts other parts of the same supplier: its lead time is theirs, too."""

    fields: PartFields
    supplier: str
    shared_by: int
    number_of_changes: int
    changes: list[CatalogChangeView]


class PartEditIn(Schema):
    fields: PartFields
    expected_changes: int


class PartEdited(Schema):
    changed: int
