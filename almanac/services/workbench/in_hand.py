"""What the records say of a part in the hand, before it goes into a machine (rule N12)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.parts.kinds import Kind, Verdict
from almanac.core.workbench.swap_answers import InHand, SwapAnswer, swap_answers
from almanac.services.errors import NotFound
from almanac.store import assets, jobs, shelves, units
from almanac.store.models import Asset, Job, Part, Position


def answer_swap(session: Session, job_id: int, position: str, part_number: str, serial: str) -> list[SwapAnswer]:
    """Answers about a part before it goes into a position of a job's machine.

    Raises
    ------
    NotFound : there is no such job, or its model has no such position
    """
    row = jobs.job_row(session, job_id)
    if row is None:
        raise NotFound(f"there is no job {job_id}")
    place = next((one for one in assets.positions_of_model(session, row.job.model_id) if one.key == position), None)
    if place is None:
        raise NotFound(f"{row.model} has no position {position}")
    return swap_answers(_in_hand(session, row.job, place, part_number.strip(), serial.strip(), row.site))


def answers_of(session: Session, job: Job, position: str, data: Mapping[str, Any]) -> list[SwapAnswer]:
    """The same of a swap as it is sent."""
    return answer_swap(session, job.id, position, str(data.get("part_number") or ""), str(data.get("serial") or ""))


def _in_hand(session: Session, job: Job, place: Position, number: str, serial: str, site: str) -> InHand:
    part = assets.part_by_number(session, number)
    if part is None:
        return InHand(None, number)
    fit = next((fit for fit, fitted in assets.fits_of(session, [place.id]).get(place.id, []) if fitted.id == part.id), None)
    known = units.by_serial(session, serial) if serial else None
    held = assets.open_tenures(session, job.asset_id)
    kinds = {one.id: one.kind for one in assets.positions_of_model(session, job.model_id)}
    beside = [held_part.number for at, (_, held_part, _) in held.items() if kinds.get(at) == place.kind and at != place.id]
    at, away = _place_of(session, known.id, job) if known is not None else (None, False)
    shelf = shelves.shelf_at(session, part.id, job.site_id)
    return InHand(
        part=part.number,
        asked=number,
        kind=Kind(part.kind),
        wanted=Kind(place.kind),
        fit=Verdict(fit.verdict) if fit else None,
        reason=fit.reason if fit else "",
        serial=serial,
        serial_part=session.get_one(Part, known.part_id).number if known is not None else None,
        serial_at=at,
        away=away,
        shelf=shelves.balance(session, shelf.id, Bucket.ON_HAND) if shelf else 0,
        site=site,
        beside=beside,
    )


def _place_of(session: Session, unit_id: int, job: Job) -> tuple[str, bool]:
    """Where a unit is, in words, and whether no part is taken from there."""
    tenure = units.open_tenure(session, unit_id)
    if tenure is None:
        last = units.last_left(session, unit_id)
        return (f"as {last.replace('_', ' ')}", last in (Bucket.QUARANTINE, Bucket.SCRAPPED)) if last else ("in no machine", False)
    if tenure.asset_id == job.asset_id:
        return "in this machine", False
    return f"in {session.get_one(Asset, tenure.asset_id).tag}", True
