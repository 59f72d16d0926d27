"""Labels for the simulated scanner: machines of the fleet, and the parts of a job."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.core.workbench.journal import Standing
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import standing_of
from almanac.standins.scanner import Label, part_label
from almanac.store import assets, jobs

MOST = 6


def machine_labels(session: Session) -> list[Label]:
    """Asset tags of a few machines in service, spread over the fleet."""
    return [Label(f"{row.tag}, {row.model}", row.tag) for row in assets.some_machines(session, MOST)]


def job_labels(session: Session, job_id: int) -> list[Label]:
    """The machine's tag, and for each position to change the label of a new part and of the old one."""
    row = jobs.job_row(session, job_id)
    if row is None:
        return []
    standing: Standing = standing_of(session, row.job)
    found = [Label("the machine", row.tag)]
    positions = {item.key: item for item in assets.positions_of_model(session, row.job.model_id)}
    held = assets.open_tenures(session, row.job.asset_id)
    for step in restored(row.job.plan).steps:
        place = positions.get(step.position or "")
        if place is None or place.key in standing.swaps:
            continue
        old = held.get(place.id)
        fits = [part for fit, part in assets.fits_of(session, [place.id]).get(place.id, []) if fit.verdict == "yes"]
        if fits:
            found.append(part_label(fits[0].number, f"new part for {place.label}", f"job {job_id}"))
        if old is not None:
            known = old[2].serial
            label = part_label(old[1].number, f"old part of {place.label}", f"unit {old[2].id}")
            found.append(Label(label.words, known or label.text))
    return found
