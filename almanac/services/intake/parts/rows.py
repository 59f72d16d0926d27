"""Rows of a list of parts or shelves as they are understood."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from almanac.core.parts.kinds import Kind
from almanac.services.intake.durations import span_of
from almanac.services.intake.meanings import Meanings
from almanac.services.intake.parts.fields import FIELDS, kind_of
from almanac.services.intake.table import Line

MOST = Decimal(100_000)
MOST_PAID = MOST * 100


@dataclass(frozen=True)
class PartRow:
    """A row as it was understood; what it does not say is None.

    number : on record, where it is there under another name · supplier : as on record, "+" for a new one, None where it is asked
    says_kind : whether a kind was told · lead : least and most days · fits : ids of models
    """

    line: int
    number: str
    name: str | None
    kind: Kind | None
    supplier: str | None
    supplier_name: str
    price: Decimal | None
    lead: tuple[int, int] | None
    pack: int | None
    minimum_order: int | None
    shelf_life_days: int | None
    end_of_supply_on: date | None
    warranty_days: int | None
    fits: tuple[str, ...] = ()
    site: str | None = None
    on_hand: int | None = None
    made_on: date | None = None
    wrong: str = ""


@dataclass(frozen=True)
class Names:
    """Meanings of the names in a list. number : as on record · currency : of the company"""

    number: Callable[[int, str], str]
    supplier: Callable[[int, str], str | None]
    model: Meanings
    site: Callable[[int, str], str | None]
    currency: str


def part_row(line: Line, names: Names) -> PartRow:
    """One row."""
    wrong = _currency(line, names.currency) or line.unread(FIELDS)
    whole: dict[str, int | None] = {}
    for name, about in (("pack", "parts in a pack"), ("minimum_order", "fewest sold at once"), ("on_hand", "parts counted")):
        whole[name], fault = _whole(line, name, about)
        wrong = wrong or fault
    spans: dict[str, tuple[int, int] | None] = {}
    for name in ("lead_time", "shelf_life_days", "warranty_days"):
        spans[name], fault = _span(line, name)
        wrong = wrong or fault
    price = line.amount("price")
    if price is not None and not 0 <= price < MOST_PAID:
        wrong = wrong or f"{line.text('price')} is no price"
    life, warranty = spans["shelf_life_days"], spans["warranty_days"]
    number, fits = line.text("number"), line.text("fits")
    return PartRow(
        line=line.number,
        number=names.number(line.number, number) if number else "",
        name=line.text("name") or None,
        kind=kind_of(line.text("kind")) or kind_of(line.text("name")),
        supplier=names.supplier(line.number, line.text("supplier")),
        supplier_name=line.text("supplier"),
        price=price.quantize(Decimal("0.01")) if price is not None and not wrong else None,
        lead=spans["lead_time"],
        pack=whole["pack"],
        minimum_order=whole["minimum_order"],
        shelf_life_days=life[0] if life else None,
        end_of_supply_on=line.day("end_of_supply_on"),
        warranty_days=warranty[0] if warranty else None,
        fits=tuple(meaning for text in _several(fits) if (meaning := names.model.of(line.number, text)) is not None),
        site=names.site(line.number, line.text("site")) if "on_hand" in line.table.columns else None,
        on_hand=whole["on_hand"],
        made_on=line.day("made_on"),
        wrong=wrong,
    )


def _several(text: str) -> list[str]:
    parts = text.replace("\n", ";").replace(",", ";").split(";")
    return [one.strip() for one in parts if one.strip()]


def _whole(line: Line, name: str, about: str) -> tuple[int | None, str]:
    amount = line.amount(name)
    if amount is None:
        return None, ""
    least = 0 if name == "on_hand" else 1
    if amount != amount.to_integral_value() or not least <= amount <= MOST:
        return None, f"{line.text(name)} {about}: a whole number of at least {least} was wanted"
    return int(amount), ""


def _span(line: Line, name: str) -> tuple[tuple[int, int] | None, str]:
    text = line.text(name)
    if not text:
        return None, ""
    header = line.table.header[line.table.columns[name]]
    found = span_of(text, header)
    return found, "" if found else f"{text} is no span of days: 21, 3 weeks or 18-25 days was wanted"


def _currency(line: Line, own: str) -> str:
    said = line.currency("price")
    return f"its price is in {said}, and the company counts in {own}" if said is not None and said != own else ""
