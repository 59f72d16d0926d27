"""How well the forecasts have done."""

from __future__ import annotations

from flask import Blueprint

from almanac.services.calibration.backtest import Backtest, Held, backtest
from almanac.services.calibration.summary import Marks, marks_of, quarters_of
from almanac.store.models import Role
from almanac.web.api import KEPT, endpoint
from almanac.web.database import session
from almanac.web.kept import known_reply
from almanac.web.schemas import calibration as schemas

blueprint = Blueprint("calibration", __name__, url_prefix="/api/v1")
WORST = 12


@endpoint(blueprint, "/calibration", access=Role.READER, replies=schemas.CalibrationView, kept="slow")
def calibration() -> schemas.CalibrationView:
    """The backtest: every quarter as it would have been forecast at its start."""
    found = backtest(session())
    return schemas.CalibrationView(
        quarters_tried=found.quarters,
        first=min((held.origin for held in found.held), default=None),
        marks=[_marks(marks) for marks in marks_of(found)],
        quarters=[schemas.QuarterView.model_validate(quarter) for quarter in quarters_of(found)],
        worst=_worst(found),
    )


@endpoint(blueprint, "/calibration/told", access=Role.READER, replies=schemas.CalibrationTold)
def calibration_told() -> schemas.CalibrationTold:
    """The backtest where it is known: nothing is computed for a sentence beside something else."""
    known = known_reply(KEPT["calibration"], {})
    return schemas.CalibrationTold(found=schemas.CalibrationView.model_validate_json(known) if known else None)


def _marks(marks: Marks) -> schemas.MarksView:
    plain = schemas.PlainCoverage(forecasts=marks.plain[0], inside=marks.plain[1]) if marks.plain else None
    return schemas.MarksView(**{**marks.__dict__, "plain": plain})


def _worst(found: Backtest) -> list[schemas.HeldView]:
    """Where what was drawn lay furthest out in its forecast."""
    parts = {part.id: part for part in found.inputs.parts}

    def place(held: Held) -> float:
        return (held.scored.low + held.scored.high) / 2

    far = sorted(found.held, key=lambda held: -abs(place(held) - 0.5))[:WORST]
    return [
        schemas.HeldView(
            part=parts[held.part_id].number,
            name=parts[held.part_id].name,
            kind=parts[held.part_id].kind,
            start=held.origin,
            expected=held.scored.mean,
            seen=held.scored.seen,
            place=place(held),
            last_year=held.last_year,
            fixed_share=held.fixed_share,
        )
        for held in far
    ]
