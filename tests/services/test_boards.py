"""Boards and palm rests are stock parts like the rest: found, reserved, fitted by a job, and on record."""

from __future__ import annotations

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.ledger.record import LineRequest
from almanac.services.stores.acts import MoveRequest, Recorded, do
from almanac.services.workbench.close import CloseLine
from tests.services.helpers import in_bucket, units
from tests.services.jobs import opened

MACHINE = """
SELECT a.tag, s.code FROM asset a JOIN device_model m ON m.id = a.model_id AND m.name = :model
JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id
WHERE a.retired_on IS NULL ORDER BY a.id LIMIT 1
"""


@pytest.mark.parametrize(
    ("model", "position", "part"),
    [("Packet 14", "mainboard", "OX-P14"), ("Halyard 14", "palm_rest", "OK-H14"), ("Halyard 14", "mainboard", "OX-H14")],
)
def test_a_job_that_fits_a_large_part_closes_and_takes_it_from_the_shelf(
    session: Session, technician: Recorded, model: str, position: str, part: str
) -> None:
    tag, site = session.execute(text(MACHINE), {"model": model}).one()
    do(session, MoveRequest(part, site, "found", 1, "out of the spare machine's box"), technician)
    before = units(session)
    worker = opened(session, technician.clock, tag, position)
    worker.finishes(part)
    done = worker.closes(CloseLine(position, LineRequest(0, "replaced", part, site), ""))
    assert done.incident_id is not None
    assert in_bucket(session, part, "on_hand", site=site) == 0
    assert units(session) == before
    fitted = "SELECT count(*) FROM tenure t JOIN part p ON p.id = t.part_id WHERE p.number = :part AND t.removed_on IS NULL"
    assert session.scalar(text(fitted), {"part": part}) == 1
