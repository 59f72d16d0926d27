"""A page written by walking a machine: what is on the screen is what is saved, and nothing typed is lost."""

from __future__ import annotations

import re
import time
from collections import Counter

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from tests.e2e.conftest import SignIn


def stop(page: Page, name: str | re.Pattern[str]) -> None:
    page.get_by_role("navigation", name="Stops of the walk").get_by_role("button", name=name).first.click()


def add_step(page: Page, text: str, beneath: str | None = None) -> None:
    page.get_by_label("Next step").fill(text)
    if beneath is not None:
        page.get_by_label("It lies beneath").select_option(beneath)
    page.get_by_label("Next step").press("Enter")
    expect(page.get_by_label("What to do")).to_have_value(text)


def fact(page: Page) -> Locator:
    return page.get_by_label("Add a fact, or a label as you read it of Memory slot A, what the place takes")


def walk_a_machine(page: Page) -> None:
    page.get_by_label("Maker").fill("Ostrel")
    page.get_by_label("Model", exact=True).fill("Skiff 11")
    page.get_by_label("Family").fill("Skiff")
    page.get_by_role("button", name="On: How it opens").click()
    page.get_by_label("Base, width × depth in mm").fill("280 x 190")
    page.get_by_role("button", name="On: What is inside").click()
    page.get_by_role("button", name="Memory slot").click()
    stop(page, "Memory slot A")
    page.get_by_label("Held of Memory slot A", exact=True).select_option("socketed")
    fact(page).fill("8GB 1Rx8 PC4-3200AA-SA2")
    # As a scanner does: Enter comes with the text, nobody waits for what is understood.
    fact(page).press("Enter")
    expect(page.get_by_role("textbox", name="grade, MT/s of Memory slot A, what the place takes")).to_have_value("3200")
    add_step(page, "Lift the base cover")
    page.get_by_label("Layer that is off then").fill("base cover")
    page.get_by_label("Lays bare", exact=True).select_option("Memory slot A")
    page.get_by_label("done while the power is on").check()
    page.get_by_label("Fasteners, in shorthand").fill("6x PH1 M2.5x4 captive, 1 hidden under label")
    expect(page.get_by_text("understood 6:")).to_be_visible()
    page.get_by_label("Fasteners, in shorthand").press("Enter")
    expect(page.get_by_role("textbox", name="Count of group of fasteners 1")).to_have_value("5")
    page.get_by_label("Minutes", exact=True).fill("2 5")
    add_step(page, "Slide the battery plug out")
    page.get_by_label("done while the power is on").check()
    page.get_by_label("cuts the power").check()
    stop(page, "Memory slot A")
    page.get_by_role("button", name="Write how it comes out").click()
    page.get_by_label("What to do").fill("Spread the catches and draw the module out")
    page.get_by_label("Minutes", exact=True).fill("1")
    page.get_by_label("Minutes", exact=True).press("Enter")


def test_a_page_is_written_from_nothing_kept_over_a_reload_and_planned_from(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models/new")
    walk_a_machine(page)
    expect(page.get_by_role("heading", name="Sound")).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="Survey, Ostrel Skiff 11")).to_be_visible()
    expect(page.get_by_text("not saved yet, kept in this browser")).to_be_visible()
    page.get_by_label("Why this change").fill("First survey at the bench")
    page.get_by_role("button", name="Publish the page").click()
    expect(page.get_by_role("heading", name="Ostrel Skiff 11")).to_be_visible()
    page.get_by_role("button", name="Show the route").click()
    expect(page.get_by_role("heading", name="Route, Ostrel Skiff 11")).to_be_visible()
    expect(page.get_by_text("5 × PH1 M2.5x4, captive").first).to_be_visible()
    mat = page.get_by_role("link", name="Screw mat A4").get_attribute("href")
    answer = page.request.get(page.url.split("/models")[0] + str(mat))
    assert answer.body().startswith(b"%PDF")


