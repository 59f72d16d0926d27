"""The catalog on the demo's database: reading, finding, planning and changing pages."""

from __future__ import annotations

from copy import deepcopy
from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.parts.kinds import Verdict
from almanac.exchange.pages.read import read_page
from almanac.exchange.pages.write import write_page
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.pages.compare import compare_models
from almanac.services.pages.find import find_models
from almanac.services.pages.identify import ask_next
from almanac.services.pages.index import read_index
from almanac.services.pages.library import read_library
from almanac.services.pages.line_up import read_line_up
from almanac.services.pages.plan import RouteRequest, fitting_parts, mat_of, plan_model_memory, plan_model_route
from almanac.services.pages.read import read_page_view, read_rates
from almanac.services.pages.save import PageChange, restore_revision, save_page
from almanac.store import pages
from almanac.store.models import Position


def model_id(session: Session, name: str) -> int:
    page = read_library(session).named(name)
    assert page is not None, name
    return page.model_id


def found(session: Session, words: str) -> set[str]:
    library = read_library(session)
    return {library.pages[match.model_id].name for match in find_models(session, words)}


def test_the_index_counts_the_fleet_and_what_is_open(session: Session) -> None:
    rows = {row.head.full_name: row for row in read_index(session, read_library(session))}
    assert len(rows) == 15
    assert rows["Ostrel Packet 14"].fleet > 350
    assert rows["Quillfin Bollard"].summary.unverified is not None
    assert rows["Quillfin Drydock 16"].summary.open_facts >= 5
    assert sum(row.fleet for row in rows.values()) == session.scalar(
        text("SELECT count(*) FROM asset WHERE retired_on IS NULL AND in_service_on <= DATE '2026-11-01'")
    )


@pytest.mark.parametrize(
    ("words", "names"),
    [
        ("takes low-voltage DDR3", {"Ostrel Packet 15"}),
        ("drive under the mainboard", {"Ostrel Halyard 12"}),
        ("battery pack in one other model", {"Ostrel Packet 14", "Ostrel Packet 14 b"}),
        ("OB-H12-38", {"Ostrel Halyard 12"}),
        ("HY14", {"Ostrel Halyard 14"}),
        ("soldered radio", {"Ostrel Halyard 12", "Ostrel Halyard 14", "Ostrel Packet 13"}),
        ("rivets", {"Ostrel Halyard 14", "Brindwell Tiller 13"}),
        ("nothing of the kind", set()),
    ],
)
def test_models_are_found_by_anything(session: Session, words: str, names: set[str]) -> None:
    assert found(session, words) == names


def test_a_page_is_read_with_what_the_fleet_and_the_shelves_say(session: Session) -> None:
    view = read_page_view(session, model_id(session, "Brindwell Tiller 16"))
    rows = {row.entry["key"]: row for row in view.positions}
    assert rows["memory_a"].minutes == pytest.approx(5.4, abs=0.1)
    assert rows["memory_a"].fitted[0].units > 100
    rates = {item.number: item for item in read_rates(session, view.page.model_id)}
    rate = rates[rows["memory_a"].fitted[0].part.number]
    assert rate.low is not None
    assert rate.rate is not None
    assert rate.high is not None
    assert rate.low < rate.rate < rate.high
    assert rows["mainboard"].fitted == []
    assert sum(view.options["battery"].values()) == view.fleet
    assert view.options_agree["battery"].verdict == Verdict.YES
    assert view.own_share is not None
    assert any("30 mm or 80 mm" in fact.text for fact in view.open_facts)
    assert view.claims[0][1] == "claimed: 2 of 3 variants seen"
    with pytest.raises(NotFound):
        read_page_view(session, 9999)


