"""Reading the catalog: index, page, route and its sheets, what fits, the planners, comparison, look-alikes, line-up."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal

from flask import Blueprint, Response

from almanac.core.teardown.bits import CLIMBS, SEAT, bit_advice
from almanac.core.teardown.doubts import step_doubts
from almanac.core.teardown.fasteners import TrayGroup
from almanac.core.teardown.lift import will_not_lift
from almanac.core.teardown.reassembly import BackStep
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.pages.compare import compare_models
from almanac.services.pages.drive import DriveRequest, plan_model_drive
from almanac.services.pages.find import find_models
from almanac.services.pages.fits import PartVerdict
from almanac.services.pages.identify import ask_next
from almanac.services.pages.index import IndexRow, read_index
from almanac.services.pages.library import read_library
from almanac.services.pages.line_up import KindLineUp, LineUpReading, NeedLabel, read_line_up
from almanac.services.pages.plan import PlannedRoute, RouteRequest, fitting_parts, plan_model_memory, plan_model_route
from almanac.services.pages.read import read_page_view, read_rates
from almanac.services.pages.sheets import fastener_words, route_sheet_pdf, screw_mat_pdf
from almanac.store.models import Role
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import models as schemas
from almanac.web.schemas import pages as forms
from almanac.web.schemas import planning as plans
from almanac.web.views.model_words import minutes_view, page_view

blueprint = Blueprint("models", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/models", access=Role.READER, replies=schemas.ModelIndex, kept="cheap")
def model_index(query: schemas.ModelsQuery) -> schemas.ModelIndex:
    """All models, or those that answer the words."""
    library = read_library(session())
    rows = read_index(session(), library)
    words = (query.q or "").strip()
    if not words:
        return schemas.ModelIndex(models=[_row(row, ()) for row in rows], words="")
    reasons = {match.model_id: match.reasons for match in find_models(session(), words, library)}
    found = [_row(row, reasons[row.head.model_id]) for row in rows if row.head.model_id in reasons]
    return schemas.ModelIndex(models=found, words=words)


def _row(row: IndexRow, reasons: tuple[str, ...]) -> schemas.ModelRow:
    return schemas.ModelRow(
        model_id=row.head.model_id,
        maker=row.head.maker,
        name=row.head.name,
        family=row.head.family,
        form=row.head.form,
        fleet=row.fleet,
        open_facts=row.summary.open_facts,
        unverified=row.summary.unverified,
        draft=row.head.draft,
        takes=list(row.summary.takes),
        deepest_minutes=row.summary.deepest_minutes,
        reasons=list(reasons),
    )


@endpoint(blueprint, "/models/<int:model_id>", access=Role.READER, replies=schemas.ModelPageView, kept="cheap")
def model_page(model_id: int) -> schemas.ModelPageView:
    """One model's page."""
    return page_view(read_page_view(session(), model_id), read_library(session()))


@endpoint(blueprint, "/models/<int:model_id>/rates", access=Role.READER, replies=schemas.ModelRates, kept="dear")
def model_rates(model_id: int) -> schemas.ModelRates:
    """Failure rates of the parts fitted in a model; apart from the page, because they need the whole fleet's log."""
    found = read_rates(session(), model_id)
    return schemas.ModelRates(
        parts=[
            schemas.PartRateView(part_number=item.number, rate=item.rate, low=item.low, high=item.high, risk=item.risk) for item in found
        ]
    )


def _planned(model_id: int, query: plans.RouteQuery) -> PlannedRoute:
    pairs = [item.partition(":") for item in _listed(query.options)]
    request = RouteRequest(
        targets=_listed(query.to),
        options={name: value for name, _, value in pairs},
        direct=_listed(query.itself),
        include=_listed(query.include),
        lift_pack_out=query.pack_out,
    )
    return plan_model_route(session(), model_id, request)


def _listed(text: str) -> list[str]:
    return [item for item in text.split(",") if item]


