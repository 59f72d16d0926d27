"""A company's three files as such companies have them: machines, shelves and tickets, with the traps in them."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from datetime import date, timedelta
from random import Random

from tests.services.tickets_drawn import draw_tickets
from tests.services.ugly import as_xlsx

MADE_ON = date(2026, 10, 30)
SITES = ["Farhaven Quay", "Nearhaven", "Longsound"]
NOTEBOOKS = [("Tangle", "Wisp 13 Notebook"), ("Tangle", "Wisp 15 Notebook"), ("Quern", "Merle 14 Laptop"), ("Quern", "Merle 15 Laptop")]
DESKS = [("Fennet", "Bollard AIO 24"), ("Fennet", "Cleat Mini PC")]
HOLDS = {name: "1 battery, 1 fan, 1 SSD, 2 memory slots, 1 keyboard, 1 display" for _, name in NOTEBOOKS} | {
    name: "1 fan, 1 SSD, 2 memory slots, 1 display" for _, name in DESKS
}


@dataclass(frozen=True)
class Files:
    """The three files, and how many of their rows are traps that cannot be used."""

    machines: bytes
    shelves: bytes
    tickets: bytes


def ugly_company(seed: int = 5, machines: int = 600) -> Files:
    """600 machines, their parts and 417 tickets, all invented."""
    dice = Random(seed)
    fleet = [_machine(number, dice) for number in range(machines)]
    return Files(_asset_list(fleet, dice), _shelf_list(), _ticket_list(fleet, dice))


def _machine(number: int, dice: Random) -> tuple[str, str, str, str, date]:
    maker, name = dice.choices([*NOTEBOOKS, *DESKS], [5, 3, 5, 3, 2, 2])[0]
    bought = date(2023, 2, 1) + timedelta(days=dice.randrange(1300))
    return f"FH-{number + 1:04d}", maker, name, dice.choices(SITES, [5, 2, 1])[0], bought


def _asset_list(fleet: list[tuple[str, str, str, str, date]], dice: Random) -> bytes:
    """A workbook: a merged title, blank rows, days written two ways, rows said twice, machines that are scrapped, a printer."""
    rows: list[list[object]] = []
    for place, (tag, maker, name, site, bought) in enumerate(fleet):
        day = f"{bought:%d.%m.%Y}" if place % 3 else f"{bought:%Y-%m-%d} 00:00:00"
        rows.append([tag, maker, name.upper() if place % 50 == 7 else name, site, day, f"SN{dice.randrange(10**8):08d}", "im Einsatz"])
        if place % 60 == 30:
            rows.append(list(rows[-1]))
        if place % 90 == 45:
            rows.append(["", "", "", "", "", "", ""])
    rows += [[f"FX-{n}", "Quern", "Merle 14 Laptop", SITES[0], "01.02.2021", "", "verschrottet"] for n in range(20)]
    rows += [
        ["", "Quern", "Merle 14 Laptop", SITES[0], "01.02.2024", "", ""],
        ["PR-1", "Inkwell", "Printer 900", SITES[0], "01.02.2024", "", ""],
    ]
    return as_xlsx(rows)


def _text(header: list[str], rows: list[list[str]]) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out, delimiter=";", lineterminator="\r\n")
    writer.writerows([["Auszug vom 30.10.2026"], [], header, *rows])
    return out.getvalue().encode("cp1252")


def _shelf_list() -> bytes:
    """Semicolons, cp1252, comma prices; a toner and a part priced in another currency among them."""
    rows = []
    for place, (_, name) in enumerate(NOTEBOOKS):
        rows.append([f"TB-{place + 1}", f"Ersatzakku {name}", "Tangle Parts", f"{61 + place},50 €", "", SITES[0], str(3 - place % 3), name])
    for place, (_, name) in enumerate([*NOTEBOOKS, *DESKS]):
        rows.append([f"TF-{place + 1}", f"Lüfter {name}", "Quern Spares", f"{19 + place},00 €", "3 Wochen", SITES[0], "2", name])
        rows.append([f"TD-{place + 1}", f"SSD 512 {name}", "Quern Spares", "49,90 €", "3 Wochen", SITES[0], "1", name])
        rows.append(
            [
                f"TM-{place + 1}",
                f"RAM-Riegel 16 GB {name}",
                "Quern Spares",
                "1.038,00 €" if place == 5 else "38,00 €",
                "",
                SITES[0],
                "2",
                name,
            ]
        )
    rows += [
        ["TO-1", "Toner schwarz", "Paperhouse", "", "", SITES[0], "9", ""],
        ["TX-1", "Netzteil", "Quern Spares", "$ 55.00", "", SITES[0], "1", ""],
    ]
    return _text(["Artikel-Nr.", "Bezeichnung", "Lieferant", "EK-Preis", "Lieferzeit", "Lagerort", "Bestand", "passt zu"], rows)


def _ticket_list(fleet: list[tuple[str, str, str, str, date]], dice: Random) -> bytes:
    rows = []
    for number, ticket in enumerate(draw_tickets()):
        tag, _, name, _, bought = dice.choice([one for one in fleet if (MADE_ON - one[4]).days > 120])
        if ticket.kind == "battery" and name in dict.fromkeys(name for _, name in DESKS):
            tag, _, name, _, bought = next(one for one in fleet if one[2] == NOTEBOOKS[0][1] and (MADE_ON - one[4]).days > 400)
        day = bought + timedelta(days=30 + dice.randrange((MADE_ON - bought).days - 60))
        rows.append([f"T-{1000 + number}", tag, f"{day:%d.%m.%Y} 10:{number % 60:02d}", ticket.text, ticket.done, "geschlossen"])
    return _text(["Ticket-Nr.", "Inventar-Nr.", "Erstellt am", "Kurzbeschreibung", "Lösung", "Status"], rows)
