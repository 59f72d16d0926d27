"""The buying list: every order the outlook asks for today, by supplier; and the loading list, by boat."""

from __future__ import annotations

from collections import defaultdict
from decimal import Decimal

from almanac.core.stock.shelf import Risk
from almanac.exchange.sheets import SheetGroup, SheetLine, buying_sheet
from almanac.services.outlook.order_plans import Row
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


LOADING_COLUMNS = ("site", "boat_days", "part_number", "part_name", "quantity", "there", "level")


def buying_rows(outlook: Outlook) -> list[list[object]]:
    """Rows of the buying list; parts with nothing to order are left out."""
    currency = outlook.inputs.settings.value("currency", default="EUR")
    place = outlook.inputs.site.name if outlook.inputs.site else "all sites"
    return [_row(line, outlook, str(currency), place) for line in sorted(outlook.to_order, key=lambda line: line.part.number)]


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
    by_supplier: dict[str, list[Row]] = defaultdict(list)
    for line in outlook.to_order:
        by_supplier[outlook.inputs.suppliers[line.part.supplier_id].name].append(line)
    groups = [
        SheetGroup(
            name,
            [
                SheetLine(
                    "today" if line.risk is not Risk.WAITING else "today, somebody waits",
                    line.part.number,
                    line.part.name,
                    str(line.quantity),
                    money(line.unit_price, currency),
                    money(line.cost, currency),
                )
                for line in sorted(due, key=lambda line: line.part.number)
            ],
            money(sum((line.cost for line in due), Decimal(0)), currency),
        )
        for name, due in sorted(by_supplier.items())
    ]
    return buying_sheet(
        "Buying list", f"{place[0].upper()}{place[1:]}, as of {day(today)}. Quantities follow the outlook of that day.", groups
    )


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
