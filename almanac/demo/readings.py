"""Readings of packs: the machines of some models report what their pack still holds, once a quarter."""

from __future__ import annotations

from datetime import date, timedelta
from random import Random

from almanac.demo import truth
from almanac.demo.company import Company
from almanac.demo.rows import at

PACKS = {"OB-P13-45": 45.0, "OB-H12-38": 38.0}
"""Parts that report, and what they were made to hold, Wh."""
BEGAN = date(2024, 11, 1)
EVERY_DAYS = 91
REPORTING = 0.75
"""Share of the machines that report."""
WORN = 0.70
"""Full over design capacity at which a pack no longer does its work."""
SCATTER = 0.010


def take_readings(company: Company, lasting: dict[int, date], *, seed: int) -> None:
    """Add readings of tenures whose day of wearing out was drawn; a source of chance of their own leaves all else as it was."""
    chance = Random(seed + 1)
    packs = {company.parts[number]: design for number, design in PACKS.items()}
    for row in company.rows.tables["tenure"]:
        design, ends = packs.get(row["part_id"]), lasting.get(row["id"])
        if design is None or ends is None or chance.random() > REPORTING:
            continue
        first = max(row["fitted_on"] + timedelta(days=10), BEGAN) + timedelta(days=chance.randrange(EVERY_DAYS))
        last = min(row["removed_on"] or truth.AS_OF, truth.AS_OF) - timedelta(days=1)
        life = max((ends - row["fitted_on"]).days, 30)
        for day in (first + timedelta(days=EVERY_DAYS * number) for number in range(40)):
            if day > last:
                break
            held = 1.0 - (1.0 - WORN) * (day - row["fitted_on"]).days / life + chance.gauss(0.0, SCATTER)
            company.rows.add(
                "reading",
                tenure_id=row["id"],
                read_on=day,
                full=round(design * max(held, 0.05), 2),
                design=design,
                recorded_at=at(day),
                author_id=None,
            )
