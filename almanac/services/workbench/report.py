"""What the machine says of itself after the swap, compared with plan and written into the journal."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.workbench.acceptance import Comparison, compare, cooler, fitted_otherwise
from almanac.core.workbench.entries import refusals
from almanac.core.workbench.journal import Entry, Standing
from almanac.core.workbench.reported import report_of
from almanac.exchange.reports.read import ReportFault, read_report
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.services.workbench.lease import Device, locked_job, require_lease, write_entry
from almanac.services.workbench.planned import planned_figures
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import standing_of
from almanac.standins.machine import answer
from almanac.store.models import Job


def take_report(session: Session, job_id: int, text: str, *, device: Device, clock: Clock, source: str = "pasted") -> list[Comparison]:
    """Read a machine's report and write it down; returns every figure against what was agreed, before a swap against the record.

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
    data: dict[str, Any] = {
        **_plain(asdict(found.report)),
        "source": source,
        "form": found.form,
        "missed": list(found.missed),
        "on": clock.today.isoformat(),
    }
    why = refusals(plan, standing, Entry("report", data))
    if why:
        raise Refused(*[Fault("text", reason) for reason in why])
    write_entry(session, job, "report", data, clock=clock, author_id=device.user_id)
    return comparisons(session, job, standing_of(session, job))


def ask_stand_in(session: Session, job_id: int, *, fault: str | None, device: Device, clock: Clock) -> list[Comparison]:
    """Have the simulated machine answer, healthy or with a fault, and take its report like any other.

    Raises
    ------
    Refused, Stale, NotFound : as in take_report
    """
    job = locked_job(session, job_id)
    planned = planned_figures(session, job, standing_of(session, job))
    return take_report(session, job_id, answer(planned, fault=fault), device=device, clock=clock, source="simulated machine")


def comparisons(session: Session, job: Job, standing: Standing) -> list[Comparison]:
    """The last report against what was agreed; without one, parts that went in in place of the agreed ones."""
    planned = planned_figures(session, job, standing)
    said = standing.report or (standing.report_before if not standing.swaps else None)
    if said is None:
        return fitted_otherwise(planned)
    cooled = heat_compared(standing.report_before, standing.report) if standing.swaps else []
    return [*compare(planned, report_of(said)), *cooled]


def heat_compared(before: Mapping[str, Any] | None, after: Mapping[str, Any] | None) -> list[Comparison]:
    """How hot the processor was before the swap and after it, where both reports say so."""
    was, now = (report_of(data).hottest_c if data else None for data in (before, after))
    return [] if was is None or now is None else [cooler(was, now)]


def _plain(values: Mapping[str, Any]) -> dict[str, Any]:
    return {key: list(value) if isinstance(value, tuple) else value for key, value in values.items()}
