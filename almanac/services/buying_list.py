"""The buying list: every order the outlook asks for, earliest first."""

from __future__ import annotations

from datetime import date

from almanac.services.outlook.lines import Line
from almanac.services.outlook.summary import Outlook

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
    due = [(line.order_by(today) or date.max, line) for line in outlook.lines if line.quantity > 0]
    return [
        _row(order_by, line, outlook, str(currency), place)
        for order_by, line in sorted(due, key=lambda pair: (pair[0], pair[1].part.number))
    ]


def _row(order_by: date, line: Line, outlook: Outlook, currency: str, place: str) -> list[object]:
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
        line.on_hand,
        line.on_order,
        place,
    ]
