"""What a job finds out: free words, results that contradict, what the machine says, what was agreed; and the bench on small screens."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import SignIn
from tests.e2e.test_bench import Hands
from tests.exchange.reports import documents as d

Axe = Callable[[Page], list[dict[str, Any]]]


@pytest.fixture
def hands(sign_in: SignIn) -> Hands:
    return Hands(sign_in("pell"))


def _diagnosing(page: Page, complaint: str) -> None:
    page.goto(page.url.split("/outlook")[0] + "/bench/new?tag=SK-0031")
    page.get_by_label("What was noticed").fill(complaint)
    page.get_by_label("looked, none of these").check()
    page.get_by_role("button", name="Open the job and diagnose it").click()
    expect(page.get_by_role("heading", name="What may lie behind it")).to_be_visible()


def test_free_words_find_the_symptom_and_two_answers_to_one_test_are_named(hands: Hands, axe: Axe) -> None:
    page = hands.page
    _diagnosing(page, "hangs after a while")
    expect(page.get_by_role("button", name="It freezes and answers nothing")).to_have_attribute("aria-pressed", "true")
    page.get_by_label("The complaint in other words").fill("wifi kepps dropping")
    page.get_by_role("button", name="No wireless, or it drops out").click()
    tests = page.get_by_role("region", name="Tests")
    expect(tests.get_by_text("tells “the place: a wall, an access point”")).to_be_visible()
    tests.get_by_role("button", name="much weaker").click()
    expect(page.get_by_text("Most likely now: an antenna lead")).to_be_visible()
    share = page.get_by_role("row", name=re.compile("antenna lead")).get_by_role("cell").nth(2)
    told = share.inner_text()
    assert axe(page) == []
    tests.get_by_role("button", name=re.compile("^take it back: ")).click()
    expect(share).not_to_have_text(told)
    expect(tests.get_by_role("button", name="much weaker")).to_be_visible()


def test_what_its_tools_print_is_held_against_the_record(hands: Hands, axe: Axe) -> None:
    page = hands.page
    _diagnosing(page, "charge drops from half to nothing")
    page.get_by_role("button", name="Paste a report").click()
    page.get_by_label("What its tools print").fill("\n".join([d.SMARTCTL_NVME, d.UPOWER, '{"weather": 3}']))
    page.get_by_role("button", name="Compare it").click()
    reports = page.get_by_role("region", name="What the machine reports")
    expect(reports.get_by_text(re.compile("Battery says serial 00123, on record is .*: was it changed without a record?"))).to_be_visible()
    expect(reports).to_contain_text("Not understood, and left out: JSON of no form that is read: it has weather.")
    reports.get_by_text("Before the swap it said").click()
    expect(reports).to_contain_text("pack made for 60.1 Wh, full at 51.25 Wh (85%), 212 cycles, serial 00123")
    pack = page.get_by_role("region", name="The pack")
    expect(pack).to_contain_text("Keep it. Full at 51.25 of 60.1 Wh")
    pack.get_by_role("button", name="Write a run time down").click()
    pack.get_by_label("Ran, min").fill("60")
    pack.get_by_label("To, %").fill("20")
    pack.get_by_label("Drew, W").fill("12,5")
    pack.get_by_role("button", name="Keep the run time").click()
    expect(pack.get_by_text("A run time counts only with its conditions.")).to_be_visible()
    pack.get_by_label("Under which conditions").fill("a film, screen at half")
    pack.get_by_role("button", name="Keep the run time").click()
    expect(pack).to_contain_text("Its gauge says 51.25 Wh: one of both is wrong")
    assert axe(page) == []


def test_a_part_nobody_knows_cannot_be_agreed(hands: Hands) -> None:
    page = hands.page
    page.goto(page.url.split("/outlook")[0] + "/bench/new?tag=SK-0031")
    page.get_by_label("What was noticed").fill("more memory, please")
    page.get_by_label("looked, none of these").check()
    page.get_by_label("Memory slot A").first.check()
    page.get_by_label("Agreed part, Memory slot A").fill("LM-99999")
    page.get_by_role("button", name="Open the job and go to the bench").click()
    expect(page.get_by_text("no part has the number LM-99999").first).to_be_visible()
    page.get_by_label("Agreed part, Memory slot A").fill("lm-16320")
    page.get_by_role("button", name="Open the job and go to the bench").click()
    expect(page.get_by_text(re.compile(r"^Step 1 of \d+"))).to_be_visible()
    page.get_by_role("link", name=re.compile(r"^Job \d+$")).click()
    expect(page.get_by_text("Agreed part: LM-16320 at Memory slot A")).to_be_visible()


def test_a_note_stays_with_the_machine_until_it_is_mended(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    page.get_by_role("button", name="Something is wrong").click()
    page.get_by_role("button", name="Write a note, add a photo").click()
    page.get_by_label("What you see").fill("post at the hinge is cracked")
    page.get_by_role("button", name="It stays with the machine").click()
    page.get_by_role("button", name="Keep it with the machine").click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.goto(page.url.split("/bench")[0] + "/machines/SK-0417")
    known = page.get_by_role("region", name="Known of this machine")
    expect(known).to_contain_text("post at the hinge is cracked")
    page.go_back()
    page.get_by_role("button", name="Something is wrong").click()
    page.get_by_role("button", name="Write a note, add a photo").click()
    page.get_by_role("button", name="Mended: post at the hinge is cracked").click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.goto(page.url.split("/bench")[0] + "/machines/SK-0417")
    expect(page.get_by_role("region", name="What is in it")).to_be_visible()
    expect(known).to_have_count(0)


SIZES = [(390, 844), (768, 1024)]


def _fits(page: Page) -> None:
    """Nothing is wider than the screen."""
    wide = page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
    assert wide <= 0, f"{page.url} is {wide} px wider than its screen"


@pytest.mark.parametrize("size", SIZES)
def test_on_a_small_screen_the_job_is_one_column_with_its_button_in_reach(hands: Hands, axe: Axe, size: tuple[int, int]) -> None:
    page = hands.page
    page.set_viewport_size({"width": size[0], "height": size[1]})
    hands.opens("SK-0417", "Fan, left")
    page.get_by_role("link", name=re.compile("^Bench")).click()
    expect(page.get_by_role("heading", name="Bench", exact=True)).to_be_in_viewport()
    _fits(page)
    page.get_by_role("row", name=re.compile("SK-0417")).click()
    expect(page.get_by_role("button", name="Back to jobs")).to_be_in_viewport()
    _fits(page)
    page.get_by_role("button", name="Back to jobs").click()
    expect(page.get_by_role("heading", name="Bench", exact=True)).to_be_in_viewport()
    page.get_by_role("row", name=re.compile("SK-0417")).click()
    page.get_by_role("link", name=re.compile("at the bench|to the bench")).click()
    hands.passes("Power off")
    expect(page.get_by_role("button", name="Done")).to_be_in_viewport()
    _fits(page)
    trays, step = page.get_by_role("complementary", name="Trays and leads").bounding_box(), page.locator("#bench-view").bounding_box()
    assert trays is not None
    assert step is not None
    assert trays["y"] >= step["y"] + step["height"] - 1, "the trays lie below the step, not upon it"
    assert axe(page) == []
    hands.done()
    hands.at(2)
