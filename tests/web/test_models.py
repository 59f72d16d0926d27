"""The catalog over the API: index, page, route, fits, planners, changes, files, photos."""

from __future__ import annotations

import io
from typing import Any

import pytest
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from tests.web.conftest import Client


def model(client: Client, name: str) -> int:
    for row in client.get("/api/v1/models").get_json()["models"]:
        if f"{row['maker']} {row['name']}" == name:
            return int(row["model_id"])
    raise AssertionError(name)


def test_the_index_and_the_search(reader: Client) -> None:
    index = reader.get("/api/v1/models").get_json()
    assert len(index["models"]) == 15
    packet = next(row for row in index["models"] if row["name"] == "Packet 14")
    assert {"DDR4", "M.2", "memory", "soldered"} <= set(packet["takes"])
    found = reader.get("/api/v1/models", q="drive under the mainboard").get_json()["models"]
    assert [row["name"] for row in found] == ["Halyard 12"]
    assert "under the mainboard" in found[0]["reasons"][0]


@pytest.mark.parametrize(
    "name", ["Ostrel Packet 14", "Ostrel Packet 14 b", "Brindwell Counter 24", "Quillfin Bollard", "Brindwell Tiller 16"]
)
def test_a_page_answers_what_is_inside_and_how_deep(reader: Client, name: str) -> None:
    page = reader.get(f"/api/v1/models/{model(reader, name)}").get_json()
    assert f"{page['maker']} {page['name']}" == name
    assert page["plan"]["width_mm"] > 100
    keys = {position["key"] for position in page["positions"]}
    assert {key for layer in page["layers"] for key in layer["positions"]} == keys
    memory = next(position for position in page["positions"] if position["key"] == "memory_a")
    assert memory["minutes"] > 0
    rates = reader.get(f"/api/v1/models/{page['model_id']}/rates").get_json()["parts"]
    assert {part["part_number"] for part in memory["fitted"]} <= {part["part_number"] for part in rates}
    assert "SO-DIMM" in memory["takes"]
    assert all(step["under"] != "unknown" for step in page["steps"])


def test_facts_taken_over_and_options_are_told(reader: Client) -> None:
    twin = reader.get(f"/api/v1/models/{model(reader, 'Ostrel Packet 14 b')}").get_json()
    assert twin["inherits"] == "Ostrel Packet 14"
    assert twin["looks_like"][0] == {
        "model": "Ostrel Packet 14", "model_id": twin["inherits_id"], "ask": "Which memory generation does the settings screen report?",
        "here": "DDR5", "there": "DDR4",
    }  # fmt: skip
    battery = next(position for position in twin["positions"] if position["key"] == "battery")
    assert battery["facts"][0]["statements"][0]["inherited_from"] == "Ostrel Packet 14"
    tiller = reader.get(f"/api/v1/models/{model(reader, 'Brindwell Tiller 16')}").get_json()
    assert tiller["options"][0]["agrees"] == "yes"
    assert sum(value["machines"] for value in tiller["options"][0]["values"]) == tiller["fleet"]
    drive = next(position for position in tiller["positions"] if position["key"] == "drive")
    lengths = next(fact for fact in drive["fitted_facts"] if fact["name"] == "length_mm")
    assert [statement["grade"] for statement in lengths["statements"]] == ["label", "told"]


def test_a_route_and_its_sheets(reader: Client) -> None:
    number = model(reader, "Ostrel Halyard 14")
    route = reader.get(f"/api/v1/models/{number}/route", to="keyboard,fan_left").get_json()
    assert [step["id"] for step in route["steps"]][:2] == ["base_cover", "battery_plug"]
    assert route["escalations"][0]["reached"] == "palm_rest"
    assert route["escalations"][0]["other_minutes"] > 0
    assert route["saved_minutes"] > 0
    assert sorted(step["operation"] for step in route["back"]) == sorted(step["id"] for step in route["steps"])
    for sheet in ("route.pdf", "mat.pdf"):
        answer = reader.get(f"/api/v1/models/{number}/{sheet}", to="drive")
        assert answer.mimetype == "application/pdf"
        assert answer.data.startswith(b"%PDF")
    wrong = reader.get(f"/api/v1/models/{number}/route", to="engine")
    assert wrong.status_code == 422
    assert "engine" in wrong.get_json()["faults"][0]["message"]
    assert reader.get("/api/v1/models/999/route", to="drive").status_code == 404


