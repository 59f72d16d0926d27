"""Technicians bound to sites: every request that writes at another site is refused, by what it writes; leads and the unbound write everywhere."""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from flask import Flask
from sqlalchemy import Connection, text

from almanac.store.models import Role
from tests.web.conftest import Client

SHELF = """SELECT p.number, s.code, h.id FROM shelf h JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
JOIN shelf_balance b ON b.shelf_id = h.id AND b.bucket = 'on_hand' AND b.quantity > 0
WHERE p.kind = 'memory' AND s.code {} 'GUL' ORDER BY h.id LIMIT 1"""
MACHINE = """SELECT a.tag, i.id AS incident, i.latest_number AS number,
  (SELECT p.id FROM position p WHERE p.model_id = a.model_id AND p.kind = 'fan' ORDER BY p.id LIMIT 1) AS fan FROM asset a
JOIN asset_stay t ON t.asset_id = a.id AND t.until_on IS NULL JOIN site s ON s.id = t.site_id
JOIN incident i ON i.asset_id = a.id
WHERE s.code {} 'GUL' AND a.retired_on IS NULL AND NOT EXISTS (SELECT FROM job j WHERE j.asset_id = a.id) ORDER BY a.id LIMIT 1"""
FILLED = """INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at)
VALUES (:shelf, 'on_hand', 9, 'counted', '2026-10-30', now())"""
DAY = "2026-10-30"
KEPT_BY_WHAT_THEY_WRITE = {
    "/jobs", "/jobs/<int:job_id>/lease", "/jobs/<int:job_id>/release", "/jobs/<int:job_id>/targets", "/jobs/<int:job_id>/steps",
    "/jobs/<int:job_id>/entries", "/jobs/<int:job_id>/report", "/jobs/<int:job_id>/stand-in", "/jobs/<int:job_id>/issues",
    "/jobs/<int:job_id>/close", "/jobs/<int:job_id>/settle", "/jobs/<int:job_id>/reopen", "/jobs/<int:job_id>/abandon",
    "/jobs/<int:job_id>/approvals", "/approvals/<int:approval_id>/answer", "/incidents", "/incidents/<int:incident_id>/revisions",
    "/stores/shelves/<number>/<site>/acts", "/stores/shelves/<number>/<site>/recovered/<int:unit_id>", "/stores/shelves/<number>/<site>/top-up",
    "/stores/acts/<int:act_id>/undoing", "/stores/shelves/<number>/<site>/counts", "/stores/shelves/<number>/<site>/promises", "/stores/promises/<int:promise_id>",
    "/stores/waits/<int:wait_id>", "/stores/transfers", "/stores/transfers/<int:transfer_id>/acts", "/order-lines/<int:line_id>/receipts",
    "/receipts/<int:receipt_id>/undoing", "/stores/files/<name>", "/machine-reports/questions/<int:question_id>",
}  # fmt: skip
OF_THE_COMPANY = {
    "/pages", "/models/<int:model_id>/history/<int:number>/restore", "/pages/bundle", "/pages/file", "/photos", "/outlook/readings", "/reports",
    "/bench/drives/<int:unit_id>/custody", "/orders/<order_number>/mailings", "/orders/<order_number>/answers",
    "/orders/<order_number>/simulation", "/drafts", "/drafts/<int:draft_id>/lines", "/drafts/<int:draft_id>/acts",
}  # fmt: skip
"""What belongs to no site: pages, orders, readings, and where a drive went that left its machine."""


@pytest.fixture
def bound(demo_connection: Connection, technician: Client) -> Client:
    """A technician who works at GUL."""
    demo_connection.execute(
        text("INSERT INTO user_site SELECT u.id, s.id FROM \"user\" u, site s WHERE u.login = 'pell' AND s.code = 'GUL'")
    )
    return technician


def one(connection: Connection, query: str, *, there: bool) -> Any:
    return connection.execute(text(query.format("=" if there else "<>"))).one()


def test_every_request_a_technician_writes_with_is_told_apart(app: Flask) -> None:
    """A new one is kept to sites by what it writes, or somebody says that it belongs to none."""
    written = {
        rule.rule.removeprefix("/api/v1")
        for rule in app.url_map.iter_rules()
        if getattr(app.view_functions[rule.endpoint], "access_rule", None) == Role.TECHNICIAN
        and (rule.methods or set()) & {"POST", "DELETE", "PUT"}
    }
    assert written == KEPT_BY_WHAT_THEY_WRITE | OF_THE_COMPANY
    assert not KEPT_BY_WHAT_THEY_WRITE & OF_THE_COMPANY


