"""Keeping sites, suppliers and the company's own description up; every change stays on record with who made it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from zoneinfo import available_timezones

from sqlalchemy.orm import Session

from almanac.core.days import beyond_reason
from almanac.core.parts.kinds import Environment
from almanac.services.catalog_edit import lead_words
from almanac.services.change_log import in_words, note_changes
from almanac.services.clock import Clock
from almanac.services.company_settings import describe_company
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.importing.cells import CellFault, lead_time
from almanac.store import catalog, changes, company
from almanac.store.changes import ChangeRow
from almanac.store.models import Site, Supplier
from almanac.store.settings import settings_on

COMPANY = "company"
SITE_WORDS = {"name": "name", "time_zone": "time zone", "environment": "air", "log_began_on": "repairs written down since"}
LONGEST_NAME = 80


@dataclass(frozen=True)
class SiteEdit:
    """A site as it should be. code : of a new one; another's never changes, for it is on labels and in lists"""

    name: str
    time_zone: str
    environment: str
    log_began_on: date
    code: str = ""


@dataclass(frozen=True)
class SupplierEdit:
    """A supplier as it should be. lead_time : days with weights such as 18:0.25; 21:0.75, or days alone"""

    name: str
    lead_time: str


@dataclass(frozen=True)
class Described:
    """What the company is called, its currency and its time zone."""

    name: str
    currency: str
    time_zone: str


@dataclass(frozen=True)
class SiteRow:
    """A site with how many machines stand there. number_of_changes : what an edit has to name"""

    site: Site
    machines: int
    number_of_changes: int


@dataclass(frozen=True)
class SupplierRow:
    """A supplier with how many parts it sells."""

    supplier: Supplier
    lead_time: str
    parts: int
    number_of_changes: int


@dataclass(frozen=True)
class CompanyPage:
    """The company as it stands, and what was changed of it lately."""

    described: Described
    number_of_changes: int
    sites: list[SiteRow]
    suppliers: list[SupplierRow]
    changes: list[tuple[str, ChangeRow]]


def read_company(session: Session, clock: Clock) -> CompanyPage:
    """The company, its sites and suppliers."""
    machines, parts = company.machines_by_site(session), company.parts_by_supplier(session)
    counts = changes.counts(session)
    sites = [SiteRow(site, machines.get(site.id, 0), counts.get(f"site {site.code}", 0)) for site in catalog.sites(session)]
    suppliers = [
        SupplierRow(one, lead_words(one), parts.get(one.id, 0), counts.get(f"supplier {one.name}", 0))
        for one in sorted(catalog.suppliers(session).values(), key=lambda one: one.name)
    ]
    subjects = [COMPANY, *(f"site {row.site.code}" for row in sites), *(f"supplier {row.supplier.name}" for row in suppliers)]
    return CompanyPage(_described(session, clock), counts.get(COMPANY, 0), sites, suppliers, changes.latest(session, subjects))


def _described(session: Session, clock: Clock) -> Described:
    own = settings_on(session, clock.today)
    return Described(
        str(own.value("company_name", default="")), str(own.value("currency", default="EUR")), str(own.value("time_zone", default="UTC"))
    )


def edit_company(session: Session, wanted: Described, *, expected_changes: int, clock: Clock, author_id: int) -> int:
    """Describe the company anew; returns how many fields were changed.

    Raises
    ------
    Stale : it was changed meanwhile · Refused : a currency or time zone that does not exist, or no name
    """
    _fresh(session, COMPANY, expected_changes)
    before = _described(session, clock)
    describe_company(session, clock=clock, name=wanted.name, currency=wanted.currency, time_zone=wanted.time_zone, author_id=author_id)
    names = {"name": "name", "currency": "currency", "time_zone": "time zone"}
    fields = [(words, getattr(before, name), getattr(wanted, name).strip()) for name, words in names.items()]
    return note_changes(session, COMPANY, fields, clock=clock, author_id=author_id)


def _fresh(session: Session, subject: str, expected: int) -> None:
    if changes.count_of(session, subject) != expected:
        raise Stale("this was changed meanwhile: read it again, then decide")


def edit_site(session: Session, code: str, wanted: SiteEdit, *, expected_changes: int, clock: Clock, author_id: int) -> int:
    """Make a site what it should be; returns how many fields were changed.

    A log that began on another day moves the day from which the lives of the parts there are under watch.

    Raises
    ------
    NotFound : no such site · Stale : it was changed meanwhile · Refused : what cannot be, each with its place
    """
    site = next((one for one in catalog.sites(session) if one.code == code.upper()), None)
    if site is None:
        raise NotFound(f"no site has the code {code}")
    _fresh(session, f"site {site.code}", expected_changes)
    faults = _site_faults(session, wanted, clock, own=site)
    if faults:
        raise Refused(*faults)
    before = {name: in_words(getattr(site, name)) for name in SITE_WORDS}
    if wanted.log_began_on != site.log_began_on:
        company.watch_since(session, site.id, was=site.log_began_on, now=wanted.log_began_on)
    for name in SITE_WORDS:
        setattr(site, name, getattr(wanted, name).strip() if name == "name" else getattr(wanted, name))
    fields = [(words, before[name], in_words(getattr(site, name))) for name, words in SITE_WORDS.items()]
    return note_changes(session, f"site {site.code}", fields, clock=clock, author_id=author_id)


