"""One pool of a kind: every life its rate is counted from, and what each adds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.life.accepted import Accepted, OwnLot, since_of
from almanac.core.life.life_data import DUTIES
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.services.alarms.decided import accepted_of, day_number
from almanac.services.errors import NotFound
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.rates.kind import DAYS_A_YEAR, PoolName
from almanac.store.pool_lives import LifeRow, pool_lives


@dataclass(frozen=True)
class PoolLives:
    """Every life of a pool, ended ones first, and what they add up to: years at risk, confirmed and open failures, and lives left out.

    before : lives that ended before the day from which evidence counts, for an alarm was accepted; they are not among the rows
    """

    kind: str
    name: PoolName
    rows: list[LifeRow]
    exposure_years: float
    confirmed: int
    open: int
    left_out: int
    before: int = 0


def years_at_risk(row: LifeRow) -> float:
    """Years of wear-out exposure of a life, a find in the middle of its two ages; none where it ended before it was under observation."""
    until = row.exit_age if row.seen_good is None else (row.seen_good + row.exit_age) / 2
    return max(until - row.from_age, 0) / DAYS_A_YEAR


def counted_as(row: LifeRow) -> str:
    """What a life adds beside its time at risk: a key of the words the interface has for it."""
    if years_at_risk(row) == 0:
        return "left_out"
    if row.finding is None:
        return "in_service" if row.in_service else "ended"
    if row.finding in ("confirmed", "open"):
        return row.finding if row.age_days > DEAD_ON_ARRIVAL_DAYS else "dead_on_arrival"
    return row.finding


def read_pool(session: Session, name: PoolName) -> PoolLives:
    """The lives of a pool by the names a reader sees.

    Raises
    ------
    NotFound : no such stock part, or no such model
    """
    inputs = read_inputs(session)
    part_id = next((part.id for part in inputs.parts if part.number == name.part), None)
    if part_id is None:
        raise NotFound(f"{name.part} is no stock part")
    every = pool_lives(
        session,
        parts=inputs.members(part_id),
        model_id=_model(inputs, name.model),
        duty=name.duty,
        air=name.air,
        as_of=inputs.clock.today,
        known_at=inputs.clock.now,
    )
    decided = accepted_of(session)
    own = [row for row in every if _lot(row, decided) == name.lot]
    rows = [row for row in (_counted(row, inputs, name, decided) for row in own) if row is not None]
    added = [counted_as(row) for row in rows]
    return PoolLives(
        kind=next(part.kind for part in inputs.parts if part.id == part_id),
        name=name,
        rows=rows,
        exposure_years=sum(map(years_at_risk, rows)),
        confirmed=added.count("confirmed"),
        open=added.count("open"),
        left_out=added.count("left_out"),
        before=len(own) - len(rows),
    )


def _lot(row: LifeRow, decided: Mapping[int, Accepted]) -> date | None:
    """The lot of its own that a life is in."""
    own = {one.made for one in decided.get(row.part_id, ()) if isinstance(one, OwnLot)}
    return row.made_on if row.made_on is not None and day_number(row.made_on) in own else None


def _counted(row: LifeRow, inputs: Inputs, name: PoolName, decided: Mapping[int, Accepted]) -> LifeRow | None:
    """A life from the day on from which evidence counts; None where it ended before."""
    model, duty = _model(inputs, name.model), DUTIES.index(name.duty)
    since = since_of(decided.get(row.part_id, ()), row.part_id, model, duty, row.site_id)
    if since is None:
        return row
    last = day_number(row.last_on)
    if last <= since:
        return None
    entry = max(row.entry_age, row.exit_age - (last - since))
    return row._replace(entry_age=entry, from_age=max(row.from_age, entry))


def _model(inputs: Inputs, wanted: str) -> int:
    for model in inputs.models.values():
        if f"{model.maker} {model.name}" == wanted:
            return model.id
    raise NotFound(f"{wanted} is no model of the fleet")