def test_a_route_names_what_carries_over_and_costs_the_other_way(session: Session) -> None:
    halyard = model_id(session, "Ostrel Halyard 14")
    planned = plan_model_route(session, halyard, RouteRequest(["keyboard"], {}))
    assert planned.route.escalations[0].reached == "palm_rest"
    assert planned.other_ways["keyboard"] > 0
    itself = plan_model_route(session, halyard, RouteRequest(["keyboard"], {}, direct=["keyboard"]))
    assert [step.id for step in itself.route.one_way] == ["break_rivets"]
    drive = plan_model_route(session, model_id(session, "Ostrel Packet 14"), RouteRequest(["drive"], {}))
    assert drive.carries_over == {"drive": ("heat pad", "drive screw")}
    assert {near.position for near in drive.near} >= {"memory_a", "battery"}
    mat = mat_of(drive.page, drive.route, paper="A3")
    assert len(mat.tiles) == 1
    assert len(mat.spots) == 9
    with pytest.raises(Refused):
        mat_of(drive.page, drive.route, paper="B9")
    with pytest.raises(Refused, match="position"):
        plan_model_route(session, halyard, RouteRequest(["engine"], {}))


def test_what_fits_a_position_with_its_reason(session: Session) -> None:
    fitting = fitting_parts(session, model_id(session, "Brindwell Tiller 16"), "drive")
    verdicts = {item.part.number: item for item in fitting.verdicts}
    assert verdicts["LD-80512"].origin == "listed"
    assert verdicts["LD-25480"].answer.verdict == Verdict.NO
    assert "bracket" in verdicts["LD-30256"].answer.reason
    speed = verdicts["LD-80512"].speed
    assert speed is not None
    assert speed.gb_s == pytest.approx(3.94)
    with pytest.raises(NotFound):
        fitting_parts(session, model_id(session, "Brindwell Tiller 16"), "engine")


def test_the_memory_planner_buys_the_least_and_names_what_is_freed(session: Session) -> None:
    packet = model_id(session, "Ostrel Packet 14")
    sheet = plan_model_memory(session, packet, target_gb=32)
    assert sheet.soldered_gb == 16
    assert sheet.plan.totals == (16, 20, 24, 32, 48)
    assert sheet.plan.cost == 46.0
    assert sheet.plan.freed == (8,)
    refused = plan_model_memory(session, packet, target_gb=64)
    assert refused.plan.verdict == Verdict.NO
    assert refused.plan.nearest_below == 48
    empty = plan_model_memory(session, packet, target_gb=24, fitted={"memory_a": 0})
    assert empty.plan.cost > 0
    with pytest.raises(Refused, match="soldered"):
        plan_model_memory(session, model_id(session, "Ostrel Packet 13"), target_gb=16)
    with pytest.raises(Refused, match="slot"):
        plan_model_memory(session, packet, target_gb=16, fitted={"memory_z": 8})


def test_comparing_shows_what_differs_and_what_is_shared(session: Session) -> None:
    twins = [model_id(session, "Ostrel Packet 14"), model_id(session, "Ostrel Packet 14 b")]
    compared = compare_models(session, twins)
    assert {part.number for part, _ in compared.shared} >= {"OB-P14-60", "LD-80512", "OF-P14"}
    differing = {row.label for row in compared.rows if row.differs}
    assert "Memory slot A" in differing
    assert "Battery" not in differing
    tells = {row.label: row.values for row in compared.rows if row.group == "Telling apart"}
    assert tells["Which memory generation does the settings screen report?"] == ["DDR4", "DDR5"]
    assert list(tells)[-1] == "What colour is the radio's bracket? (once open)"  # what needs no opening stands first
    with pytest.raises(Refused):
        compare_models(session, twins[:1])


def test_look_alikes_are_told_apart_without_opening_first(session: Session) -> None:
    _, asked, questions = ask_next(session, ["Ostrel Packet 14"], {})
    assert asked.question is not None
    assert asked.question.key == "memory_generation"
    assert {question.key for question in questions} == {"memory_generation", "radio_bracket"}
    _, done, _ = ask_next(session, ["Ostrel Packet 14"], {"memory_generation": "DDR5"})
    assert done.candidates == ("Ostrel Packet 14 b",)
    with pytest.raises(Refused):
        ask_next(session, ["Nobody's"], {})


def test_the_line_up_saves_and_covers_every_need(session: Session) -> None:
    reading = read_line_up(session)
    for group in reading.kinds:
        covered = {key for keys in group.result.covers.values() for key in keys}
        assert covered == {need.key for need in group.needs}
        assert group.result.saved >= -1e-6
        assert {reading.labels[need.key].model for need in group.needs} <= {page.name for page in read_library(session).pages.values()}
    assert any(group.result.saved > 0 for group in reading.kinds)


