"""Asset lists as companies have them, made of the demo's machines: title rows, blank rows, other words, other days."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Sequence
from datetime import date, timedelta
from typing import Any

from openpyxl import Workbook
from sqlalchemy import text
from sqlalchemy.orm import Session

LIST_ON = date(2026, 10, 30)
HEADER = ["Inventar-Nr.", "Hersteller", "Modell", "Standort", "Anschaffungsdatum", "Seriennummer", "Zustand"]
Row = list[str]


def machines(session: Session) -> list[Any]:
    """Machines in service with maker, model, site name and first day."""
    return list(
        session.execute(
            text("""SELECT a.tag, m.maker, m.name AS model, s.code, s.name AS site, a.in_service_on, a.serial FROM asset a
                    JOIN device_model m ON m.id = a.model_id JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL
                    JOIN site s ON s.id = y.site_id WHERE a.retired_on IS NULL ORDER BY a.tag""")
        )
    )


def german(day: date) -> str:
    return f"{day.day:02d}.{day.month:02d}.{day.year}"


def slashed(day: date) -> str:
    return f"{day.month}/{day.day}/{day.year % 100:02d}"


def rows_of(session: Session, *, day: Callable[[date], str] = german) -> list[Row]:
    return [[m.tag, m.maker, m.model, m.site, day(m.in_service_on), m.serial or "", "im Einsatz"] for m in machines(session)]


def as_csv(rows: Sequence[Row], header: Sequence[str] = HEADER, *, encoding: str = "cp1252", delimiter: str = ";") -> bytes:
    """Title rows above, a blank row within."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=delimiter, lineterminator="\r\n")
    writer.writerow(["Geräteliste Skerry Line", *[""] * (len(header) - 1)])
    writer.writerow(["Stand: 30. Oktober 2026"])
    writer.writerow([])
    writer.writerow(header)
    half = len(rows) // 2
    writer.writerows(rows[:half])
    writer.writerow([])
    writer.writerows(rows[half:])
    return out.getvalue().encode(encoding)


def as_xlsx(rows: Sequence[Sequence[object]], header: Sequence[str] = HEADER) -> bytes:
    """Two sheets, the list on the second below a merged title."""
    book = Workbook()
    cover = book.active
    assert cover is not None
    cover.title = "Cover"
    cover["A1"] = "Devices"
    sheet = book.create_sheet("Devices")
    sheet["B1"] = "All devices of the company"
    sheet.merge_cells("B1:F1")
    sheet.append([])
    sheet.append(list(header))
    for row in rows:
        sheet.append(list(row))
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def years_ago(years: float) -> date:
    return LIST_ON - timedelta(days=round(365.25 * years))
