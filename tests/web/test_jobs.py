"""The bench over HTTP: open, lease, entries, report, diagnosis, closing, and what is refused."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy.orm import Session

from almanac.standins.scanner import Label
from tests.services.helpers import Bench
from tests.services.jobs import machine
from tests.web.conftest import Client


class BenchClient:
    """One browser at the bench with a job."""

    def __init__(self, client: Client, where: Bench, key: str, **changes: Any) -> None:
        self.client, self.where, self.key, self.device = client, where, key, str(uuid4())
        asked = {"tag": where.tag, "symptom": "loud", "targets": [key], "signs": []} | changes
        answer = client.post("/api/v1/jobs", asked)
        assert answer.status_code == 201, answer.get_json()
        self.id = answer.get_json()["job_id"]

    def post(self, what: str, **data: Any) -> Any:
        return self.client.post(f"/api/v1/jobs/{self.id}/{what}", {"device": self.device} | data)

    def says(self, kind: str, **data: Any) -> Any:
        entry = {"key": str(uuid4()), "kind": kind, "data": data, "done_at": "2026-11-01T09:00:00Z"}
        return self.post("entries", entries=[entry]).get_json()

    @property
    def job(self) -> Any:
        return self.client.get(f"/api/v1/jobs/{self.id}").get_json()


@pytest.fixture
def fan(session: Session, technician: Client) -> BenchClient:
    where, key = machine(session, "fan")
    return BenchClient(technician, where, key)


def test_a_job_shows_its_steps_gates_trays_and_what_fits(fan: BenchClient) -> None:
    job = fan.job
    assert [gate["id"] for gate in job["gates"]] == ["power"]
    assert job["steps"][0]["gates"] == ["power"]
    assert job["swaps"][0]["held"] == fan.where.part
    assert fan.where.part in [fit["part_number"] for fit in job["swaps"][0]["fits"]]
    assert sum(tray["expected"] for tray in job["tray"]) > 0
    assert all(tray["out"] == 0 for tray in job["tray"])
    listed = fan.client.get("/api/v1/jobs").get_json()["jobs"]
    assert [row["id"] for row in listed] == [fan.id]
    assert fan.client.get("/api/v1/jobs", ended="true").get_json()["jobs"] == []


def test_entries_are_taken_in_order_and_refusals_say_why(fan: BenchClient) -> None:
    step = fan.job["steps"][0]["id"]
    refused = fan.says("step", step=step)
    assert refused["reasons"] == ["before this step: Power off"]
    assert refused["refused_key"]
    passed = fan.says("gate", gate="power", answers={"shut_down": True, "outside_off": True, "no_light": True})
    assert passed["job"]["gates"] == []
    assert fan.says("step", step=step)["job"]["done"] == [step]


def test_a_job_is_taken_over_with_a_question(fan: BenchClient, lead: Client) -> None:
    assert fan.post("lease").status_code == 200
    other = {"device": str(uuid4())}
    asked = lead.post(f"/api/v1/jobs/{fan.id}/lease", other)
    assert (asked.status_code, asked.get_json()["question"]) == (409, "takeover")
    assert lead.post(f"/api/v1/jobs/{fan.id}/lease", other | {"takeover": True}).status_code == 200
    lost = fan.client.post(
        f"/api/v1/jobs/{fan.id}/entries",
        {
            "device": fan.device,
            "entries": [{"key": str(uuid4()), "kind": "note", "data": {"words": "x"}, "done_at": "2026-11-01T09:00:00Z"}],
        },
    )
    assert (lost.status_code, lost.get_json()["question"]) == (409, "stale")
    assert lead.post(f"/api/v1/jobs/{fan.id}/release", other).status_code == 200


def test_the_closing_is_refused_by_name(fan: BenchClient) -> None:
    fan.says("gate", gate="power", answers={"shut_down": True, "outside_off": True, "no_light": True})
    fan.says("step", step=fan.job["steps"][0]["id"])
    answer = fan.post("close", finding="open", lines=[{"position": fan.key, "action": "kept"}])
    assert answer.status_code == 422
    assert any("not done" in fault["message"] for fault in answer.get_json()["faults"])
    assert fan.post("targets", targets=[fan.key, "drive"]).status_code == 422
    grown = fan.post("targets", targets=[fan.key, "drive"], reason="drive clicks")
    assert set(grown.get_json()["targets"]) == {fan.key, "drive"}


def test_abandoning_and_reopening(fan: BenchClient) -> None:
    assert fan.post("reopen".replace("reopen", "abandon"), reason="").status_code == 422
    assert fan.post("abandon", reason="machine retired").get_json() == {"incident_id": None}
    again = fan.client.post(f"/api/v1/jobs/{fan.id}/reopen", {"reason": "x"})
    assert again.status_code == 422
    assert fan.client.post(f"/api/v1/jobs/{fan.id}/settle", {"finding": "confirmed"}).status_code == 422


def test_the_simulated_machine_and_a_pasted_report(fan: BenchClient) -> None:
    figures = fan.post("stand-in", fault="fan").get_json()["figures"]
    assert {item["verdict"] for item in figures if item["what"] == "fan"} == {"no"}
    assert fan.job["report"][0]["what"] == figures[0]["what"]
    assert fan.post("report", text="nothing of use").status_code == 422


def test_diagnosis_ranks_tests_and_results_change_the_table(fan: BenchClient) -> None:
    symptoms = [row["id"] for row in fan.client.get("/api/v1/symptoms").get_json()["symptoms"]]
    assert "loud_fan" in symptoms
    ranked = fan.client.get("/api/v1/symptoms", words="hangs after a wile").get_json()["symptoms"]
    assert (ranked[0]["id"], {row["id"] for row in ranked}) == ("freezes", set(symptoms))
    before = fan.client.get(f"/api/v1/jobs/{fan.id}/diagnosis/loud_fan").get_json()
    assert sum(row["posterior"] for row in before["hypotheses"]) == pytest.approx(1)
    assert next(row for row in before["hypotheses"] if row["id"] == "fan")["basis"].endswith("from the log")
    fan.says("test", symptom="loud_fan", test="listen", outcome="grinds or ticks")
    after = fan.client.get(f"/api/v1/jobs/{fan.id}/diagnosis/loud_fan").get_json()
    share = [next(row["posterior"] for row in view["hypotheses"] if row["id"] == "fan") for view in (before, after)]
    assert share[1] > share[0]
    heard = {"test": "listen", "words": "Listen close by, slow and fast", "outcome": "grinds or ticks", "told": True, "job": None}
    assert after["results"] == [heard]
    assert "listen" not in [test["id"] for test in after["tests"]]
    assert [test["tells"] for test in before["tests"] if test["id"] == "busy"] == ["tells “a program keeps it busy” from all else"]
    fan.says("untest", symptom="loud_fan", test="listen", outcome="grinds or ticks")
    assert fan.client.get(f"/api/v1/jobs/{fan.id}/diagnosis/loud_fan").get_json() == before
    assert fan.client.get(f"/api/v1/jobs/{fan.id}/diagnosis/ghosts").status_code == 404


def test_repair_replace_and_harvest_are_costed(fan: BenchClient) -> None:
    options = fan.client.get(f"/api/v1/jobs/{fan.id}/options").get_json()
    assert [choice["name"] for choice in options["choices"]] == ["repair", "replace", "harvest"]
    assert all(choice["total"] == pytest.approx(sum(line["amount"] for line in choice["lines"])) for choice in options["choices"])


def test_the_knowledge_is_edited_by_the_lead_and_checked(lead: Client, technician: Client) -> None:
    shipped = technician.get("/api/v1/diagnosis/knowledge").get_json()
    assert shipped["number"] == 0
    assert technician.post("/api/v1/diagnosis/knowledge", {"text": shipped["text"]}).status_code == 403
    broken = lead.post("/api/v1/diagnosis/knowledge", {"text": "diagnosis_format: 1\nsymptoms: []\n"})
    assert "at least one symptom" in broken.get_json()["detail"]
    edited = shipped["text"].replace("Dust in fan and fins", "Salt and dust in fan and fins")
    assert lead.post("/api/v1/diagnosis/knowledge", {"text": edited}).get_json() == {"number": 1}
    assert "Salt and dust" in technician.get("/api/v1/diagnosis/knowledge").get_json()["text"]


@pytest.mark.parametrize("name", ["sheet", "record", "tags"])
def test_a_job_goes_to_paper(fan: BenchClient, name: str) -> None:
    fan.says("note", words="hinge creaks", photo=None)
    answer = fan.client.get(f"/api/v1/jobs/{fan.id}/{name}.pdf")
    assert answer.mimetype == "application/pdf"
    assert answer.data.startswith(b"%PDF")


def test_the_simulated_scanner_has_labels_of_machines_and_of_a_jobs_parts(fan: BenchClient) -> None:
    machines = fan.client.get("/api/v1/stand-in/labels").get_json()["labels"]
    assert len(machines) == 6
    labels = fan.client.get("/api/v1/stand-in/labels", job=fan.id).get_json()["labels"]
    assert labels[0]["text"] == fan.where.tag
    assert any("new part" in label["words"] for label in labels)
    assert Label("x", "AB1").keys == ("A", "B", "1", "Enter")


def test_the_bench_is_decided_by_the_lead(fan: BenchClient, lead: Client) -> None:
    found = {row["key"]: row for row in lead.get("/api/v1/bench/settings").get_json()["settings"]}
    assert (found["cold_starts"]["value"], found["cold_starts"]["number"]) == (5, 0)
    change = {"scope": "company", "key": "cold_starts", "value": 3, "expected_number": 0}
    assert lead.post("/api/v1/settings", change).status_code == 201
    assert lead.post("/api/v1/settings", change | {"value": 2.5, "expected_number": 1}).status_code == 422
    assert fan.job["cold_starts_wanted"] == 3