@endpoint(blueprint, "/models/<int:model_id>/route", access=Role.READER, replies=plans.RouteView)
def model_route(model_id: int, query: plans.RouteQuery) -> plans.RouteView:
    """The way in to some positions, and back."""
    planned = _planned(model_id, query)
    route, labels = planned.route, {key: place.label for key, place in planned.teardown.places.items()}
    bits = bit_advice(step.tools for step in route.steps)
    cautions: dict[str, list[str]] = {}
    for caution in route.cautions:
        cautions.setdefault(caution.operation, []).append(caution.text)
    return plans.RouteView(
        targets=list(route.targets),
        minutes_open=minutes_view(route.minutes_open),
        minutes_close=minutes_view(route.minutes_close),
        tool_changes=route.tool_changes,
        turns=route.turns,
        tools_unsaid=route.kit.unsaid,
        bits=[plans.BitView.model_validate(item) for item in bits],
        bits_how=[SEAT, CLIMBS] if bits else [],
        ends=[plans.EndView(target=target, words=words) for target, words in route.ends],
        short=_short(planned),
        depends=list(route.depends),
        order_proven=route.exact,
        power=route.power.value,
        steps=[
            plans.RouteStep(
                id=step.id,
                text=step.text,
                tool=step.tools.words,
                face=step.face,
                minutes=minutes_view(step.minutes),
                live=step.live,
                isolates=step.isolates,
                one_way=step.one_way.reason if step.one_way else None,
                seal=step.seal,
                optional=step.optional,
                touches=[fastener_words(item) for item in step.fasteners] + [plug.name for plug in step.plugs],
                cautions=cautions.get(step.id, []),
                doubts=list(step_doubts(step, planned.teardown)),
            )
            for step in route.steps
        ],
        back=[_back(step) for step in route.reassembly.steps],
        tools=list(route.kit.tools),
        aids=list(route.kit.aids),
        consumables=list(route.kit.consumables),
        spares=list(route.kit.spares),
        tray=[_tray(group) for group in route.tray],
        leads=list(route.reassembly.leads),
        escalations=[
            plans.EscalationView(
                target=item.target,
                target_label=labels[item.target],
                reached=item.reached,
                reached_label=labels[item.reached],
                reason=item.unit.reason,
                takes_along=[labels.get(key, key) for key in item.unit.takes_along],
                other_minutes=planned.other_ways.get(item.target),
            )
            for item in route.escalations
        ],
        optional=[plans.OptionalView(id=item.operation, reason=item.reason, minutes=item.minutes) for item in route.optional],
        near=[
            plans.NearView(position=item.position, label=labels[item.position], more_now=item.more_now, alone=item.alone)
            for item in planned.near
        ],
        carries_over=[plans.CarryView(position=labels[key], items=list(items)) for key, items in planned.carries_over.items()],
        saved_minutes=planned.saved,
        learnt_factor=planned.learnt.factor,
        learnt_jobs=planned.learnt.jobs,
    )


def _back(step: BackStep) -> plans.BackStepView:
    return plans.BackStepView(
        operation=step.operation,
        text=step.text,
        minutes=minutes_view(step.minutes),
        left_out=step.left_out,
        leads=list(step.leads),
        cautions=list(step.cautions),
    )


def _short(planned: PlannedRoute) -> plans.ShortWayView | None:
    short, steps = planned.route.short, planned.teardown.operations
    if short is None:
        return None
    return plans.ShortWayView(
        steps=[steps[name].text for name in short.steps], leaves_out=[steps[name].text for name in short.leaves_out], saves=short.saves
    )


def _tray(group: TrayGroup) -> plans.TrayView:
    return plans.TrayView(
        group=group.group,
        loose=group.loose,
        captive=group.captive,
        unknown=group.unknown,
        least=group.least,
        about=group.about,
        words=group.expected().words,
    )


