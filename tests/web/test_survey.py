"""What is typed while a machine is walked: lines, labels and strings read over the API, and lines read in the act of saving."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import pytest
from PIL import Image

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


def picture(colour: str) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), colour).save(out, "PNG")
    return out.getvalue()


def send(client: Client, path: str, name: str, data: bytes) -> Any:
    return client.post(path, data={name: (io.BytesIO(data), "file.zip")}, content_type="multipart/form-data")


def zipped(**files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name.replace("__", "/").replace("_dot_", "."), data)
    return out.getvalue()


def test_photos_travel_with_a_page_and_come_back_with_it(technician: Client) -> None:
    digest = send(technician, "/api/v1/photos", "photo", picture("red")).get_json()["digest"]
    page = {
        "page_format": 2, "maker": "Ostrel", "name": "Yawl 9", "family": "Yawl", "form": "notebook", "evidence": EVIDENCE,
        "positions": [{**SLOT, "photos": [digest, "0" * 64]}],
    }  # fmt: skip
    model = technician.post("/api/v1/pages", {"page": page, "reason": "x", "number": None, "draft": True}).get_json()["model_id"]
    data = technician.get(f"/api/v1/models/{model}/page.zip").data
    assert data == technician.get(f"/api/v1/models/{model}/page.zip").data
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.namelist() == ["page.yaml", f"photos/{digest}.png"]
        text = archive.read("page.yaml").decode()
    assert send(technician, "/api/v1/pages/bundle", "file", data).get_json()["text"] == text
    # A photo from elsewhere is kept under its own digest, and the text says so.
    blue = send(
        technician, "/api/v1/pages/bundle", "file", zipped(page_dot_yaml=text.encode(), **{f"photos__{digest}_dot_png": picture("blue")})
    )
    kept = send(technician, "/api/v1/photos", "photo", picture("blue")).get_json()["digest"]
    assert blue.get_json()["text"] == text.replace(digest, kept) != text


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"no zip", "this is no page with its photos"),
        (zipped(photos__x_dot_png=b""), "holds no page.yaml"),
        (zipped(page_dot_yaml=b"a: b", evil_dot_sh=b"rm"), "also holds evil.sh"),
        (zipped(page_dot_yaml=b"a: b", photos__x_dot_png=b"no picture"), "a photo is a PNG or JPEG file"),
        (zipped(page_dot_yaml=b"a" * 1_100_000), "more than a page has"),
    ],
)
def test_what_is_no_exported_page_is_refused(technician: Client, data: bytes, words: str) -> None:
    answer = send(technician, "/api/v1/pages/bundle", "file", data)
    assert answer.status_code == 422
    assert words in answer.get_json()["faults"][0]["message"]
