"""What is typed while a machine is walked: lines, labels and strings read over the API, and lines read in the act of saving."""

from __future__ import annotations

from typing import Any

from tests.web.conftest import Client

EVIDENCE = {"grade": "measured", "source": "R. Pell", "date": "2026-10-30"}
SLOT = {"key": "memory_a", "label": "Memory slot A", "kind": "memory"}


def line(client: Client, place: list[str], text: str, **at: Any) -> Any:
    return client.post("/api/v1/pages/line", {"line": {"place": place, "text": text}, "evidence": EVIDENCE, **at})


def test_a_typed_line_is_read_into_what_it_was_typed_at(technician: Client) -> None:
    read = line(technician, ["positions", "memory_a", "takes"], "maximum gb: 64", position=SLOT).get_json()
    assert read["takes"]["maximum_gb"][0]["value"] == 64
    assert read["faults"] == []
    step = {"id": "cover", "text": "Lift the cover"}
    fasteners = line(technician, ["operations", "cover", "fasteners"], "3x PH1 M2.5x4", operation=step).get_json()["fasteners"]
    assert [entry["count"] for entry in fasteners] == [3]
    assert line(technician, ["facts"], "memory tried gb: 32").get_json()["facts"]["memory_tried_gb"][0]["value"] == 32
    asked = line(technician, ["positions", "memory_a", "fitted"], "16GB (2x8GB) DDR4", position=SLOT).get_json()
    assert any("kit of 2 x 8 GB" in question for question in asked["asked"])


def test_a_line_without_a_place_is_refused_in_words(technician: Client) -> None:
    strange = line(technician, ["positions", "gone", "takes"], "generation: DDR4", position=SLOT).get_json()
    assert "was typed for gone" in strange["faults"][0]["message"]
    assert line(technician, [], "generation: DDR4").status_code == 422
    assert line(technician, ["positions", "memory_a", "takes"], "x", position={"key": "memory_a"}).status_code == 422


def test_lines_are_read_as_the_page_is_saved_or_nothing_is(technician: Client) -> None:
    page: dict[str, Any] = {
        "page_format": 2, "maker": "Ostrel", "name": "Yawl 9", "family": "Yawl", "form": "notebook", "evidence": EVIDENCE, "positions": [SLOT],
    }  # fmt: skip
    change = {"page": page, "reason": "Looked inside", "number": None, "draft": True}
    wrong = technician.post(
        "/api/v1/pages", {**change, "lines": [{"place": ["positions", "memory_a", "takes"], "text": "generaton: DDR4"}]}
    )
    assert wrong.status_code == 422
    assert "generaton" in wrong.get_json()["faults"][0]["message"]
    assert "Yawl 9" not in [row["name"] for row in technician.get("/api/v1/models").get_json()["models"]]
    right = technician.post(
        "/api/v1/pages", {**change, "lines": [{"place": ["positions", "memory_a", "takes"], "text": "generation: ddr4"}]}
    )
    saved = technician.get(f"/api/v1/models/{right.get_json()['model_id']}/document").get_json()["page"]
    assert saved["positions"][0]["takes"]["generation"][0]["value"] == "DDR4"


def test_labels_of_machines_and_strings_on_parts(technician: Client) -> None:
    told = technician.post("/api/v1/pages/machine-label", {"text": "BRINDWELL TILLER 13 4 TL13", "form": "notebook"}).get_json()
    assert (told["maker"], told["family"], told["size_inches"], told["series"], told["generation"]) == (
        "Brindwell",
        "Tiller",
        13.0,
        4,
        None,
    )
    roles = technician.post("/api/v1/pages/strings", {"texts": ["REV 03", "ld-80512", "???"]}).get_json()["roles"]
    assert roles == {"REV 03": "revision", "ld-80512": "spare_code", "???": "unknown"}