def _pdf(data: bytes, name: str) -> Response:
    return Response(data, mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'})


@endpoint(blueprint, "/models/<int:model_id>/route.pdf", access=Role.READER, replies=None)
def model_route_sheet(model_id: int, query: plans.RouteQuery) -> Response:
    """The route sheet to print."""
    return _pdf(route_sheet_pdf(_planned(model_id, query)), "route")


@endpoint(blueprint, "/models/<int:model_id>/mat.pdf", access=Role.READER, replies=None)
def model_screw_mat(model_id: int, query: plans.RouteQuery) -> Response:
    """The screw mat to print at true scale."""
    return _pdf(screw_mat_pdf(_planned(model_id, query), paper=query.paper), "screw-mat")


@endpoint(blueprint, "/models/<int:model_id>/lift", method="POST", access=Role.READER, replies=forms.LookView)
def model_lift(model_id: int, json: forms.LiftIn) -> forms.LookView:
    """The cover will not lift: the next thing to look at."""
    page = read_library(session()).page(model_id)
    step = page.teardown.operations.get(json.operation)
    if step is None:
        raise NotFound(f"{page.name} has no step {json.operation}")
    return forms.LookView.model_validate(will_not_lift(step, page.whole.get("opening") or {}, json.looked))


@endpoint(blueprint, "/models/<int:model_id>/positions/<position>/fits", access=Role.READER, replies=plans.PositionFits)
def position_fits(model_id: int, position: str) -> plans.PositionFits:
    """Every stock part of a position's kind with its verdict and reason."""
    fitting = fitting_parts(session(), model_id, position)
    return plans.PositionFits(
        position=position,
        label=fitting.entry.get("label") or position,
        parts=[_verdict(item, fitting.on_hand.get(item.part.id, 0)) for item in fitting.verdicts],
        beside=fitting.beside,
        claims=fitting.claims,
    )


def _verdict(item: PartVerdict, on_hand: int) -> plans.FitVerdictView:
    speed = (
        f"{item.speed.gb_s:g} GB/s, {item.speed.reason}{', held back by the place' if item.speed.held_back else ''}" if item.speed else None
    )
    return plans.FitVerdictView(
        part_number=item.part.number,
        part_name=item.part.name,
        verdict=item.answer.verdict.value,
        reason=item.answer.reason,
        grade=item.answer.grade.value if item.answer.grade else None,
        practice=item.answer.practice,
        origin=item.origin,
        speed=speed,
        price=item.part.price,
        on_hand=on_hand,
    )


@endpoint(blueprint, "/models/<int:model_id>/memory", method="POST", access=Role.READER, replies=plans.MemorySheetView)
def model_memory(model_id: int, json: plans.MemoryIn) -> plans.MemorySheetView:
    """The cheapest way to a memory total."""
    sheet = plan_model_memory(session(), model_id, target_gb=json.target_gb, fitted=json.fitted)
    labels = {key: place.label for key, place in read_library(session()).page(model_id).teardown.places.items()}
    plan = sheet.plan
    return plans.MemorySheetView(
        soldered_gb=sheet.soldered_gb,
        maximum_gb=sheet.maximum_gb,
        tried_gb=sheet.tried_gb,
        total_gb=plan.total_gb,
        totals=list(plan.totals),
        target_gb=plan.target_gb,
        reached_gb=plan.reached_gb,
        cost=_money(plan.cost),
        choices=[
            plans.MemoryChoiceView(
                slot=choice.slot,
                label=labels.get(choice.slot, choice.slot),
                capacity_gb=choice.capacity_gb,
                buy=choice.buy.part if choice.buy else None,
                buy_name=sheet.names.get(choice.buy.part) if choice.buy else None,
                price=_money(choice.buy.price) if choice.buy else None,
                freed_gb=choice.freed_gb,
            )
            for choice in plan.choices
        ],
        freed=list(plan.freed),
        verdict=plan.verdict.value,
        reason=plan.reason,
        nearest_below=plan.nearest_below,
        nearest_above=plan.nearest_above,
        practice=list(plan.practice),
        slots=[
            plans.MemorySlotView(key=slot.key, label=labels.get(slot.key, slot.key), fitted_gb=slot.fitted_gb, maximum_gb=slot.maximum_gb)
            for slot in sheet.slots
        ],
    )


def _money(value: float) -> Decimal:
    return Decimal(str(round(value, 2)))


@endpoint(blueprint, "/models/<int:model_id>/drive", method="POST", access=Role.READER, replies=plans.DriveSheetView)
def model_drive(model_id: int, json: plans.DriveIn) -> plans.DriveSheetView:
    """Plan the change of a drive: fit, speed, copy or fresh install."""
    sheet = plan_model_drive(session(), model_id, DriveRequest(**json.model_dump()))
    return plans.DriveSheetView(
        verdict=_verdict(sheet.verdict, 0),
        how=sheet.copy.how,
        reason=sheet.copy.reason,
        minutes=sheet.copy.minutes,
        first=list(sheet.copy.first),
        link_gb_s=sheet.link_gb_s,
        fresh=sheet.advice.verdict.value,
        advice=sheet.advice.reason,
        beside=sheet.beside,
    )


@endpoint(blueprint, "/models/compare", access=Role.READER, replies=plans.ComparisonView)
def model_comparison(query: plans.CompareQuery) -> plans.ComparisonView:
    """Two to four models beside one another."""
    found = compare_models(session(), [int(item) for item in query.models.split(",")])
    return plans.ComparisonView(
        models=[plans.ComparedModel(model_id=page.model_id, name=page.name) for page in found.pages],
        rows=[plans.ComparedRowView.model_validate(row) for row in found.rows],
        shared=[plans.SharedPartView(part_number=part.number, part_name=part.name, models=models) for part, models in found.shared],
    )


@endpoint(blueprint, "/models/identify", method="POST", access=Role.READER, replies=plans.IdentifyView)
def identify_model(json: plans.IdentifyIn) -> plans.IdentifyView:
    """The next question that tells look-alikes apart."""
    library, found, _ = ask_next(session(), json.models, json.answered)
    pages = [page for name in found.candidates if (page := library.named(name))]
    if not pages:
        raise Refused(Fault("answered", "no model gives all these answers: check the last one"))
    question = found.question
    choices: dict[str, list[str]] = {}
    if question:
        for model in found.candidates:
            if model in question.answers:
                choices.setdefault(question.answers[model], []).append(model)
    return plans.IdentifyView(
        candidates=[plans.ComparedModel(model_id=page.model_id, name=page.name) for page in pages],
        key=question.key if question else None,
        ask=question.ask if question else None,
        opened=question.opened if question else False,
        gain_bits=found.gain_bits,
        choices=[plans.AnswerChoice(value=value, models=models) for value, models in sorted(choices.items())],
    )


@endpoint(blueprint, "/line-up", access=Role.READER, replies=plans.LineUpView, kept="dear")
def line_up() -> plans.LineUpView:
    """Which stock parts to keep at all, and what that saves."""
    reading = read_line_up(session())
    return plans.LineUpView(
        kinds=[_kind(group, reading) for group in reading.kinds],
        unsaid=_by_model(reading.unsaid),
        holding_share=reading.holding_share,
        line_cost=_money(reading.line_cost),
    )


def _by_model(labels: Iterable[NeedLabel]) -> list[plans.ModelNeeds]:
    """Needs under the model they are of, its places in one breath."""
    found: dict[str, list[str]] = {}
    for label in labels:
        found.setdefault(label.model, []).append(label.place)
    return [plans.ModelNeeds(model=model, places=places) for model, places in found.items()]


def _kind(group: KindLineUp, reading: LineUpReading) -> plans.LineUpKind:
    today = dict.fromkeys(need.candidates[0] for need in group.needs)
    return plans.LineUpKind(
        kind=group.kind.value,
        cost=_money(group.result.cost),
        cost_today=_money(group.result.cost_today),
        saved=_money(group.result.saved),
        kept=[
            plans.LineUpPart(
                part_number=number,
                part_name=reading.parts[number].name,
                level=group.result.levels[number],
                price=reading.parts[number].price,
                needs=len(group.result.covers[number]),
                covers=_by_model(reading.labels[key] for key in group.result.covers[number]),
            )
            for number in group.result.kept
        ],
        dropped=[number for number in today if number not in group.result.kept],
    )
