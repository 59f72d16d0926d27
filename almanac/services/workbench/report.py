"""What the machine says of itself after the swap, compared with plan and written into the journal."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.workbench.acceptance import Comparison, compare, report_of
from almanac.core.workbench.entries import refusals
from almanac.core.workbench.journal import Entry, Standing
from almanac.exchange.machine_reports import ReportFault, read_report
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.services.workbench.lease import Device, locked_job, require_lease, write_entry
from almanac.services.workbench.planned import planned_figures
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import standing_of
from almanac.standins.machine import answer
from almanac.store.models import Asset


def take_report(session: Session, job_id: int, text: str, *, device: Device, clock: Clock, source: str = "pasted") -> list[Comparison]:
    """Read a machine's report and write it down; returns every figure against plan.

    Raises
    ------
    Refused : the text is no report that is understood · Stale : another device has the job · NotFound : there is no such job
    """
    try:
        found = read_report(text)
    except ReportFault as error:
        raise Refused(Fault("text", str(error))) from error
    job = locked_job(session, job_id)
    require_lease(session, job, device)
    plan, standing = restored(job.plan), standing_of(session, job)
    data: dict[str, Any] = {**_plain(asdict(found.report)), "source": source, "form": found.form}
    why = refusals(plan, standing, Entry("report", data))
    if why:
        raise Refused(*[Fault("text", reason) for reason in why])
    write_entry(session, job, "report", data, clock=clock, author_id=device.user_id)
    return compare(planned_figures(session, session.get_one(Asset, job.asset_id), standing), found.report)


def ask_stand_in(session: Session, job_id: int, *, fault: str | None, device: Device, clock: Clock) -> list[Comparison]:
    """Have the simulated machine answer, healthy or with a fault, and take its report like any other.

    Raises
    ------
    Refused, Stale, NotFound : as in take_report
    """
    job = locked_job(session, job_id)
    planned = planned_figures(session, session.get_one(Asset, job.asset_id), standing_of(session, job))
    return take_report(session, job_id, answer(planned, fault=fault), device=device, clock=clock, source="simulated machine")


def comparisons(session: Session, asset: Asset, standing: Standing) -> list[Comparison]:
    """The last report against plan; nothing where there is none."""
    if standing.report is None:
        return []
    return compare(planned_figures(session, asset, standing), report_of(standing.report))


def _plain(values: Mapping[str, Any]) -> dict[str, Any]:
    return {key: list(value) if isinstance(value, tuple) else value for key, value in values.items()}
