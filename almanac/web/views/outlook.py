"""The outlook, the plate of a part, the entries behind a figure, and the buying list."""

from __future__ import annotations

from flask import Blueprint, Response

from almanac.core.life.record import Stream
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.stock.reorder import Measure
from almanac.exchange.tables import write_csv
from almanac.services.alarms.decide import accepted_since
from almanac.services.buying_list import BUYING_COLUMNS, LOADING_COLUMNS, buying_pdf, buying_rows, loading_rows
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.fitted import school_of
from almanac.services.outlook.others import OtherPart, read_others
from almanac.services.outlook.plate import Plate
from almanac.services.outlook.pools import DAYS_PER_YEAR
from almanac.services.outlook.since import changes_of
from almanac.services.outlook.summary import Outlook, read_builder, read_entries, read_outlook, read_plate
from almanac.services.readings import ReadingRequest, add_reading
from almanac.store import catalog
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import commit, session
from almanac.web.pins import EXPORT, pin_reply
from almanac.web.schemas import outlook as schemas
from almanac.web.schemas.behind import BehindEntries, BehindEntry, EntriesQuery
from almanac.web.schemas.others import OtherPartView, OthersView
from almanac.web.schemas.part_decisions import KeptLaterView, StockingView
from almanac.web.views.outlook_words import last_buy_view, model_name, other_order, part_setting, pool_view, row_view, step_view

blueprint = Blueprint("outlook", __name__, url_prefix="/api/v1/outlook")


@endpoint(blueprint, "", access=Role.READER, replies=schemas.OutlookView, kept="dear")
def outlook(query: schemas.SiteQuery) -> schemas.OutlookView:
    """What will fail, which shelf runs dry when, what to order by which day."""
    found = read_outlook(session(), site_code=query.site)
    settings = found.inputs.settings
    return schemas.OutlookView(
        as_of=found.inputs.clock.today,
        site=query.site,
        failing_soon=found.failing_soon,
        soon_until=found.soon_until,
        to_order=found.orders,
        to_load=len(found.to_load),
        boats=found.boats,
        waiting=found.waiting,
        thin=found.thin,
        unsaid=[schemas.UnsaidView.model_validate(item) for item in found.unsaid],
        next_order_on=found.next_order_on,
        unrecorded=found.unrecorded,
        stated=found.stated,
        target=schemas.SettingInForce(value=settings.value("target", default=0.95), number=settings.number("company", "", "target")),
        measure=str(settings.value("measure", default=Measure.FILL.value)),
        review_days=schemas.SettingInForce(
            value=settings.value("review_days", default=14), number=settings.number("company", "", "review_days")
        ),
        schools=_schools(found.builder),
        months=[step_view(step) for step in found.builder.steps],
        lines=[row_view(row, found.builder) for row in found.rows],
        other_orders=[other_order(other, found.builder) for other in found.others],
        leaves={site.code: day for site in found.inputs.sites if (day := found.inputs.leaves.get(site.id)) is not None},
    )


@endpoint(blueprint, "/others", access=Role.READER, replies=OthersView, kept="cheap")
def others() -> OthersView:
    """Other parts than the four kinds, by what was drawn of them and of what they are ordered for."""
    depot = next((site.code for site in catalog.sites(session()) if site.is_depot), None)
    return OthersView(depot=depot, parts=[_other(one) for one in read_others(session())])


def _other(one: OtherPart) -> OtherPartView:
    row, plan = one.row, one.plan
    return OtherPartView(
        number=row.number,
        name=row.name,
        kind=row.kind,
        places=row.places,
        served_years=row.days / DAYS_PER_YEAR,
        direct=row.direct,
        moved=one.moved,
        rate=plan.rate.rate if plan else None,
        low=plan.rate.low if plan else None,
        high=plan.rate.high if plan else None,
        a_year=plan.a_year if plan else None,
        on_hand=one.on_hand,
        coming=one.coming,
        promised=one.promised,
        position=one.position,
        order_at=plan.policy.s if plan else None,
        most=plan.policy.most if plan else None,
        fill=plan.fill if plan else None,
        quantity=one.quantity,
        cost=float(row.price) * one.quantity,
    )