def test_the_lift_helper_walks_its_looks(reader: Client) -> None:
    number = model(reader, "Brindwell Counter 20")
    first = reader.post(f"/api/v1/models/{number}/lift", {"operation": "back_cover", "looked": []}).get_json()
    assert first["id"] == "screw"
    looked = ["screw", "foot", "centre", "edge", "hook", "lead"]
    assert reader.post(f"/api/v1/models/{number}/lift", {"operation": "back_cover", "looked": looked}).get_json()["id"] == "stop"
    assert reader.post(f"/api/v1/models/{number}/lift", {"operation": "nothing"}).status_code == 404


def test_fits_memory_comparison_identification_and_line_up(reader: Client) -> None:
    number = model(reader, "Brindwell Tiller 16")
    fits = reader.get(f"/api/v1/models/{number}/positions/battery_small/fits").get_json()["parts"]
    verdicts = {fit["part_number"]: fit for fit in fits}
    assert verdicts["BB-T16-84"]["verdict"] == "yes"
    assert verdicts["BB-T16-84"]["practice"] == "84 Wh instead of 56 Wh"
    assert verdicts["OB-P14-60"]["verdict"] == "no"
    sheet = reader.post(f"/api/v1/models/{number}/memory", {"target_gb": 24, "fitted": {"memory_a": 8, "memory_b": 8}}).get_json()
    assert sheet["freed"] == [8]
    assert sheet["verdict"] == "yes"
    twins = f"{model(reader, 'Ostrel Packet 14')},{model(reader, 'Ostrel Packet 14 b')}"
    compared = reader.get("/api/v1/models/compare", models=twins).get_json()
    assert any(row["differs"] for row in compared["rows"])
    assert compared["shared"]
    asked = reader.post("/api/v1/models/identify", {"models": ["Ostrel Packet 14"]}).get_json()
    assert asked["key"] == "memory_generation"
    assert {choice["value"] for choice in asked["choices"]} == {"DDR4", "DDR5"}
    none = reader.post("/api/v1/models/identify", {"models": ["Ostrel Packet 14"], "answered": {"memory_generation": "DDR9"}})
    assert none.status_code == 422
    lines = reader.get("/api/v1/line-up").get_json()
    assert {kind["kind"] for kind in lines["kinds"]} == {"memory", "ssd", "battery", "fan"}


def test_planning_a_drive(reader: Client) -> None:
    address = f"/api/v1/models/{model(reader, 'Brindwell Tiller 16')}/drive"
    ask = {"position": "drive", "part_number": "LD-80512", "source_gb": 256, "used_gb": 120, "encrypted": False}
    sheet = reader.post(address, ask).get_json()
    assert (sheet["how"], sheet["fresh"]) == ("copy", "no")
    assert sheet["minutes"] == pytest.approx(120 / 0.4 / 60)
    failing = reader.post(address, {**ask, "failing": True}).get_json()
    assert failing["fresh"] == "yes"
    assert failing["first"] == ["a failing source is imaged first"]
    assert reader.post(address, {**ask, "used_gb": 300}).status_code == 422
    assert "no drive" in reader.post(address, {**ask, "part_number": "X"}).get_json()["detail"]


def test_changing_a_page_by_document_and_by_file(technician: Client, reader: Client) -> None:
    number = model(technician, "Ostrel Packet 13")
    document = technician.get(f"/api/v1/models/{number}/document").get_json()
    document["page"]["family"] = "Packet small"
    change = {"page": document["page"], "reason": "Renamed the family", "number": document["number"]}
    assert reader.post("/api/v1/pages", change).status_code == 403
    saved = technician.post("/api/v1/pages", change)
    assert saved.status_code == 201
    assert technician.post("/api/v1/pages", change).status_code == 409
    history = technician.get(f"/api/v1/models/{number}/history").get_json()["revisions"]
    assert [row["reason"] for row in history] == ["Renamed the family", "First survey"]
    assert technician.post(f"/api/v1/models/{number}/history/1/restore", {"latest": 2}).get_json()["number"] == 3
    text = technician.get(f"/api/v1/models/{number}/page.yaml").data.decode()
    report = technician.post("/api/v1/pages/file", {"text": text}).get_json()
    assert report["sound"]
    assert report["known_number"] == 3
    broken = text.replace("needs: battery_out, drive_out", "needs: battery_of, drive_out")
    report = technician.post("/api/v1/pages/file", {"text": broken}).get_json()
    assert not report["sound"]
    assert any("battery_of" in fault["message"] and fault["line"] > 80 for fault in report["faults"])
    refused = technician.post("/api/v1/pages/file", {"text": broken, "write": True, "number": 3})
    assert refused.status_code == 422
    drafted = technician.post("/api/v1/pages/file", {"text": broken, "write": True, "number": 3, "draft": True}).get_json()
    assert drafted["saved"]["draft"]
    checked = technician.post("/api/v1/pages/check", {"page": {"page_format": 1}}).get_json()
    assert not checked["sound"]