def test_a_line_nobody_entered_is_read_as_the_page_is_saved(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models/7/survey?at=part:memory_a")
    fact(page).fill("banana")
    fact(page).press("Enter")
    expect(page.get_by_text("“banana” says nothing of this")).to_be_visible()
    page.get_by_label("Why this change").fill("The label of the module")
    page.get_by_role("button", name="Save the page").click()
    expect(page.get_by_role("alert")).to_contain_text("banana")
    expect(fact(page)).to_have_value("banana")
    fact(page).fill("double sided: yes")
    expect(page.get_by_text("One typed line is read as the page is saved")).to_be_visible()
    fact(page).fill("maximum gb: 64")
    page.get_by_role("button", name="Save the page").click()
    expect(page.get_by_role("heading", name="Brindwell Tiller 16", exact=True)).to_be_visible()
    saved = page.request.get(page.url.split("/models")[0] + "/api/v1/models/7/document").json()["page"]
    slot = next(part for part in saved["positions"] if part["key"] == "memory_a")
    assert [one["value"] for one in slot["takes"]["maximum_gb"]] == [32, 64]


def slowly(route: Route) -> None:
    time.sleep(0.3)
    route.continue_()


def test_a_scanner_does_not_wait_and_nothing_it_sends_is_lost(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models/new?at=inside")
    page.get_by_role("button", name="Memory slot").click()
    stop(page, "Memory slot A")
    page.route("**/api/v1/pages/line", slowly)
    for text in ("generation: DDR4", "generaton: DDR5", "maximum gb: 32"):
        fact(page).press_sequentially(text)
        fact(page).press("Enter")
    expect(page.get_by_role("textbox", name="maximum, GB of Memory slot A, what the place takes")).to_have_value("32")
    expect(page.get_by_label("generation of Memory slot A, what the place takes", exact=True)).to_have_value("DDR4")
    if (wrong := page.get_by_role("button", name="correct generaton: DDR5")).count():  # it came back while the next was being typed
        wrong.click()
    expect(fact(page)).to_have_value("generaton: DDR5")


def test_looking_at_every_stop_changes_nothing_and_no_two_fields_share_a_name(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models/7/survey")
    page.get_by_role("heading", name="Survey, Brindwell Tiller 16").wait_for()
    buttons = page.get_by_role("navigation", name="Stops of the walk").get_by_role("button")
    names = "es => es.map(e => e.getAttribute('aria-label') ?? [...e.labels ?? []].map(l => l.textContent).join(' '))"
    for place in range(buttons.count()):
        buttons.nth(place).click()
        here = page.locator("section[aria-label='Survey'] section[aria-label]").first
        expect(here).to_have_attribute("aria-label", str(buttons.nth(place).locator("[title]").get_attribute("title")))
        found = here.locator("input, select, textarea").evaluate_all(names)
        assert all(name.strip() for name in found), found
        assert [name for name, times in Counter(found).items() if times > 1] == []
    expect(page.get_by_text("nothing changed")).to_be_visible()


def test_a_faulty_page_is_a_draft_at_most_and_the_history_brings_back_the_old(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models")
    page.get_by_role("region", name="Index of models").get_by_role("button", name="Halyard 12").click()
    page.get_by_role("link", name="Survey").click()
    stop(page, "Base cover")
    page.get_by_label("Beneath, after", exact=True).select_option(
        label="Undo the drive screw on the board's lower side and draw the drive out"
    )
    expect(page.get_by_role("heading", name="to correct")).to_be_visible()
    page.get_by_label("Why this change").fill("Trying another order")
    page.get_by_role("button", name="Save the page").click()
    expect(page.get_by_role("alert")).to_contain_text("save it as a draft")
    page.get_by_role("button", name="Save as draft").click()
    expect(page.get_by_role("link", name="Draft in hand")).to_be_visible()
    page.get_by_role("button", name="Revision 1").click()
    history = page.get_by_role("dialog")
    expect(history.get_by_role("row", name="Trying another order")).to_contain_text("draft")
    page.keyboard.press("Escape")
    page.get_by_role("link", name="Draft in hand").click()
    stop(page, "Base cover")
    page.get_by_role("button", name=re.compile("Beneath, after: leave out")).click()
    page.get_by_label("Why this change").fill("As it was")
    page.get_by_role("button", name="Save the page").click()
    expect(page.get_by_role("button", name="Revision 3")).to_be_visible()


def test_pasted_notes_become_proposals(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models")
    page.get_by_role("region", name="Index of models").get_by_role("button", name="Packet 13").click()
    page.get_by_role("link", name="Survey").click()
    stop(page, "What is left to say")
    page.get_by_label("Pasted notes").fill("pack says 7.6V 5.92Ah 45Wh\nscrews: 3 long, 5 short, 9 in total\nthe left foot is loose")
    page.get_by_role("button", name="Propose").click()
    expect(page.get_by_text("its groups add up to 8")).to_be_visible()
    page.get_by_role("button", name="Accept").first.click()
    page.get_by_role("button", name="Refuse").first.click()
    page.get_by_role("button", name="Accept").first.click()
    expect(page.get_by_text("All are settled.")).to_be_visible()
    expect(page.get_by_text("not saved yet")).to_be_visible()


@pytest.mark.parametrize("at", ["machine", "opening", "inside", "part:memory_a", "step:base_cover", "closing"])
def test_every_kind_of_stop_can_be_used_by_everybody(sign_in: SignIn, axe, at: str) -> None:  # type: ignore[no-untyped-def]
    page = sign_in("pell", f"/models/7/survey?at={at}")
    page.get_by_role("navigation", name="Back and on").wait_for()
    assert axe(page) == []


def test_a_part_of_another_name_is_asked_for_its_kind(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models/new?at=inside")
    page.get_by_label("Name of the part").fill("Fan, left")
    expect(page.get_by_label("Kind, as its name says")).to_have_value("fan")
    page.get_by_label("Name of the part").fill("Thing")
    expect(page.get_by_label("Kind of part")).to_have_value("")
    expect(page.get_by_role("button", name="Add it")).to_be_disabled()
    page.get_by_label("Kind of part").select_option("keyboard")
    page.get_by_role("button", name="Add it").click()
    stop(page, "Thing")
    expect(page.get_by_role("combobox", name="Kind")).to_have_value("keyboard")


def test_what_was_only_told_and_what_was_only_done_first_are_said_as_such(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models/7/survey?at=part:memory_a")
    page.get_by_label("How is that known: Held of Memory slot A", exact=True).select_option(label="told")
    page.get_by_role("button", name="Differs: Held of Memory slot A").click()
    second = page.get_by_label("Held of Memory slot A, 2", exact=True)
    expect(second).to_have_value("")  # what nobody said yet is shown as nothing, not as the first that could be
    second.select_option(label="riveted")
    page.goto(page.url.split("?")[0] + "?at=step:drive_out")
    page.get_by_label("Was done before it, whether it has to be is not known").select_option("battery_small_out")
    page.get_by_label("Why this change").fill("Heard from the supplier")
    page.get_by_role("button", name="Save the page").click()
    expect(page.get_by_role("heading", name="Brindwell Tiller 16", exact=True)).to_be_visible()
    saved = page.request.get(page.url.split("/models")[0] + "/api/v1/models/7/document").json()["page"]
    slot = next(part for part in saved["positions"] if part["key"] == "memory_a")
    assert [(one["value"], one["grade"]) for one in slot["serviceability"]] == [("socketed", "told"), ("staked", "told")]
    drive = next(step for step in saved["operations"] if step["id"] == "drive_out")
    assert drive["needs"][-1] == {"done": "battery_small_out"}


def test_a_model_leaves_out_what_its_sibling_has(sign_in: SignIn) -> None:
    page = sign_in("pell", "/models")
    page.get_by_role("region", name="Index of models").get_by_role("button", name="Counter 24").click()
    page.get_by_role("link", name="Survey").click()
    stop(page, "What is inside")
    leaves = page.get_by_role("button", name=re.compile("Not in this model: ")).first
    label = str(leaves.get_attribute("aria-label")).split(": ")[1]
    leaves.click()
    page.get_by_role("button", name=f"Take it over after all: {label}").wait_for()
    page.get_by_role("button", name="Take it over after all: Second drive cage").click()
    page.get_by_label("Why this change").fill("This one has none")
    page.get_by_role("button", name="Save the page").click()
    expect(page.get_by_role("heading", name="Brindwell Counter 24", exact=True)).to_be_visible()
    model = page.url.split("/models/")[1].split("?")[0]
    saved = page.request.get(f"{page.url.split('/models')[0]}/api/v1/models/{model}/document").json()
    gone = saved["page"]["removed"]["positions"]
    labels = {part["label"] for part in saved["sibling"]["positions"] if part["key"] in gone}
    assert label in labels
    assert "Second drive cage" not in labels
