"""An order keeps what it rested on, and nothing else."""

from __future__ import annotations

from tests.web.conftest import Client

PART = "OF-P13"


def placed(lead: Client, number: str = PART, rests_on: str | None = None) -> str:
    reply = lead.post("/api/v1/orders", {"part_number": number, "quantity": 4, "rests_on": rests_on, "confirmed": ["again"]})
    assert reply.status_code == 201
    return str(reply.get_json()["order_number"])


def test_an_order_from_a_plate_is_reopened_as_it_was_seen(lead: Client) -> None:
    assert lead.get(f"/api/v1/orders/{placed(lead)}/basis").status_code == 404  # nobody looked at a plate
    seen = lead.get(f"/api/v1/outlook/parts/{PART}")
    key = seen.headers["ETag"].strip('"')
    order = placed(lead, rests_on=key)
    lead.get(f"/api/v1/outlook/parts/{PART}")  # the newer plate is kept, too
    again = placed(lead, rests_on=key)
    for number in (order, again):
        basis = lead.get(f"/api/v1/orders/{number}/basis").get_json()
        assert basis["part_number"] == PART
        assert basis["then"]["on_order"] == seen.get_json()["line"]["on_order"]
        assert basis["now"]["on_order"] == basis["then"]["on_order"] + 8
        assert basis["author"] == "M. Quay"


def test_the_plate_of_another_part_is_no_basis(lead: Client) -> None:
    key = lead.get(f"/api/v1/outlook/parts/{PART}").headers["ETag"].strip('"')
    assert lead.get(f"/api/v1/orders/{placed(lead, 'OF-P14', key)}/basis").status_code == 404