def shelf_calls(lead: Client, shelf: Any) -> dict[str, Callable[[Client], Any]]:
    """Requests at a shelf that a technician may make, with what a lead did there before."""
    at = f"/api/v1/stores/shelves/{shelf.number}/{shelf.code}"
    other = "WID"
    act = lead.post(f"{at}/acts", {"act": "set_aside", "quantity": 1, "reason": "looked wet"}).get_json()["act_id"]
    parcel = {"part_number": shelf.number, "from_site": shelf.code, "to_site": other, "quantity": 1}
    packed = lead.post("/api/v1/stores/transfers", parcel)
    assert packed.status_code == 201, packed.get_json()
    made = packed.get_json()
    return {
        "count": lambda who: who.post(f"{at}/counts", {"counted": 2, "reason": "a walk"}),
        "act": lambda who: who.post(f"{at}/acts", {"act": "set_aside", "quantity": 1, "reason": "looked wet"}),
        "undo": lambda who: who.post(f"/api/v1/stores/acts/{act}/undoing", {"reason": "it was dry"}),
        "send": lambda who: who.post(
            f"/api/v1/stores/transfers/{made['id']}/acts", {"act": "send", "expected_version": made["version"], "reason": "van"}
        ),
        "pack": lambda who: who.post(
            "/api/v1/stores/transfers", {"part_number": shelf.number, "from_site": shelf.code, "to_site": other, "quantity": 1}
        ),
    }


def test_shelves_elsewhere_are_looked_at_and_left_as_they_are(bound: Client, lead: Client, demo_connection: Connection) -> None:
    for there in (False, True):
        shelf = one(demo_connection, SHELF, there=there)
        demo_connection.execute(text(FILLED), {"shelf": shelf.id})
        for name, call in shelf_calls(lead, shelf).items():
            answer = call(bound)
            assert (answer.status_code == 403) is not there, (name, shelf, answer.get_json())
            if not there:
                assert answer.get_json()["detail"].startswith(f"This happens at {shelf.code}, and you work at GUL.")
                assert call(lead).status_code < 300, name
            else:
                assert answer.status_code < 300, (name, answer.get_json())
        assert bound.get(f"/api/v1/stores/shelves/{shelf.number}/{shelf.code}").status_code == 200


def test_machines_elsewhere_are_not_opened_nor_complained_of(bound: Client, demo_connection: Connection) -> None:
    for there in (False, True):
        where = one(demo_connection, MACHINE, there=there)
        complaint = {
            "tag": where.tag,
            "occurred_on": DAY,
            "reason": "dark",
            "finding": "no_fault_found",
            "lines": [{"position_id": where.fan, "action": "kept"}],
            "confirmed": ["duplicate"],
        }
        correction = {"expected_number": where.number, "occurred_on": DAY, "reason": "dark", "finding": "no_fault_found"}
        opening = {"tag": where.tag, "targets": ["battery"], "symptom": "dark", "signs": []}
        calls = {"incidents": complaint, f"incidents/{where.incident}/revisions": correction, "jobs": opening}
        for path, body in calls.items():
            answer = bound.post(f"/api/v1/{path}", body)
            assert (answer.status_code == 403) is not there, (path, where, answer.get_json())


def test_a_job_elsewhere_is_read_and_not_taken_up(bound: Client, lead: Client, demo_connection: Connection) -> None:
    where = one(demo_connection, MACHINE, there=False)
    opened = lead.post("/api/v1/jobs", {"tag": where.tag, "targets": ["battery"], "symptom": "dark", "signs": []})
    assert opened.status_code == 201, opened.get_json()
    job = opened.get_json()["job_id"]
    assert bound.get(f"/api/v1/jobs/{job}").status_code == 200
    assert bound.post(f"/api/v1/jobs/{job}/lease", {"device": str(uuid4())}).status_code == 403
    assert lead.post(f"/api/v1/jobs/{job}/lease", {"device": str(uuid4())}).status_code == 200


def test_who_is_bound_to_none_writes_everywhere(technician: Client, demo_connection: Connection) -> None:
    shelf = one(demo_connection, SHELF, there=False)
    answer = technician.post(f"/api/v1/stores/shelves/{shelf.number}/{shelf.code}/counts", {"counted": 2, "reason": "a walk"})
    assert answer.status_code < 300, answer.get_json()


def test_a_file_with_one_line_of_another_site_is_taken_in_no_part(bound: Client, demo_connection: Connection) -> None:
    here, elsewhere = one(demo_connection, SHELF, there=True), one(demo_connection, SHELF, there=False)
    lines = [f"{shelf.code},{shelf.number},1,a walk" for shelf in (here, elsewhere)]
    file = "\n".join(["site,part_number,counted,reason", *lines]).encode()
    before = demo_connection.scalar(text("SELECT count(*) FROM stock_count"))
    sent = bound.post("/api/v1/stores/files/counts", None, data={"file": (io.BytesIO(file), "counts.csv")})
    assert sent.status_code == 403, sent.get_json()
    assert demo_connection.scalar(text("SELECT count(*) FROM stock_count")) == before
    alone = bound.post(
        "/api/v1/stores/files/counts",
        None,
        data={"file": (io.BytesIO("\n".join(["site,part_number,counted,reason", lines[0]]).encode()), "counts.csv")},
    )
    assert alone.status_code == 201, alone.get_json()