def change(session: Session, name: str, **values: Any) -> tuple[dict[str, Any], int]:
    page = read_library(session).named(name)
    assert page is not None
    return {**deepcopy(dict(page.own)), **values}, page.number


def test_saving_makes_a_revision_and_the_positions_follow(session: Session, clock: Clock) -> None:
    page, number = change(session, "Ostrel Packet 14")
    slot = next(entry for entry in page["positions"] if entry["key"] == "memory_a")
    slot["takes"]["maximum_gb"] = [{"value": 8, "grade": "measured", "source": "test", "date": "2026-10-30"}]
    slot["label"] = "Memory slot"
    saved = save_page(session, PageChange(page, "Measured the maximum", number, draft=False), clock=clock, author_id=2)
    assert saved.number == number + 1
    rows = {row.key: row for row in pages.positions(session, [saved.model_id])}
    assert rows["memory_a"].label == "Memory slot"
    twin = model_id(session, "Ostrel Packet 14 b")
    assert {row.key for row in pages.positions(session, [twin])} >= {"memory_a", "mainboard"}
    fits = {(position, part): verdict for position, part, verdict, _, _ in pages.fits_of(session, [saved.model_id])}
    assert "no" in {verdict for (position, _), verdict in fits.items() if position == rows["memory_a"].id}
    assert [row.number for row in pages.history(session, saved.model_id)] == [2, 1]
    with pytest.raises(Stale, match="revision 2"):
        save_page(session, PageChange(page, "Again", number, draft=False), clock=clock, author_id=2)


def test_a_faulty_page_can_only_be_a_draft_and_a_restore_is_a_revision(session: Session, clock: Clock) -> None:
    page, number = change(session, "Ostrel Halyard 12")
    page["operations"][0]["needs"] = ["drive_out"]
    with pytest.raises(Refused, match="draft"):
        save_page(session, PageChange(page, "Try", number, draft=False), clock=clock, author_id=2)
    saved = save_page(session, PageChange(page, "Try", number, draft=True), clock=clock, author_id=2)
    assert saved.draft
    assert any("circle" in fault.message or "turn" in fault.message or "cuts the power" in fault.message for fault in saved.faults)
    assert read_page_view(session, saved.model_id).draft_number == 2
    assert read_page_view(session, saved.model_id).page.number == 1
    again = restore_revision(session, saved.model_id, 1, latest=2, clock=clock, author_id=1)
    assert (again.number, again.draft) == (3, False)
    with pytest.raises(NotFound):
        restore_revision(session, saved.model_id, 99, latest=3, clock=clock, author_id=1)


def test_a_position_with_parts_in_it_stays_and_an_unused_one_goes(session: Session, clock: Clock) -> None:
    page, number = change(session, "Ostrel Packet 15")
    without = {**page, "positions": [entry for entry in page["positions"] if entry["key"] != "battery"]}
    without["operations"] = [{**step, "frees": [key for key in step.get("frees", []) if key != "battery"]} for step in page["operations"]]
    with pytest.raises(Refused, match="Battery"):
        save_page(session, PageChange(without, "Drop it", number, draft=False), clock=clock, author_id=2)
    page["positions"] = [entry for entry in page["positions"] if entry["key"] != "optical"]
    page["operations"] = [step for step in page["operations"] if step["id"] != "optical_out"]
    for step in page["operations"]:
        step["exposes"] = [key for key in step.get("exposes", []) if key != "optical"]
        step["needs"] = [need for need in step.get("needs", []) if need != "optical_out"]
    saved = save_page(session, PageChange(page, "No optical bay after all", number, draft=False), clock=clock, author_id=2)
    assert "optical" not in {row.key for row in session.query(Position).filter(Position.model_id == saved.model_id)}


