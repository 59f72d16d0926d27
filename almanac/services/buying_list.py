"""The buying list: every order the outlook asks for, earliest first."""

from __future__ import annotations

from collections import defaultdict
from datetime import date
from decimal import Decimal

from almanac.exchange.sheets import SheetGroup, SheetLine, buying_sheet
from almanac.services.outlook.order_plans import Row
from almanac.services.outlook.summary import Outlook
from almanac.services.words import day, money

BUYING_COLUMNS = (
    "order_by",
    "state",
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
    "on_order",
    "needed_at",
)


def buying_rows(outlook: Outlook) -> list[list[object]]:
    """Rows of the buying list; parts with nothing to order are left out."""
    today = outlook.inputs.clock.today
    currency = outlook.inputs.settings.value("currency", default="EUR")
    place = outlook.inputs.site.name if outlook.inputs.site else "all sites"
    due = [(line.order_by(today) or date.max, line) for line in outlook.rows if line.quantity > 0]
    return [
        _row(order_by, line, outlook, str(currency), place)
        for order_by, line in sorted(due, key=lambda pair: (pair[0], pair[1].part.number))
    ]


def buying_pdf(outlook: Outlook) -> bytes:
    """The buying list to print: the orders due by the next review and those after, a table a supplier."""
    today, currency = outlook.inputs.clock.today, str(outlook.inputs.settings.value("currency", default="EUR"))
    place = outlook.inputs.site.name if outlook.inputs.site else "all sites"
    by_supplier: dict[str, list[tuple[date, Row]]] = defaultdict(list)
    for line in outlook.rows:
        if line.quantity > 0:
            by_supplier[outlook.inputs.suppliers[line.part.supplier_id].name].append((line.order_by(today) or date.max, line))
    groups = [
        SheetGroup(
            name,
            [
                SheetLine(
                    "today, late" if line.plan and line.plan.late else day(order_by),
                    line.part.number,
                    line.part.name,
                    str(line.quantity),
                    money(line.part.price, currency),
                    money(line.cost, currency),
                )
                for order_by, line in sorted(due, key=lambda pair: (pair[0], pair[1].part.number))
            ],
            money(sum((line.cost for _, line in due), Decimal(0)), currency),
        )
        for name, due in sorted(by_supplier.items())
    ]
    return buying_sheet(
        "Buying list", f"{place[0].upper()}{place[1:]}, as of {day(today)}. Quantities follow the outlook of that day.", groups
    )


def _row(order_by: date, line: Row, outlook: Outlook, currency: str, place: str) -> list[object]:
    return [
        order_by.isoformat(),
        line.plan.state.value if line.plan else "",
        line.part.number,
        line.part.name,
        line.part.kind,
        outlook.inputs.suppliers[line.part.supplier_id].name,
        line.quantity,
        line.policy.pack,
        line.part.price,
        line.cost,
        currency,
        line.shelf.on_hand,
        line.shelf.holding.on_order,
        place,
    ]