def add_site(session: Session, wanted: SiteEdit, *, clock: Clock, author_id: int) -> str:
    """Add a site, the depot where there is none yet; returns its code.

    Raises
    ------
    Refused : a code that is taken or none, or what cannot be, each with its place
    """
    code = wanted.code.strip().upper()
    faults = _site_faults(session, wanted, clock, own=None)
    if not re.fullmatch(r"[A-Z0-9]{2,8}", code):
        faults.append(Fault("code", "two to eight letters and digits were wanted, such as ELD"))
    elif any(site.code == code for site in catalog.sites(session)):
        faults.append(Fault("code", f"{code} is another site's"))
    if faults:
        raise Refused(*faults)
    first = not any(site.is_depot for site in catalog.sites(session))
    values = {name: getattr(wanted, name) for name in SITE_WORDS} | {"name": wanted.name.strip()}
    session.add(Site(code=code, is_depot=first, **values))
    note_changes(session, f"site {code}", [("site", "none", wanted.name.strip())], clock=clock, author_id=author_id)
    return code


def _site_faults(session: Session, wanted: SiteEdit, clock: Clock, *, own: Site | None) -> list[Fault]:
    faults = _name_faults(wanted.name, {site.name.lower() for site in catalog.sites(session) if site is not own})
    if wanted.time_zone not in available_timezones():
        faults.append(Fault("time_zone", f"an IANA time zone such as UTC was wanted, got {wanted.time_zone!r}"))
    if wanted.environment not in set(Environment):
        faults.append(Fault("environment", f"one of {', '.join(Environment)} was wanted"))
    if wanted.log_began_on > clock.today:
        faults.append(Fault("log_began_on", "a day up to today was wanted"))
    elif wrong := beyond_reason(wanted.log_began_on):
        faults.append(Fault("log_began_on", wrong))
    elif own is not None and (first := company.first_incident(session, own.id)) is not None and wanted.log_began_on > first:
        faults.append(Fault("log_began_on", f"an incident of {in_words(first)} is on record there: the log began no later"))
    return faults


def _name_faults(name: str, taken: set[str]) -> list[Fault]:
    said = name.strip()
    if not said or len(said) > LONGEST_NAME:
        return [Fault("name", f"a name of up to {LONGEST_NAME} letters was wanted")]
    return [Fault("name", f"{said} is another's name")] if said.lower() in taken else []


def edit_supplier(session: Session, supplier_id: int, wanted: SupplierEdit, *, expected_changes: int, clock: Clock, author_id: int) -> int:
    """Make a supplier what it should be; returns how many fields were changed.

    Raises
    ------
    NotFound : no such supplier · Stale : it was changed meanwhile · Refused : what cannot be, each with its place
    """
    every = catalog.suppliers(session)
    supplier = every.get(supplier_id)
    if supplier is None:
        raise NotFound(f"there is no supplier {supplier_id}")
    _fresh(session, f"supplier {supplier.name}", expected_changes)
    lead = _supplier_checked(wanted, every, own=supplier_id)
    name = wanted.name.strip()
    fields = [("name", supplier.name, name), ("stated lead time", lead_words(supplier), lead_words(Supplier(name="", lead_time=lead)))]
    supplier.name, supplier.lead_time = name, lead
    return note_changes(session, f"supplier {name}", fields, clock=clock, author_id=author_id)


def add_supplier(session: Session, wanted: SupplierEdit, *, clock: Clock, author_id: int) -> int:
    """Add a supplier; returns its number.

    Raises
    ------
    Refused : a name that is taken or none, or days that cannot be
    """
    lead = _supplier_checked(wanted, catalog.suppliers(session), own=None)
    supplier = Supplier(name=wanted.name.strip(), lead_time=lead)
    session.add(supplier)
    session.flush()
    note_changes(session, f"supplier {supplier.name}", [("supplier", "none", lead_words(supplier))], clock=clock, author_id=author_id)
    return supplier.id


def _supplier_checked(wanted: SupplierEdit, every: Mapping[int, Supplier], *, own: int | None) -> list[dict[str, float]]:
    faults = _name_faults(wanted.name, {one.name.lower() for number, one in every.items() if number != own})
    try:
        lead = lead_time(wanted.lead_time)
    except CellFault as fault:
        raise Refused(*faults, Fault("lead_time", str(fault))) from fault
    if faults:
        raise Refused(*faults)
    return lead