@endpoint(blueprint, "/buying-list.csv", access=Role.READER, replies=None)
def buying_list(query: schemas.SiteQuery) -> Response:
    """Every order that is due, as CSV, earliest first."""
    found = _exported(query.site)
    body = write_csv(BUYING_COLUMNS, buying_rows(found))
    name = f"buying-list-{found.inputs.clock.today.isoformat()}.csv"
    return Response(body, mimetype="text/csv", headers={"Content-Disposition": f'attachment; filename="{name}"'})


@endpoint(blueprint, "/loading-list.csv", access=Role.READER, replies=None)
def loading_list(query: schemas.SiteQuery) -> Response:
    """What leaves with the next boats, by site, as CSV."""
    found = _exported(query.site)
    name = f"loading-list-{found.inputs.clock.today.isoformat()}.csv"
    body = write_csv(LOADING_COLUMNS, loading_rows(found))
    return Response(body, mimetype="text/csv", headers={"Content-Disposition": f'attachment; filename="{name}"'})


@endpoint(blueprint, "/buying-list.pdf", access=Role.READER, replies=None)
def buying_list_pdf(query: schemas.SiteQuery) -> Response:
    """The same list to print and tick off."""
    return Response(buying_pdf(_exported(query.site)), mimetype="application/pdf")


def _exported(site: str | None) -> Outlook:
    """The outlook that a list is made of; its reply is pinned, where one is kept, so that the list can be reopened as it was."""
    found = read_outlook(session(), site_code=site)
    clock = found.inputs.clock
    given = {"path": {}, "given": {"site": site}}
    if pin_reply(None, "outlook", given, act=EXPORT, subject=f"buying-list-{clock.today.isoformat()}", clock=clock):
        commit()
    return found


@endpoint(blueprint, "/changes", access=Role.READER, replies=schemas.ChangesView, kept="dear")
def changes(query: schemas.ChangesQuery) -> schemas.ChangesView:
    """What changed in the demand of a kind's parts since a month ago, and why."""
    kinds = [kind.value for kind in FORECAST_KINDS]
    if query.kind not in kinds:
        raise Refused(Fault("kind", f"one of {', '.join(kinds)} was wanted, got {query.kind}"))
    builder = read_builder(session(), site_code=query.site)
    since, found = changes_of(session(), builder, query.kind)
    parts = {part.id: part for part in builder.inputs.parts}
    return schemas.ChangesView(
        since=since,
        kind=query.kind,
        unsaid=sum(part.kind == query.kind for part in builder.inputs.parts) - len(found),
        accepted=accepted_since(session(), builder.inputs, query.kind, since),
        parts=[
            schemas.ChangeView(
                part=parts[one.part_id].number,
                name=parts[one.part_id].name,
                before=one.before,
                ageing=one.ageing,
                fleet=one.fleet,
                log=one.log,
                settings=one.settings,
                now=one.now,
            )
            for one in found
        ],
    )