def test_a_new_model_begins_as_a_draft_and_wrong_pages_are_named(session: Session, clock: Clock) -> None:
    page = {"page_format": 1, "maker": "Ostrel", "name": "Skiff 10", "family": "Skiff", "form": "notebook"}
    saved = save_page(session, PageChange(page, "Began", None, draft=True), clock=clock, author_id=2)
    assert saved.number == 1
    assert model_id(session, "Ostrel Skiff 10") == saved.model_id
    with pytest.raises(Refused, match="why"):
        save_page(session, PageChange(page, " ", 1, draft=True), clock=clock, author_id=2)
    with pytest.raises(Refused, match="form"):
        save_page(session, PageChange({**page, "form": "boat"}, "x", 1, draft=True), clock=clock, author_id=2)
    with pytest.raises(Refused, match="no model is called"):
        save_page(session, PageChange({**page, "inherits": "Ostrel Nobody"}, "x", 1, draft=True), clock=clock, author_id=2)
    with pytest.raises(Refused, match="circle"):
        save_page(session, PageChange({**page, "inherits": "Ostrel Skiff 10"}, "x", 1, draft=True), clock=clock, author_id=2)
    with pytest.raises(Stale, match="as a new model"):
        save_page(session, PageChange(page, "Again", None, draft=True), clock=clock, author_id=2)


def test_a_page_saved_as_it_is_makes_no_revision(session: Session, clock: Clock) -> None:
    page = read_library(session).named("Ostrel Packet 15")
    assert page is not None
    again = PageChange(page.own, "Read the same file again", page.number, draft=False)
    same = save_page(session, again, clock=clock, author_id=1)
    assert (same.number, same.changed) == (page.number, False)
    file = read_page(write_page(page.own)).page
    assert file is not None
    assert not save_page(session, PageChange(file, "From its file", page.number, draft=False), clock=clock, author_id=1).changed
    drafted = save_page(session, PageChange(page.own, "As a draft", page.number, draft=True), clock=clock, author_id=1)
    assert (drafted.number, drafted.changed) == (page.number + 1, True)  # a draft of it is something else
    other = {**page.own, "notes": [{"text": "seen"}]}
    assert save_page(session, PageChange(other, "Noted", drafted.number, draft=False), clock=clock, author_id=1).changed


def test_a_measurement_is_contradicted_by_two_people_only(session: Session, clock: Clock) -> None:
    """One proposes it as a draft, another makes that draft hold; nobody does both (rule G1c)."""
    page = read_library(session).named("Ostrel Packet 15")
    assert page is not None
    document = deepcopy(dict(page.own))
    bay = next(entry for entry in document["positions"] if entry["key"] == "optical")
    bay["takes"]["caddy_mm"] = [{"value": 12.7, "grade": "measured", "source": "ruler", "date": "2026-11-02"}]

    def saved(author: int, number: int, *, draft: bool) -> int:
        return save_page(session, PageChange(document, "Measured again", number, draft), clock=clock, author_id=author).number

    with pytest.raises(Refused, match=r"caddy was measured as caddy of 9.5 mm, now caddy of 12.7 mm: save the change as a draft"):
        saved(1, page.number, draft=False)
    number = saved(1, page.number, draft=True)
    with pytest.raises(Refused, match="a second person"):
        saved(1, number, draft=False)
    saved(2, number, draft=False)
    held = read_library(session).named("Ostrel Packet 15")
    assert held is not None
    assert next(entry for entry in held.own["positions"] if entry["key"] == "optical")["takes"]["caddy_mm"][0]["value"] == 12.7


def test_what_is_typed_is_kept_as_rules_read_it(session: Session, clock: Clock) -> None:
    page = read_library(session).named("Ostrel Packet 15")
    assert page is not None
    document = deepcopy(dict(page.own))
    cage = next(entry for entry in document["positions"] if entry["kind"] == "ssd")
    cage.setdefault("takes", {})["lanes"] = [{"value": "x2", "grade": "told", "source": "t", "date": "2026-11-02"}]
    done = save_page(session, PageChange(document, "Lanes", page.number, draft=False), clock=clock, author_id=1)
    assert [fault.message for fault in done.faults if fault.noted] == ["'x2' is read as 2"]
    held = read_library(session).named("Ostrel Packet 15")
    assert held is not None
    assert held.position(cage["key"])["takes"]["lanes"][0]["value"] == 2
