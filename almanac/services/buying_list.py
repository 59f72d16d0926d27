"""The buying list: every order the outlook asks for today, by supplier; and the loading list, by boat."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from decimal import Decimal

from almanac.core.stock.shelf import Risk, ToDo
from almanac.exchange.sheets import SheetGroup, SheetLine, buying_sheet
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.others import OtherPart
from almanac.services.outlook.summary import Outlook
from almanac.services.words import day, money

BUYING_COLUMNS = (
    "to_do",
    "risk",
    "part_number",
    "part_name",
    "kind",
    "supplier",
    "quantity",
    "pack",
    "unit_price",
    "cost",
    "currency",
    "on_hand",
    "coming",
    "position",
    "order_at",
    "at_most",
    "needed_at",
)


@dataclass(frozen=True)
class Wanted:
    """A line of the list. price : of one"""

    number: str
    name: str
    quantity: int
    price: Decimal
    waits: bool


LOADING_COLUMNS = ("site", "boat_days", "part_number", "part_name", "quantity", "there", "level")


def buying_rows(outlook: Outlook) -> list[list[object]]:
    """Rows of the buying list; parts with nothing to order are left out."""
    currency = outlook.inputs.settings.value("currency", default="EUR")
    place = outlook.inputs.site.name if outlook.inputs.site else "all sites"
    rows = [_row(line, outlook, str(currency), place) for line in outlook.to_order]
    rows += [_other_row(other, outlook, str(currency), place) for other in outlook.others]
    return sorted(rows, key=lambda row: str(row[2]))


def loading_rows(outlook: Outlook) -> list[list[object]]:
    """What leaves with the next boats, by site."""
    names = {site.id: site for site in outlook.inputs.sites}
    found = [
        [
            names[site.site_id].code,
            outlook.inputs.lanes.get(site.site_id, 0),
            row.part.number,
            row.part.name,
            site.load,
            site.free,
            site.level,
        ]
        for row in outlook.to_load
        if row.plan
        for site in row.plan.sites
        if site.load
    ]
    return sorted(found, key=lambda line: (str(line[0]), str(line[2])))


def buying_pdf(outlook: Outlook) -> bytes:
    """The orders of today to print, a table a supplier."""
    today, currency = outlook.inputs.clock.today, str(outlook.inputs.settings.value("currency", default="EUR"))
    place = outlook.inputs.site.name if outlook.inputs.site else "all sites"
    by_supplier: dict[str, list[Wanted]] = defaultdict(list)
    for line in outlook.to_order:
        waits = line.risk is Risk.WAITING
        wanted = Wanted(line.part.number, line.part.name, line.quantity, line.unit_price, waits=waits)
        by_supplier[outlook.inputs.suppliers[line.part.supplier_id].name].append(wanted)
    for other in outlook.others:
        row = other.row
        wanted = Wanted(row.number, row.name, other.quantity, Decimal(str(row.price)), waits=other.waiting > 0)
        by_supplier[outlook.inputs.suppliers[row.supplier_id].name].append(wanted)
    groups = [
        SheetGroup(
            name,
            [
                SheetLine(
                    "today, somebody waits" if one.waits else "today",
                    one.number,
                    one.name,
                    str(one.quantity),
                    money(one.price, currency),
                    money(one.price * one.quantity, currency),
                )
                for one in sorted(due, key=lambda one: one.number)
            ],
            money(sum((one.price * one.quantity for one in due), Decimal(0)), currency),
        )
        for name, due in sorted(by_supplier.items())
    ]
    return buying_sheet(
        "Buying list", f"{place[0].upper()}{place[1:]}, as of {day(today)}. Quantities follow the outlook of that day.", groups
    )


def _other_row(other: OtherPart, outlook: Outlook, currency: str, place: str) -> list[object]:
    row, plan = other.row, other.plan
    assert plan is not None
    price = Decimal(str(row.price))
    return [
        *(ToDo.ORDER.value, (Risk.WAITING if other.waiting else Risk.THIN).value, row.number, row.name, row.kind),
        *(outlook.inputs.suppliers[row.supplier_id].name, other.quantity, row.pack, price, price * other.quantity, currency),
        *(other.on_hand, other.coming, other.position, plan.policy.s, plan.policy.most, place),
    ]


def _row(line: Row, outlook: Outlook, currency: str, place: str) -> list[object]:
    assert line.plan is not None
    return [
        line.plan.todo.value,
        line.plan.risk.value,
        line.part.number,
        line.part.name,
        line.part.kind,
        outlook.inputs.suppliers[line.part.supplier_id].name,
        line.quantity,
        line.policy.pack,
        line.unit_price,
        line.cost,
        currency,
        line.shelf.on_hand,
        line.shelf.holding.on_order,
        line.plan.position,
        line.plan.order_at,
        line.plan.most,
        place,
    ]