def test_an_untouched_page_is_not_in_fault(technician: Client) -> None:
    page = {"page_format": 2, "maker": "", "name": "", "family": "", "form": "notebook", "positions": [], "operations": [], "identity": {}}
    checked = technician.post("/api/v1/pages/check", {"page": page}).get_json()
    assert not checked["sound"]
    assert [(fault["where"], fault["open"]) for fault in checked["faults"]] == [("maker", True), ("name", True), ("family", True)]
    wrong = technician.post("/api/v1/pages/check", {"page": {**page, "operations": [{"id": "a", "text": "A", "needs": ["b"]}]}}).get_json()
    assert any("no operation is called 'b'" in fault["message"] and not fault["open"] for fault in wrong["faults"])  # checked all the same
    named = {**page, "maker": "M", "name": "N", "family": "F"}
    assert technician.post("/api/v1/pages/check", {"page": named}).get_json() == {"sound": True, "faults": []}


def test_quick_entry_and_proposals(technician: Client) -> None:
    line = technician.post("/api/v1/pages/shorthand", {"line": "6x PH1 M2.5x4 captive, 1 hidden under label, 2 wobbly"}).get_json()
    assert line["total"] == "8"
    assert line["unread"] == ["wobbly"]
    assert line["groups"][1]["entry"]["hidden"] == "label"
    label = technician.post("/api/v1/pages/label", {"text": "15.2V 3.95Ah 60Wh", "kind": "battery"}).get_json()
    assert label["facts"]["series"] == 4
    notes = "memory reads 8GB PC4-3200S\nscrews: 3 long, 5 short, 9 in total\nthe fan rattles"
    positions = [{"key": "memory_a", "kind": "memory", "label": "Slot A"}]
    found = technician.post("/api/v1/pages/proposals", {"text": notes, "positions": positions}).get_json()["proposals"]
    assert [item["field"] for item in found] == ["facts", "fasteners", "note"]
    assert found[0]["target"] == "memory_a"
    assert "add up to 8" in found[1]["flags"][0]
    assert technician.post("/api/v1/pages/proposals", {"text": "x", "positions": [{"key": "a"}]}).status_code == 422


def picture(size: tuple[int, int] = (40, 30), **info: str) -> bytes:
    kept = PngInfo()
    for key, value in info.items():
        kept.add_text(key, value)
    out = io.BytesIO()
    Image.new("RGB", size, "red").save(out, "PNG", pnginfo=kept)
    return out.getvalue()


def send(client: Client, data: bytes) -> Any:
    upload = {"photo": (io.BytesIO(data), "photo.png")}
    return client.post("/api/v1/photos", data=upload, content_type="multipart/form-data")


def test_photos_lose_their_metadata_and_anything_else_is_refused(technician: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    kept = send(technician, picture(Comment="taken at home"))
    assert kept.status_code == 201
    digest = kept.get_json()["digest"]
    data = technician.get(f"/api/v1/photos/{digest}.png").data
    assert b"taken at home" not in data
    assert send(technician, picture(Comment="another day")).get_json()["digest"] == digest
    jpeg, notes = io.BytesIO(), Image.Exif()
    notes[0x0112], notes[0x010E] = 6, "taken at home"  # held upright, and a remark
    Image.new("RGB", (40, 20), "blue").save(jpeg, "JPEG", exif=notes)
    turned = send(technician, jpeg.getvalue()).get_json()
    assert (turned["width"], turned["height"]) == (20, 40)
    assert b"taken at home" not in technician.get(f"/api/v1/photos/{turned['digest']}.png").data
    assert send(technician, jpeg.getvalue()[:200]).status_code == 422
    monkeypatch.setattr("almanac.services.pages.photos.MOST_BYTES", 5000)
    for wrong in (b"GIF89a", picture()[:60], b"\x89PNG\r\n\x1a\n" + b"x" * 5000):
        assert send(technician, wrong).status_code == 422
    assert technician.post("/api/v1/photos").status_code == 422
    assert technician.get("/api/v1/photos/none.png").status_code == 404
