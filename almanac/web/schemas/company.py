"""The company's own description, its sites and suppliers."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from almanac.core.parts.kinds import Environment
from almanac.services.first_day import Stand
from almanac.web.schemas.base import Schema
from almanac.web.schemas.catalog import CatalogChangeView


class CompanyFields(Schema):
    name: str = Field(max_length=80)
    currency: str = Field(max_length=3)
    time_zone: str = Field(max_length=60)


class SiteFields(Schema):
    """A site as it stands or should be. log_began_on : since when every repair there is written down"""

    name: str = Field(max_length=80)
    time_zone: str = Field(max_length=60)
    environment: Environment
    log_began_on: date


class SiteView(Schema):
    code: str
    is_depot: bool
    machines: int
    number_of_changes: int
    fields: SiteFields


class SupplierFields(Schema):
    """A supplier as it stands or should be. lead_time : 18:0.25; 21:0.75, or days alone"""

    name: str = Field(max_length=80)
    lead_time: str = Field(max_length=200)


class SupplierView(Schema):
    id: int
    parts: int
    number_of_changes: int
    fields: SupplierFields


class CompanyChangeView(Schema):
    subject: str
    change: CatalogChangeView


class CompanyView(Schema):
    fields: CompanyFields
    number_of_changes: int
    sites: list[SiteView]
    suppliers: list[SupplierView]
    changes: list[CompanyChangeView]


class FirstDayStep(Schema):
    """A step from an empty company to its first order. said : what is on record · lacks : what it still lacks, empty for nothing"""

    name: str
    what: str
    stand: Stand
    said: str
    lacks: str
    goes_to: str


class FirstDayView(Schema):
    steps: list[FirstDayStep]


class CompanyEditIn(Schema):
    fields: CompanyFields
    expected_changes: int


class SiteEditIn(Schema):
    fields: SiteFields
    expected_changes: int


class SiteAddIn(Schema):
    code: str = Field(max_length=8)
    fields: SiteFields


class SupplierEditIn(Schema):
    fields: SupplierFields
    expected_changes: int


class CompanyEdited(Schema):
    changed: int


class SiteAdded(Schema):
    code: str


class SupplierAdded(Schema):
    id: int


class ArchiveRead(Schema):
    """What a whole company brought: rows of all tables, and some of them."""

    rows: int
    machines: int
    incidents: int
    parts: int
