"""The demo's past orders: what arrived at the depot in the last two years, ordered by kind from each supplier and delivered whole."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, timedelta
from random import Random
from typing import Any

from almanac.demo import catalog, truth
from almanac.demo.company import Company
from almanac.demo.rows import at

Key = tuple[date, str, str]


def order_past(company: Company, *, seed: int) -> None:
    """Give the depot's receipts since two years their orders; whole days on the way are drawn from the suppliers' true lead times."""
    chance = Random(seed + 19)
    for (arrived, supplier, _), moves in sorted(_deliveries(company).items()):
        days = truth.lead_days(chance, supplier, arrived, catalog.SUPPLIERS[supplier])
        _order(company, supplier, arrived - timedelta(days=days), moves)


def _deliveries(company: Company) -> dict[Key, list[dict[str, Any]]]:
    """Receipts at the depot by day, supplier and kind."""
    depot = company.sites[catalog.SITES[0].code]
    parts = {company.parts[part.number]: part for part in catalog.PARTS}
    places = {shelf: (part, site) for (part, site), shelf in company.shelves.items()}
    since = truth.AS_OF - timedelta(days=730)
    found: dict[Key, list[dict[str, Any]]] = defaultdict(list)
    for move in company.rows.tables.get("stock_move", []):
        part, site = places[move["shelf_id"]]
        if move["cause"] == "receipt" and site == depot and move["moved_on"] >= since and part in parts:
            found[move["moved_on"], parts[part].supplier, parts[part].kind.value].append(move)
    return found


def _order(company: Company, supplier: str, placed: date, moves: list[dict[str, Any]]) -> None:
    order = add_order(company, supplier, placed)
    parts = {shelf: part for (part, _), shelf in company.shelves.items()}
    prices = {company.parts[part.number]: part.price for part in catalog.PARTS}
    for move in moves:
        part, arrived = parts[move["shelf_id"]], move["moved_on"]
        line = add_line(company, order, part, move["quantity"], prices[part], arrived, confirmed=placed + timedelta(days=2))
        move["receipt_id"] = company.rows.add(
            "receipt",
            line_id=line,
            received_on=arrived,
            quantity=move["quantity"],
            serials=[],
            reason="",
            undoes_id=None,
            recorded_at=at(arrived),
            author_id=None,
        )


def add_order(company: Company, supplier: str, placed: date) -> int:
    """An order to a supplier, numbered within its year."""
    before = company.rows.tables.get("purchase_order", [])
    number = 1 + sum(row["placed_on"].year == placed.year for row in before)
    return company.rows.add(
        "purchase_order",
        number=f"PO-{placed.year}-{number:03d}",
        supplier_id=next(row["id"] for row in company.rows.tables["supplier"] if row["name"] == supplier),
        site_id=company.sites[catalog.SITES[0].code],
        placed_on=placed,
        author_id=company.lead_user if company.rows.tables.get("user") else None,
        approved_by_id=None,
        note="",
    )


def add_line(company: Company, order: int, part: int, quantity: int, price: str, expected: date, *, confirmed: date | None) -> int:
    """One part of an order."""
    return company.rows.add(
        "purchase_line",
        order_id=order,
        part_id=part,
        quantity=quantity,
        cancelled=0,
        price=price,
        expected_on=expected,
        confirmed_on=confirmed,
        version=1,
    )