@endpoint(blueprint, "/parts/<number>", access=Role.READER, replies=schemas.PlateView, kept="dear")
def plate(number: str, query: schemas.SiteQuery) -> schemas.PlateView:
    """One stock part: plan, demand, contributions, pools and the working of every figure."""
    found, builder = read_plate(session(), number, site_code=query.site)
    inputs, row, made = builder.inputs, found.row, found.made
    today = inputs.clock.today
    return schemas.PlateView(
        as_of=today,
        site=query.site,
        line=row_view(row, builder),
        supplier=inputs.suppliers[row.part.supplier_id].name,
        lead_days=row.policy.lead.median_days,
        pack=row.policy.pack,
        minimum_order=row.policy.minimum_order,
        expires=row.part.shelf_life_days is not None,
        models=len({pool.pool.model_id for pool in made.pools}),
        steps=[step_view(step) for step in builder.steps],
        months=[
            schemas.MonthDemandView(
                first_on=month.step.first_on,
                last_on=month.step.last_on,
                expected=month.expected,
                low=month.low,
                median=month.median,
                high=month.high,
            )
            for month in made.months
        ],
        streams=schemas.StreamsView.model_validate(row.projection.year) if row.projection.year else None,
        by_model=[schemas.ModelShare(model_id=m, model=model_name(builder, m), expected=expected) for m, expected in made.by_model],
        played=schemas.YearPlayedView.model_validate(made.played) if made.played else None,
        pools=[pool_view(pool, builder) for pool in made.pools],
        open_lines=_open_lines(found, builder),
        schools=[schemas.SchoolDemand.model_validate(school) for school in made.schools],
        school_reason=made.school_reason,
        working=[schemas.WorkingSectionView.model_validate(section) for section in made.working],
        later=[KeptLaterView.model_validate(one) for one in made.decisions.later],
        stocking=StockingView.model_validate(made.decisions.stocking) if made.decisions.stocking else None,
        last_buy=last_buy_view(made.decisions.last_buy, row, today),
        target=part_setting(builder, row, "target", 0.95),
        when_needed=part_setting(builder, row, "when_needed", ""),
    )


@endpoint(blueprint, "/parts/<number>/entries", access=Role.READER, replies=BehindEntries)
def entries(number: str, query: EntriesQuery) -> BehindEntries:
    """The log entries behind one figure of a part's working."""
    if query.stream not in set(Stream):
        raise Refused(Fault("stream", f"one of {', '.join(Stream)} was wanted, got {query.stream}"))
    rows = read_entries(session(), number, Stream(query.stream))
    return BehindEntries(
        stream=query.stream,
        entries=[
            BehindEntry(
                incident_id=row.incident_id,
                occurred_on=row.occurred_on,
                tag=row.tag,
                model=row.model,
                site=row.site,
                finding=row.finding,
                age_days=row.age_days,
                age_span_days=row.age_span_days,
            )
            for row in rows
        ],
    )


def _schools(builder: OutlookBuilder) -> list[schemas.KindSchool]:
    settings = builder.inputs.settings
    found = {kind: school_of(builder.fitted(kind).content.wear, _wanted(builder, kind)) for kind in builder.inputs.kinds()}
    return [
        schemas.KindSchool(
            kind=kind,
            school=school.name,
            wear_out=school.wear_out,
            early_life=school.early_life,
            reason=school.reason,
            wanted=_wanted(builder, kind),
            number=settings.number("kind", kind, "school"),
        )
        for kind, school in found.items()
    ]


def _wanted(builder: OutlookBuilder, kind: str) -> str:
    return str(builder.inputs.settings.value("school", kind=kind, default="auto"))


def _open_lines(found: Plate, builder: OutlookBuilder) -> list[schemas.OpenLineView]:
    today = builder.inputs.clock.today
    return [
        schemas.OpenLineView(
            id=entry.id,
            order_number=entry.order_number,
            part_number=found.row.part.number,
            placed_on=entry.placed_on,
            expected_on=entry.expected_on,
            quantity=entry.quantity,
            remaining=entry.remaining,
            version=entry.version,
            overdue=entry.expected_on < today,
        )
        for entry in found.open_lines
    ]


@endpoint(blueprint, "/readings", method="POST", access=Role.TECHNICIAN, replies=schemas.ReadingKept, status=201)
def reading_kept(json: schemas.ReadingIn) -> schemas.ReadingKept:
    """Write a reading down; the forecast follows it from now on."""
    request = ReadingRequest(**json.model_dump())
    return schemas.ReadingKept(id=add_reading(session(), request, clock=read_clock(session()), author_id=author_id()))
