"""How packs and drives fade: curves of part groups, and every unit that is followed by readings."""

from __future__ import annotations

from flask import Blueprint

from almanac.core.life.fade.curves import KNEE, LEVEL, STRAIGHT
from almanac.core.parts.declared.kinds import WORN
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.fade import FadedPart
from almanac.services.outlook.summary import read_builder
from almanac.services.outlook.wear import Wear, WearUnit, wear_of
from almanac.store.models import Role
from almanac.store.planning import StockPart
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import fade as schemas
from almanac.web.schemas.outlook import ReadingPoint, SiteQuery
from almanac.web.views.outlook_words import model_name

blueprint = Blueprint("fade", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/fade", access=Role.READER, replies=schemas.FadeView, kept="dear")
def fade_of_parts() -> schemas.FadeView:
    """Stock parts with units that are followed by readings, the one of which most are expected to be worn first."""
    builder = read_builder(session())
    parts = [part for part in builder.inputs.parts if part.kind in WORN]
    found = [(part, wear) for part in parts if (wear := wear_of(builder, part.number)).units]
    found.sort(key=lambda row: (row[1].usable == 0, -(row[1].by_readings or 0.0), row[0].number))
    return schemas.FadeView(as_of=builder.inputs.clock.today, parts=[_line(part, wear) for part, wear in found])


@endpoint(blueprint, "/outlook/parts/<number>/wear", access=Role.READER, replies=schemas.WearView, kept="dear")
def part_wear(number: str, query: SiteQuery) -> schemas.WearView:
    """Readings of the part's units in service, how they fade, and what that changes in the forecast."""
    builder = read_builder(session(), site_code=query.site)
    found = wear_of(builder, number)
    return schemas.WearView(
        as_of=builder.inputs.clock.today,
        threshold=found.threshold,
        usable=found.usable,
        by_readings=found.by_readings,
        by_age=found.by_age,
        beside=found.beside,
        curves=_curves(found.faded),
        units=[_unit(row, builder) for row in found.units],
    )


def _line(part: StockPart, wear: Wear) -> schemas.FadeLine:
    return schemas.FadeLine(
        number=part.number,
        name=part.name,
        kind=part.kind,
        units=len(wear.units),
        usable=wear.usable,
        due=sum(row.due for row in wear.units),
        expected=wear.by_readings,
        straight=wear.faded.curves.learnt.weight[STRAIGHT] if wear.faded is not None and wear.faded.curves is not None else None,
    )


def _curves(faded: FadedPart | None) -> schemas.FadeCurves | None:
    if faded is None or faded.curves is None or faded.band is None:
        return None
    band, weight = faded.band, faded.curves.learnt.weight
    return schemas.FadeCurves(
        straight=weight[STRAIGHT],
        level=weight[LEVEL],
        knee=weight[KNEE],
        bends_after=None if band.knee is None else list(band.knee),
        steeper=band.steeper,
        band=[
            schemas.BandPoint(years=float(years), low=float(low), middle=float(middle), high=float(high))
            for years, low, middle, high in zip(band.years, *band.shares, strict=True)
        ],
        together=faded.curves.together,
    )


def _unit(row: WearUnit, builder: OutlookBuilder) -> schemas.WearUnitView:
    followed = row.unit.followed
    return schemas.WearUnitView(
        tag=followed.row.tag,
        model=model_name(builder, row.unit.pool.model_id),
        readings=[ReadingPoint(day=reading.day, share=reading.share) for reading in followed.readings],
        age_days=followed.row.age_days,
        age_span=followed.row.age_span,
        fades=None if row.fades is None else schemas.FadesView.model_validate(row.fades),
        due=row.due,
        crosses_on=row.crosses.day if row.crosses else None,
        low=row.crosses.low if row.crosses else None,
        high=row.crosses.high if row.crosses else None,
        reason=row.unit.reason,
    )
