"""Money: the curve, a sum chosen on it, and taking it over."""

from __future__ import annotations

from flask import Blueprint, Response

from almanac.exchange.tables import write_csv
from almanac.services.clock import read_clock
from almanac.services.outlook.aims import give_back, take_over
from almanac.services.outlook.money import MoneyRead, PartChosen, read_money
from almanac.services.outlook.summary import read_builder
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import money as schemas

blueprint = Blueprint("money", __name__, url_prefix="/api/v1/money")
SHOWN = 160
"""Points of the curve that are drawn."""
COLUMNS = ("part", "name", "kind", "aim", "order_at", "at_most", "buy", "buy_cost", "load", "above", "above_value")


@endpoint(blueprint, "", access=Role.READER, replies=schemas.MoneyView, kept="dear")
def money(query: schemas.MoneyQuery) -> schemas.MoneyView:
    """What money buys over all parts, and what a sum would mean for today's shelves."""
    found = read_money(read_builder(session()), query.budget)
    curve, settings = found.money.curve, found.builder.inputs.settings
    step = max(len(curve.money) // SHOWN, 1)
    places = [*range(0, len(curve.money) - 1, step), len(curve.money) - 1]
    return schemas.MoneyView(
        currency=str(settings.value("currency", default="EUR")),
        least=curve.money[0],
        most=curve.money[-1],
        curve=[schemas.MoneyStep(money=curve.money[place], waiting=curve.waiting[place]) for place in places],
        beside=[schemas.BesideView.model_validate({"name": name, **vars(tied)}) for name, tied in found.money.beside.items()],
        chosen=schemas.BesideView(name="chosen", money=found.chosen.money, waiting=found.chosen.waiting, fill=found.fill),
        bound=found.chosen.bound,
        parts=[_part(part) for part in found.parts],
        left_out=found.left_out,
        own_aims=settings.narrower("target"),
    )


@endpoint(blueprint, "/list.csv", access=Role.READER, replies=None)
def money_list(query: schemas.MoneyQuery) -> Response:
    """What a sum means for every part, as CSV."""
    found = read_money(read_builder(session()), query.budget)
    body = write_csv(COLUMNS, _lines(found))
    return Response(body, mimetype="text/csv", headers={"Content-Disposition": 'attachment; filename="money.csv"'})


@endpoint(blueprint, "/aims", method="POST", access=Role.LEAD, replies=schemas.AimsChanged)
def take_money(json: schemas.TakeMoneyIn) -> schemas.AimsChanged:
    """All parts' aims become what a sum buys."""
    found = read_money(read_builder(session()), json.budget)
    return schemas.AimsChanged(changed=take_over(session(), found, clock=read_clock(session()), author_id=author_id()))


@endpoint(blueprint, "/aims/back", method="POST", access=Role.LEAD, replies=schemas.AimsChanged)
def give_aims_back(json: schemas.GiveBackIn) -> schemas.AimsChanged:
    """All parts follow the company's aim again."""
    builder = read_builder(session())
    changed = give_back(session(), builder, clock=read_clock(session()), author_id=author_id()) if json.confirm else 0
    return schemas.AimsChanged(changed=changed)


def _part(part: PartChosen) -> schemas.PartMoney:
    row, point = part.row, part.point
    price = float(row.part.price)
    order_at = point.s + sum(point.levels)
    return schemas.PartMoney(
        number=row.part.number,
        name=row.part.name,
        kind=row.part.kind,
        aim=point.fill,
        now=row.plan.fill if row.plan else 0.0,
        order_at=order_at,
        most=order_at + part.lot,
        kept=part.kept,
        sold=part.sold,
        buy=part.buy,
        load=part.load,
        above=part.above,
        buy_cost=part.buy * price,
        above_value=part.above * price,
    )


def _lines(found: MoneyRead) -> list[list[object]]:
    views = [_part(part) for part in found.parts]
    return [
        [
            *(one.number, one.name, one.kind, f"{one.aim:.4f}", one.order_at, one.most),
            *(one.buy, one.buy_cost, one.load, one.above, one.above_value),
        ]
        for one in views
    ]
