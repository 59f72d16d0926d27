"""Sites and models that a machine list brings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from almanac.core.parts.kinds import Environment
from almanac.services.errors import Fault, Refused
from almanac.services.intake.subject import By, Kept
from almanac.services.pages.save import PageChange, save_page
from almanac.store import intake as store
from almanac.store.models import DeviceModel, Site
from almanac.store.settings import settings_on

REASON = "named by the company's machine list"


def add_site(session: Session, values: Any, by: By) -> Kept:
    """A site in the company's time zone, taken for an office until somebody says otherwise."""
    zone = str(settings_on(session, by.clock.today).value("time_zone", default="UTC"))
    site = Site(time_zone=zone, environment=Environment.OFFICE.value, **values)
    session.add(site)
    session.flush()
    return {"group": "new", "what": "site", "id": site.id}


def add_model(session: Session, values: Mapping[str, Any], by: By) -> int:
    """A model with a page of its positions, as far as they were said; returns its number."""
    page = {"page_format": 1, **{name: values[name] for name in ("maker", "name", "family", "form", "positions")}}
    return save_page(session, PageChange(page, REASON, None, draft=False), clock=by.clock, author_id=by.author_id).model_id


def take_back(session: Session, rows: Sequence[Kept]) -> list[str]:
    """Take sites back; returns the names of models, which stay.

    Raises
    ------
    Refused : a site at which something else was recorded since
    """
    sites = [int(row["id"]) for row in rows if row["what"] == "site"]
    used = store.sites_used(session, sites)
    if used:
        raise Refused(Fault("intake", f"at {', '.join(used)} something was recorded since: it stays, so undo what came after first"))
    session.execute(delete(Site).where(Site.id.in_(sites)))
    models = [int(row["id"]) for row in rows if row["what"] == "model"]
    return [
        f"{maker} {name}" for maker, name in session.execute(select(DeviceModel.maker, DeviceModel.name).where(DeviceModel.id.in_(models)))
    ]
