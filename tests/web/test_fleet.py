"""The register: what is looked for, counted by age, changed together, kept under a name, labelled; and what is due today."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest
from flask import Flask
from sqlalchemy import Connection, text

from tests.web.conftest import Client

REGISTER = "/api/v1/fleet/machines"


def found(client: Client, **query: Any) -> dict[str, Any]:
    answer = client.get(REGISTER, **query)
    assert answer.status_code == 200, answer.get_data(as_text=True)
    body: dict[str, Any] = answer.get_json()
    return body


def count(connection: Connection, where: str) -> int:
    return int(connection.scalar(text(f"SELECT count(*) FROM asset a WHERE {where}")) or 0)


@pytest.mark.parametrize(
    ("query", "where"),
    [
        ({}, "retired_on IS NULL"),
        ({"standing": "retired"}, "retired_on IS NOT NULL"),
        ({"standing": "all"}, "true"),
        ({"duty": "two_shifts,round_the_clock"}, "retired_on IS NULL AND duty <> 'office_hours'"),
        ({"model": "1,3"}, "retired_on IS NULL AND model_id IN (1, 3)"),
        (
            {"site": "gul"},
            "retired_on IS NULL AND EXISTS (SELECT 1 FROM asset_stay y JOIN site s ON s.id = y.site_id WHERE y.asset_id = a.id AND y.until_on IS NULL AND s.code = 'GUL')",
        ),
        ({"youngest": 2, "oldest": 3}, "retired_on IS NULL AND date '2026-11-01' - in_service_on >= 730.5 AND date '2026-11-01' - in_service_on < 1095.75"),
        ({"q": "sk-00"}, "retired_on IS NULL AND (tag ILIKE '%sk-00%' OR serial ILIKE '%sk-00%')"),
        ({"q": "%"}, "false"),
        ({"wanted": "failed"}, "retired_on IS NULL AND EXISTS (SELECT 1 FROM incident i WHERE i.asset_id = a.id AND i.occurred_on > date '2025-11-01')"),
        ({"wanted": "retiring"}, "retired_on IS NULL AND retire_planned_on BETWEEN date '2026-11-01' AND date '2026-11-01' + 183"),
    ],
    ids=str,
)  # fmt: skip
def test_what_is_looked_for_is_what_is_found(lead: Client, demo_connection: Connection, query: dict[str, Any], where: str) -> None:
    assert found(lead, most=1, **query)["total"] == count(demo_connection, where)


@pytest.mark.parametrize("wanted", ["job", "stopped", "worn", "warranty", "retiring", "unrecorded", "noted", "asked", "silent", "failed"])
def test_every_wish_is_understood_and_narrows(lead: Client, wanted: str) -> None:
    some, all_of = found(lead, wanted=wanted, most=500), found(lead, most=1)
    assert 0 <= some["total"] < all_of["total"]
    assert len(some["machines"]) == min(some["total"], 500)


def test_packs_below_their_limit_are_found_by_their_last_reading(lead: Client, demo_connection: Connection) -> None:
    shares = demo_connection.execute(
        text("""SELECT a.tag, min(r.share) FROM asset a JOIN tenure t ON t.asset_id = a.id AND t.removed_on IS NULL
                JOIN LATERAL (SELECT "full" / design AS share FROM reading d WHERE d.tenure_id = t.id
                ORDER BY read_on DESC, id DESC LIMIT 1) r ON true WHERE a.retired_on IS NULL GROUP BY a.tag""")
    )
    lowest = {tag: share for tag, share in shares}
    body = found(lead, wanted="worn", most=500)
    assert {row["tag"] for row in body["machines"]} <= set(lowest)
    for row in body["machines"]:
        assert row["share"] == pytest.approx(lowest[row["tag"]])


@pytest.mark.parametrize(
    ("sort", "key"),
    [
        ("tag", lambda row: row["tag"]),
        ("model", lambda row: row["model"]),
        ("age", lambda row: row["in_service_on"]),
        ("failed", lambda row: row["failures"]),
    ],
)
def test_pages_follow_one_another_in_order(lead: Client, sort: str, key: Any) -> None:
    for descending in (False, True):
        pages = [found(lead, sort=sort, descending=descending, first=first, most=50)["machines"] for first in (0, 50, 100)]
        rows = [row for page in pages for row in page]
        assert len({row["tag"] for row in rows}) == 150
        values = [key(row) for row in rows]
        assert values == sorted(values, reverse=descending)


def test_the_same_as_csv_holds_every_machine(lead: Client) -> None:
    body = lead.get("/api/v1/fleet/machines.csv", model="3").get_data()
    rows = list(csv.DictReader(io.StringIO(body.decode("utf-8-sig"))))
    assert {row["model"] for row in rows} == {found(lead, model="3", most=1)["machines"][0]["model"]}
    assert len(rows) == found(lead, model="3", most=1)["total"]


@pytest.mark.parametrize("query", [{"duty": "never"}, {"wanted": "love"}, {"youngest": 3, "oldest": 3}])
def test_words_nothing_is_known_by_are_refused(lead: Client, query: dict[str, Any]) -> None:
    assert lead.get(REGISTER, **query).status_code == 422


def test_ages_add_up_to_the_register_and_asks_to_the_rates(lead: Client) -> None:
    by_model, by_site = (lead.get("/api/v1/fleet/ages", by=by).get_json() for by in ("model", "site"))
    total = found(lead, most=1)["total"]
    for ages in (by_model, by_site):
        assert sum(sum(row["machines"]) for row in ages["rows"]) == total

    def asked(ages: dict[str, Any], kind: str) -> float:
        return sum(float(one["failures"]) for row in ages["rows"] for one in row["asks"] if one["kind"] == kind)

    for kind in by_model["kinds"]:
        assert asked(by_model, kind) == pytest.approx(asked(by_site, kind))
        rates = lead.get(f"/api/v1/rates/{kind}").get_json()["rates"]
        wave = sum(quarter["expected"] for quarter in rates["wave"][:4])
        assert wave > 0
        assert asked(by_model, kind) == pytest.approx(wave, rel=0.02)
    here = lead.get("/api/v1/fleet/ages", by="model", site="GUL").get_json()
    of_site = next(row for row in by_site["rows"] if row["key"] == "GUL")
    assert sum(sum(row["machines"]) for row in here["rows"]) == sum(of_site["machines"])
    assert asked(here, "fan") == pytest.approx(next(one["failures"] for one in of_site["asks"] if one["kind"] == "fan"))


def some_machines(lead: Client, count_: int = 3) -> list[dict[str, Any]]:
    rows = found(lead, most=count_, sort="age", site="ELD")["machines"]
    return [{"tag": row["tag"], "changes": row["changes"]} for row in rows]


def test_many_machines_move_together(lead: Client) -> None:
    machines = some_machines(lead)
    answer = lead.post("/api/v1/fleet/changes", {"machines": machines, "act": "move", "site": "GUL", "on": "2026-11-01"})
    assert answer.get_json() == {"machines": 3}
    tags = {one["tag"] for one in machines}
    assert tags <= {row["tag"] for row in found(lead, site="GUL", most=500, sort="age")["machines"]}
    again = lead.post("/api/v1/fleet/changes", {"machines": machines, "act": "plan", "on": "2027-03-01"})
    assert again.status_code == 422
    assert "changed meanwhile" in again.get_json()["faults"][0]["message"]


def test_one_that_cannot_be_changed_holds_up_all_and_is_named(lead: Client) -> None:
    machines = some_machines(lead)
    before = found(lead, site="ELD", most=1)["total"]
    mixed = [*machines, {"tag": "SK-9999", "changes": 0}]
    answer = lead.post("/api/v1/fleet/changes", {"machines": mixed, "act": "retire", "on": "2026-11-01"})
    assert answer.status_code == 422
    assert [fault["message"] for fault in answer.get_json()["faults"]] == ["SK-9999: no machine has the tag SK-9999"]
    assert found(lead, site="ELD", most=1)["total"] == before


@pytest.mark.parametrize(
    ("act", "more", "field", "value"),
    [
        ("duty", {"duty": "round_the_clock"}, "duty", "round_the_clock"),
        ("plan", {"on": "2027-03-01"}, "retire_planned_on", "2027-03-01"),
        ("plan", {"on": None}, "retire_planned_on", None),
        ("retire", {"on": "2026-11-01"}, "retired_on", "2026-11-01"),
    ],
)
def test_each_change_of_many(lead: Client, act: str, more: dict[str, Any], field: str, value: object) -> None:
    machines = some_machines(lead)
    assert lead.post("/api/v1/fleet/changes", {"machines": machines, "act": act, **more}).status_code == 201
    for one in machines:
        row = found(lead, q=one["tag"], standing="all")["machines"][0]
        assert row[field] == value


@pytest.mark.parametrize("body", [{"act": "move", "site": "GUL"}, {"act": "move", "site": "NOW", "on": "2026-11-01"}, {"act": "retire"}])
def test_a_change_of_many_that_says_too_little_is_refused(lead: Client, body: dict[str, Any]) -> None:
    assert lead.post("/api/v1/fleet/changes", {"machines": some_machines(lead), **body}).status_code == 422


def test_looks_are_kept_by_each_for_oneself(lead: Client, technician: Client) -> None:
    kept = lead.post("/api/v1/fleet/views", {"name": " Old packs ", "query": "wanted=worn"}).get_json()
    assert kept["name"] == "Old packs"
    lead.post("/api/v1/fleet/views", {"name": "Old packs", "query": "wanted=worn&sort=age"})
    assert [view["query"] for view in lead.get("/api/v1/fleet/views").get_json()["views"]] == ["wanted=worn&sort=age"]
    assert technician.get("/api/v1/fleet/views").get_json()["views"] == []
    assert technician.delete(f"/api/v1/fleet/views/{kept['id']}").status_code == 404
    assert lead.delete(f"/api/v1/fleet/views/{kept['id']}").status_code == 200
    assert lead.post("/api/v1/fleet/views", {"name": "", "query": ""}).status_code == 422


@pytest.mark.parametrize("single", [False, True])
def test_labels_are_printed_of_machines_that_are_on_record(lead: Client, single: bool) -> None:
    answer = lead.get("/api/v1/fleet/labels.pdf", tags="sk-0001,SK-0002", single=str(single).lower())
    assert answer.mimetype == "application/pdf"
    assert answer.get_data().startswith(b"%PDF")
    assert answer.get_data().count(b"/Type /Page\n") + answer.get_data().count(b"/Type /Page ") in (0, 1, 2)
    unknown = lead.get("/api/v1/fleet/labels.pdf", tags="SK-0001,SK-9999")
    assert unknown.status_code == 404
    assert "SK-9999" in unknown.get_json()["detail"]


def test_today_tells_a_lead_and_a_technician_each_their_own(lead: Client, app: Flask) -> None:
    own = lead.get("/api/v1/today", role="lead").get_json()
    bench = lead.get("/api/v1/today", role="technician").get_json()
    looks = lead.get("/api/v1/today", role="reader").get_json()
    orders = [one for one in own["due"] if one["group"] == "order"]
    outlook = lead.get("/api/v1/outlook").get_json()
    due = {row["number"] for row in outlook["rows"] if row["quantity"] > 0} if "rows" in outlook else set()
    assert {one["path"].rsplit("/", 1)[1] for one in orders if one["words"].startswith("order ")} >= due
    assert not any(one["group"] == "order" for one in bench["due"])
    assert {one["group"] for one in looks["due"]} <= {"waiting"}
    assert all(one["on"] is None or one["on"] <= own["as_of"] for one in own["due"])
    assert all(one["on"] > own["as_of"] for one in own["coming"])
    assert all(one["on"] < own["as_of"] for one in own["due"] if one["late"])
    known = {rule.rule.split("/")[1] for rule in app.url_map.iter_rules()} | {
        "outlook",
        "bench",
        "rates",
        "stores",
        "ledger",
        "fleet",
        "company",
    }
    assert all(one["path"].split("/")[1].split("?")[0] in known for one in own["due"])


def test_the_script_for_machines_is_the_one_that_ships(reader: Client) -> None:
    answer = reader.get("/api/v1/machine-reports/almanac-report")
    assert answer.status_code == 200
    assert answer.get_data().startswith(b"#!/bin/sh")


def test_questions_of_reports_are_settled_by_hands(lead: Client, reader: Client, demo_connection: Connection) -> None:
    demo_connection.execute(
        text("INSERT INTO report_question (asset_id, words, raised_on, said_last_on, reason) VALUES (1, 'says otherwise', '2026-10-30', '2026-10-31', '')")
    )  # fmt: skip
    body = lead.get("/api/v1/machine-reports").get_json()
    assert [(one["tag"], one["words"]) for one in body["questions"]] == [("SK-0001", "says otherwise")]
    path = f"/api/v1/machine-reports/questions/{body['questions'][0]['id']}"
    assert reader.post(path, {"reason": "x"}).status_code == 403
    assert lead.post(path, {"reason": "its gauge is new"}).status_code == 201
    assert lead.get("/api/v1/machine-reports").get_json()["total"] == 0


@pytest.mark.parametrize(
    ("words", "kind", "key"),
    [
        ("gullskerry", "site", "GUL"),
        ("GUL", "site", "GUL"),
        ("battery", "kind", "battery"),
        ("rehearsal", "page", "/outlook/rehearsal"),
        ("exceptions", "page", "/bench?open=exceptions"),
        ("sk-0001", "asset", "SK-0001"),
        ("of-p14", "part", "OF-P14"),
        ("Gulskery", "site", "GUL"),
        ("Hallyard 14", "model", None),
        ("OF-P41", "part", None),
    ],
)
def test_the_find_field_finds_what_has_a_name_or_a_number(lead: Client, words: str, kind: str, key: str | None) -> None:
    rows = lead.get("/api/v1/find", q=words).get_json()["found"]
    assert rows[0]["kind"] == kind
    assert key is None or rows[0]["key"] == key


def test_an_order_is_found_and_a_machine_is_never_guessed(lead: Client, demo_connection: Connection) -> None:
    number = str(demo_connection.scalar(text("SELECT number FROM purchase_order ORDER BY id DESC LIMIT 1")))
    assert lead.get("/api/v1/find", q=number.lower()).get_json()["found"][0] | {"detail": ""} == {
        "kind": "order",
        "key": number,
        "label": number,
        "detail": "",
    }
    assert not any(row["kind"] == "asset" for row in lead.get("/api/v1/find", q="SK-99999").get_json()["found"])
    assert lead.get("/api/v1/find", q="zzzqqqxxx").get_json()["found"] == []


def retired(lead: Client, tag: str) -> int:
    changes = lead.get(f"/api/v1/machines/{tag}").get_json()["number_of_changes"]
    assert lead.post(f"/api/v1/machines/{tag}/retirement", {"on": "2026-10-30", "expected_changes": changes}).status_code == 201
    return int(lead.get(f"/api/v1/machines/{tag}").get_json()["number_of_changes"])


GONE = {"gone": "recycled", "data": "drive destroyed", "proof": "C-118", "on": "2026-10-31"}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"data": "it had no drive"}, "data"),
        ({"proof": "  "}, "proof"),
        ({"on": "2026-10-29"}, "on"),
        ({"on": "2026-11-02"}, "on"),
    ],
)
def test_a_machine_leaves_for_good_only_with_what_became_of_its_data(lead: Client, change: dict[str, str], field: str) -> None:
    changes = retired(lead, "SK-0003")
    answer = lead.post("/api/v1/machines/SK-0003/disposal", {**GONE, **change, "expected_changes": changes})
    assert answer.status_code == 422
    assert [fault["field"] for fault in answer.get_json()["faults"]] == [field]
    assert lead.get("/api/v1/machines/SK-0003").get_json()["disposed_on"] is None


def test_a_disposal_stays_on_record_and_goes_with_a_retirement_that_was_none(lead: Client) -> None:
    early = {**GONE, "expected_changes": lead.get("/api/v1/machines/SK-0003").get_json()["number_of_changes"]}
    assert "retire it first" in lead.post("/api/v1/machines/SK-0003/disposal", early).get_json()["faults"][0]["message"]
    changes = retired(lead, "SK-0003")
    assert lead.post("/api/v1/machines/SK-0003/disposal", {**GONE, "expected_changes": changes}).status_code == 201
    page = lead.get("/api/v1/machines/SK-0003").get_json()
    assert (page["disposed_on"], page["disposal"]) == ("2026-10-31", "recycled; drive destroyed; C-118")
    again = lead.post("/api/v1/machines/SK-0003/disposal", {**GONE, "expected_changes": page["number_of_changes"]})
    assert "it left on 31 Oct 2026" in again.get_json()["faults"][0]["message"]
    back = lead.post("/api/v1/machines/SK-0003/return", {"expected_changes": page["number_of_changes"]})
    assert back.status_code == 201
    page = lead.get("/api/v1/machines/SK-0003").get_json()
    assert (page["disposed_on"], page["retired_on"]) == (None, None)
    assert any(change["field"] == "disposed" for change in page["changes"])


def test_a_machines_page_says_what_it_is_worth_and_what_was_read(lead: Client, demo_connection: Connection) -> None:
    tag = demo_connection.scalar(
        text("""SELECT a.tag FROM asset a JOIN tenure t ON t.asset_id = a.id JOIN reading r ON r.tenure_id = t.id
                WHERE t.removed_on IS NULL AND a.retired_on IS NULL GROUP BY a.tag ORDER BY count(*) DESC, a.tag LIMIT 1""")
    )
    page = lead.get(f"/api/v1/machines/{tag}").get_json()
    curve = page["curves"][0]
    assert [point["on"] for point in curve["points"]] == sorted(point["on"] for point in curve["points"])
    assert 0.5 < curve["threshold"] < 0.95
    prices = demo_connection.execute(
        text("""SELECT q.kind, q.price, date '2026-11-01' - t.fitted_on FROM tenure t JOIN part q ON q.id = t.part_id
                JOIN asset a ON a.id = t.asset_id WHERE a.tag = :tag AND t.removed_on IS NULL"""),
        {"tag": tag},
    )
    worth = sum(
        max(0.0, float(price) * (1 - page["harvest"]["penalty"] * days / 365.25)) for kind, price, days in prices if kind != "battery"
    )
    assert page["harvest"]["worth"] == pytest.approx(worth)


def test_the_last_reading_tells_whether_a_part_is_worn(lead: Client, demo_connection: Connection) -> None:
    tenure, tag = demo_connection.execute(
        text("""SELECT t.id, a.tag FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN part q ON q.id = t.part_id WHERE q.kind = 'battery'
                AND t.removed_on IS NULL AND a.retired_on IS NULL AND t.fitted_on < '2026-01-01' ORDER BY t.id LIMIT 1""")
    ).one()

    def worn(on: str, share: int) -> bool:
        demo_connection.execute(
            text('INSERT INTO reading (tenure_id, read_on, "full", design, recorded_at) VALUES (:t, :on, :share, 100, now())'),
            {"t": tenure, "on": on, "share": share},
        )
        return tag in {one["tag"] for one in found(lead, wanted="worn", most=500)["machines"]}

    assert worn("2026-10-20", 40)
    assert not worn("2026-10-31", 97)
    assert worn("2026-11-01", 55)
