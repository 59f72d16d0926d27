"""The Bench tab in the browser: a whole job, and what goes wrong in one."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Route, expect
from sqlalchemy import text

from almanac.launch.cluster import Cluster
from almanac.store.engine import connect
from tests.conftest import PASSWORDS
from tests.e2e.conftest import SignIn

Axe = Callable[[Page], list[dict[str, Any]]]


UNDESCRIBED = """
WITH model AS (SELECT id FROM device_model WHERE name = 'Tiller 13'),
     last AS (SELECT r.* FROM model_revision r JOIN model m ON m.id = r.model_id ORDER BY r.number DESC LIMIT 1),
     bare AS (
         INSERT INTO model_revision (model_id, number, page, author_id, reason, draft, recorded_at)
         SELECT model_id, number + 1, page - 'operations' - 'opening', 1, 'as imported', false, now() FROM last RETURNING model_id
     )
SELECT tag FROM asset a JOIN bare ON bare.model_id = a.model_id WHERE retired_on IS NULL ORDER BY a.id LIMIT 1
"""


class Hands:
    """A technician's hands on the bench view."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def opens(self, tag: str, part: str, complaint: str = "loud after an hour") -> None:
        self.page.keyboard.press("3")
        expect(self.page.get_by_role("heading", name="Open a job")).to_be_visible()
        self.page.get_by_label("Asset tag, typed or scanned").fill(tag)
        self.page.keyboard.press("Enter")
        self.page.get_by_label("What was noticed").fill(complaint)
        self.page.get_by_label("looked, none of these").check()
        self.page.get_by_label(part).check()
        self.page.get_by_role("button", name="Open the job and go to the bench").click()
        expect(self.page.get_by_text(re.compile(r"^Step 1 of \d+"))).to_be_visible()  # the day's table says it in small letters

    def passes(self, gate: str) -> None:
        section = self.page.get_by_role("region", name=gate)
        expect(section).to_be_visible()
        while (statement := section.locator("button[aria-pressed=false]")).count():
            statement.first.click()
        for field in section.get_by_role("textbox").all():
            field.fill("20")
        section.get_by_role("button", name="Open this gate").click()
        expect(section).to_be_hidden()

    def at(self, step: int) -> None:
        expect(self.page.get_by_text(re.compile(rf"^Step {step} of \d+"))).to_be_visible()

    def done(self) -> None:
        self.page.get_by_role("button", name="Done").click()

    def puts_back(self, *names: str) -> None:
        for name in names:
            self.page.get_by_role("button", name=name).first.click()

    def into_the_machine(self) -> None:
        """Packet 14 b: cover, battery plug, then the fan lies open."""
        self.passes("Power off")
        self.done()
        self.at(2)
        self.passes("Look at the pack")
        self.done()
        self.at(3)
        for gate in ("Isolated", "Static protection"):
            self.passes(gate)

    def tests_before_closing(self) -> None:
        self.page.get_by_role("button", name="Charge checked").click()
        self.page.get_by_role("button", name="good", exact=True).click()
        self.done()
        self.at(6)
        self.done()
        self.at(7)
        self.passes("Isolated")


@pytest.fixture
def hands(sign_in: SignIn) -> Hands:
    return Hands(sign_in("pell"))


def test_a_whole_job_with_a_forgotten_plug(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    hands.into_the_machine()
    expect(page.get_by_role("region", name="Trays", exact=True)).to_contain_text("8 out, 8 to come back")
    hands.done()
    expect(page.get_by_role("heading", name="Fit the new part at Fan, left")).to_be_visible()
    page.get_by_text("Simulated scanner").click()
    page.get_by_label("Serial of the new part").click()
    page.get_by_role("button", name="new part for Fan, left").click()
    expect(page.get_by_label("Serial of the new part")).to_have_value(re.compile(r"^OFP1\d{8}$"))
    expect(page.get_by_label("Serial of the old part")).to_be_focused()  # the scanner's Enter leads on, it does not close the step
    hands.done()
    hands.at(5)
    hands.tests_before_closing()
    hands.puts_back("2 × PH0 M2x5")  # the fan lead is forgotten
    hands.done()
    hands.at(8)
    expect(page.get_by_role("alert")).to_contain_text("Before this goes on: fan lead beneath this is still off")
    hands.puts_back("battery lead")
    hands.done()
    expect(page.get_by_text("fan lead beneath this is still off", exact=True)).to_be_visible()
    hands.at(8)
    page.get_by_role("button", name="Understood").click()
    page.get_by_role("button", name="fan lead back").click()
    expect(page.get_by_text("Before this goes on")).to_have_count(0)
    hands.puts_back("battery lead")
    hands.done()
    hands.at(9)
    hands.puts_back("3 × PH1 M2.5x8", "5 × PH1 M2.5x4")
    hands.done()
    for words in ("the rim is closed", "nothing rattles", "the feet are back"):
        page.get_by_role("button", name=words).click()
        expect(page.get_by_role("button", name=words)).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Close it and watch the machine").click()
    expect(page.get_by_text("the machine has not reported Fan, left")).to_be_visible()
    page.get_by_label("which is").select_option("fan")
    page.get_by_role("button", name="Ask the machine").click()
    expect(page.get_by_text("0 of 1 turning: is its plug seated?")).to_be_visible()
    page.get_by_label("which is").select_option("")
    page.get_by_role("button", name="Ask the machine").click()
    expect(page.get_by_text("every fan turns")).to_be_visible()
    page.get_by_role("button", name="Close it and watch the machine").click()
    expect(page.get_by_text("0 of 5 cold starts good")).to_be_visible()
    page.get_by_role("button", name="Cold start, good").click()
    expect(page.get_by_text("1 of 5 cold starts good")).to_be_visible()
    page.get_by_role("button", name="Settle the finding").click()
    expect(page.get_by_text("still to watch: 4 cold starts and 14 days")).to_be_visible()
    page.get_by_role("link", name=re.compile("incident")).click()
    expect(page.get_by_role("heading", name="loud after an hour")).to_be_visible()
    expect(page.get_by_text("by OF-P14")).to_be_visible()


def test_a_swollen_pack_stops_the_job(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    hands.passes("Power off")
    hands.done()
    hands.at(2)
    page.get_by_role("button", name="It is not: stop").click()  # before its plug is touched
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="swollen").click()
    dialog.get_by_role("button", name="Stop this job").click()
    expect(page.get_by_role("heading", name="Stop, the pack: swollen")).to_be_visible()
    expect(page.get_by_role("button", name="Done")).to_have_count(0)
    page.get_by_role("button", name="Record the quarantine").click()
    expect(page.get_by_text("say where it is quarantined")).to_be_visible()
    page.get_by_label("Where machine and pack are quarantined").fill("steel box in the yard, duty officer called")
    page.get_by_role("button", name="Record the quarantine").click()
    expect(page.get_by_text("Given up").first).to_be_visible()
    expect(page.get_by_text("No other job begins on SK-0417")).to_be_visible()
    page.get_by_label("What was done").fill("pack taken out and away")
    page.get_by_role("button", name="Ask a lead to release it").click()
    page.get_by_label("Login").fill("pell")
    page.get_by_label("Password").fill(PASSWORDS["pell"])
    page.get_by_label("Who decided").fill("O. Fender, fire and safety")
    page.get_by_label("On which day").fill("2026-11-01")
    page.get_by_label("What becomes of it").select_option("disposed")
    page.get_by_role("button", name="Approve", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("your own word is none")
    page.get_by_label("Login").fill("quay")
    page.get_by_label("Password").fill(PASSWORDS["quay"])
    page.get_by_role("button", name="Approve", exact=True).click()
    expect(page.get_by_text("disposed by M. Quay, O. Fender, fire and safety decided on 2026-11-01")).to_be_visible()
    page.get_by_role("link", name=re.compile("incident")).click()
    expect(page.get_by_role("heading", name="pack swollen: quarantine")).to_be_visible()


def test_a_sign_at_intake_stops_before_the_first_screw(hands: Hands, axe: Axe) -> None:
    page = hands.page
    page.goto(re.sub(r"/[^/]*$", "/bench/new?tag=SK-0417", page.url))
    page.get_by_label("What was noticed").fill("pointer jumps")
    expect(page.get_by_role("button", name="Open the job and diagnose it")).to_be_disabled()  # silence is no answer
    page.get_by_label("the touchpad is dead or lifted").check()
    assert axe(page) == []
    page.get_by_role("button", name="Record it: the job opens stopped").click()
    expect(page.get_by_role("heading", name="Stop, the pack: dead touchpad")).to_be_visible()
    expect(page.get_by_role("button", name="Done")).to_have_count(0)


def test_a_waiver_is_a_leads_from_her_own_device(hands: Hands, browser: Browser, axe: Axe) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    page.get_by_role("button", name="It cannot be met").click()
    page.get_by_label("Why this gate is to be let be").fill("the button is torn off")
    page.get_by_role("button", name="Ask a lead to let it be").click()
    expect(page.get_by_text("waits for a lead: the button is torn off")).to_be_visible()
    assert axe(page) == []
    other = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
    lead = other.new_page()
    lead.goto(re.sub(r"/bench/.*$", "/bench", page.url))
    lead.get_by_label("Login").fill("quay")
    lead.get_by_label("Password").fill(PASSWORDS["quay"])
    lead.keyboard.press("Enter")
    lead.get_by_role("button", name="One approval is asked").click()
    assert axe(lead) == []
    lead.get_by_role("dialog").get_by_role("button", name="Approve", exact=True).click()
    expect(lead.get_by_text("Nobody waits for an approval")).to_be_visible()
    expect(page.get_by_text("power waived by M. Quay: the button is torn off")).to_be_visible()
    expect(page.get_by_role("button", name="Done")).to_be_visible()
    lead.keyboard.press("Escape")
    lead.get_by_role("button", name="exceptions").click()
    expect(lead.get_by_role("dialog").get_by_text("power waived by M. Quay: the button is torn off")).to_be_visible()
    assert axe(lead) == []
    other.close()


def test_the_time_the_button_is_held_is_the_screens_and_survives_a_reload(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    hands.passes("Power off")
    hands.done()
    hands.passes("Look at the pack")
    hands.done()
    page.get_by_role("button", name="I hold the button now").click()
    page.get_by_role("button", name="Open this gate").click()
    expect(page.get_by_text("hold the power button for at least 15 s")).to_be_visible()
    page.reload()
    expect(page.get_by_role("timer")).to_be_visible()
    expect(page.get_by_role("timer")).to_have_text(re.compile(r"^1[5-9] s$"))
    page.get_by_role("button", name="Open this gate").click()
    expect(page.get_by_role("region", name="Isolated")).to_be_hidden()


def test_a_machine_nobody_described_is_repaired_step_by_step(hands: Hands, cluster: Cluster, axe: Axe) -> None:
    engine = connect(cluster.url("browser"))
    with engine.begin() as connection:
        tag = connection.execute(text(UNDESCRIBED)).scalar_one()
    engine.dispose()
    page = hands.page
    page.goto(re.sub(r"/[^/]*$", f"/bench/new?tag={tag}", page.url))
    page.get_by_label("What was noticed").fill("loud")
    page.get_by_label("looked, none of these").check()
    page.get_by_label("Fan, left").check()
    page.get_by_role("button", name="Open the job and go to the bench").click()
    expect(page.get_by_role("alert")).to_contain_text("no step of the page takes out")
    page.get_by_role("button", name="Type the way in at the bench").click()
    typing = page.get_by_role("region", name="The next step of the way in")
    page.get_by_label("What is done").fill("lift the base cover")
    page.get_by_label("Screws and clips").fill("3x PH1 M2.5x8 loose, some blue ones")
    page.get_by_role("button", name="it comes before the power can be cut").click()
    page.get_by_role("button", name="Add this step").click()
    expect(typing.get_by_text("not understood: some blue ones")).to_be_visible()
    assert axe(page) == []
    page.get_by_label("Screws and clips").fill("3x PH1 M2.5x8 loose")
    page.get_by_role("button", name="Add this step").click()
    hands.passes("Power off")
    hands.done()
    page.get_by_label("What is done").fill("undo the fan")
    page.get_by_label("Leads that come off").fill("fan lead")
    typing.get_by_role("button", name="Fan, left").click()
    page.get_by_role("button", name="Add this step").click()
    for gate in ("Isolated", "Look at the pack", "Static protection"):
        hands.passes(gate)
    hands.done()
    expect(page.get_by_role("heading", name="Fit the new part at Fan, left")).to_be_visible()
    expect(page.get_by_role("region", name="Trays", exact=True)).to_contain_text("3 out, 3 to come back")


def test_a_lost_screw_has_an_honest_end(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    hands.into_the_machine()
    hands.done()
    page.get_by_role("button", name="The old").click()
    hands.done()
    hands.at(5)
    hands.tests_before_closing()
    hands.puts_back("fan lead")
    hands.done()
    hands.at(8)
    page.get_by_role("button", name="A screw does not come back").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="PH0 M2x5").click()
    dialog.get_by_role("button", name="perhaps inside").click()
    dialog.get_by_role("button", name="Keep it with the job").click()
    expect(page.get_by_text("1 x PH0 M2x5: perhaps inside")).to_be_visible()
    expect(page.get_by_role("region", name="A screw of PH0 M2x5 may be inside")).to_be_visible()
    expect(page.get_by_role("button", name="Done")).to_have_count(0)


def test_a_lost_connection_loses_nothing(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    hands.into_the_machine()
    page.route("**/entries", lambda route: route.abort())
    hands.done()
    hands.at(4)
    expect(page.get_by_text("no connection, 1 waiting")).to_be_visible()
    page.reload()
    hands.at(4)
    expect(page.get_by_text("1 waiting")).to_be_visible()
    hands.done()  # the swap goes on without a connection
    hands.at(5)
    page.get_by_role("button", name="Charge checked").click()
    page.get_by_role("button", name="good", exact=True).click()
    hands.done()
    hands.at(6)
    hands.done()
    hands.at(7)
    expect(page.get_by_text("a gate that only the server opens")).to_be_visible()
    expect(page.get_by_role("button", name="Done")).to_have_count(0)
    page.unroute("**/entries")
    expect(page.get_by_role("region", name="Isolated")).to_be_visible()
    expect(page.get_by_text("all sent")).to_be_visible()
    page.get_by_role("link", name=re.compile(r"^Job \d+")).click()
    journal = page.locator("section", has=page.get_by_role("heading", name="Journal")).last
    expect(journal.get_by_text("Unplug the fan, undo two screws and lift it out", exact=True)).to_have_count(1)
    expect(page.get_by_text("6 of 9 steps done")).to_be_visible()


def test_two_technicians_cannot_have_one_job(hands: Hands, browser: Browser) -> None:
    hands.opens("SK-0417", "Fan, left")
    other = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
    page = other.new_page()
    page.goto(hands.page.url)
    page.get_by_label("Login").fill("quay")
    page.get_by_label("Password").fill(PASSWORDS["quay"])
    page.keyboard.press("Enter")
    expect(page.get_by_text(re.compile("R. Pell has job .* in hand"))).to_be_visible()
    expect(page.get_by_role("button", name="Open this gate")).to_have_count(0)
    page.get_by_role("button", name="Take it over").click()
    Hands(page).passes("Power off")
    section = hands.page.get_by_role("region", name="Power off")
    for statement in section.locator("button[aria-pressed]").all():
        statement.click()
    section.get_by_role("button", name="Open this gate").click()
    expect(hands.page.get_by_text("M. Quay took this job over")).to_be_visible()
    hands.page.get_by_role("button", name="Drop what was not sent").click()
    page.goto(page.url.removesuffix("/run"))
    expect(page.get_by_text("taken over")).to_be_visible()
    other.close()


def test_parking_and_resuming_shows_what_is_out(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    hands.passes("Power off")
    hands.done()
    hands.at(2)
    page.get_by_role("button", name="Something is wrong").click()
    page.get_by_role("button", name="Park the job").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Why it is parked").fill("called to the ferry")
    dialog.get_by_role("button", name="It is not isolated").click()
    dialog.get_by_role("button", name="Park the job").click()
    expect(dialog.get_by_role("alert")).to_contain_text("say where they are")
    dialog.get_by_label("Where the screws are").fill("box 3")
    dialog.get_by_role("button", name="Park the job").click()
    expect(page.get_by_role("heading", name="Parked: called to the ferry")).to_be_visible()
    expect(page.get_by_text("3 × PH1 M2.5x8, 5 × PH1 M2.5x4")).to_be_visible()
    expect(page.get_by_text("no: cut the power before it is touched")).to_be_visible()
    page.get_by_role("button", name="I have read this").click()
    page.get_by_role("button", name="Go on").click()
    hands.passes("Power off")
    hands.at(2)


def test_the_bench_by_keyboard(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    hands.passes("Power off")
    page.keyboard.press("Space")
    hands.at(2)
    page.keyboard.press("Backspace")
    hands.at(1)
    page.get_by_role("button", name="Something is wrong").click()
    page.get_by_role("button", name="It will not lift").click()
    expect(page.get_by_text("A missed screw.")).to_be_visible()
    page.get_by_role("button", name="Looked, it is not that").click()
    expect(page.get_by_text("A foot, sticker or bay.")).to_be_visible()
    page.keyboard.press("Escape")
    hands.at(1)


SHOWN = """() => {
    window.shown = [];
    const look = () => {
        const step = document.body.innerText.match(/^Step (\\d+) of/m)?.[1];
        if (step !== window.shown.at(-1)) window.shown.push(step);
    };
    new MutationObserver(look).observe(document.body, { childList: true, subtree: true, characterData: true });
    look();
}"""


def test_an_answer_that_comes_late_moves_no_step_on_screen(hands: Hands) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    hands.passes("Power off")
    expect(page.get_by_text("all sent")).to_be_visible()
    held: list[Route] = []
    page.route("**/entries", lambda route: held.append(route) if not held else route.continue_())
    page.evaluate(SHOWN)
    page.keyboard.press("Space")
    hands.at(2)
    page.keyboard.press("Backspace")
    hands.at(1)
    held[0].continue_()
    expect(page.get_by_text("all sent")).to_be_visible()
    assert page.evaluate("window.shown") == ["1", "2", "1"]


def test_diagnosis_ranks_what_to_try_and_shows_what_tells_nothing(hands: Hands) -> None:
    page = hands.page
    page.goto(page.url.split("/outlook")[0] + "/bench/new?tag=SK-0031")
    page.get_by_label("What was noticed").fill("screen stays dark")
    page.get_by_label("it was dropped").check()
    page.get_by_label("looked, none of these").check()
    page.get_by_role("button", name="Open the job and diagnose it").click()
    expect(page.get_by_role("heading", name="What may lie behind it")).to_be_visible()
    tests = page.get_by_role("region", name="Tests")
    expect(tests.get_by_role("listitem").first).to_contain_text("a trivial cause")
    page.get_by_role("button", name="light", exact=True).click()
    expect(page.get_by_text("it changed nothing and confirms none")).to_be_visible()
    page.get_by_role("button", name="picture outside only").click()
    expect(page.get_by_text("Most likely now: display lead")).to_be_visible()
    page.get_by_role("button", name="Choose what to reach").click()
    page.get_by_role("dialog").get_by_role("button", name="Memory slot A").click()
    page.get_by_role("button", name="Plan the way to it").click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.get_by_role("link", name="back to the job").click()
    expect(page.get_by_role("heading", name="The way in and back")).to_be_visible()
    expect(page.get_by_role("heading", name="Repair, replace or harvest")).to_be_visible()


def _contrast_of_seven(page: Page) -> list[str]:
    """What of the bench view is not readable at arm's length (WCAG AAA); axe is on the page already."""
    script = "() => axe.run('.bench', { runOnly: ['color-contrast-enhanced'], rules: { 'color-contrast-enhanced': { enabled: true } } })"
    return [node["html"][:120] for rule in page.evaluate(script)["violations"] for node in rule["nodes"]]


@pytest.mark.parametrize("lamp", [False, True])
def test_everybody_can_use_the_bench(hands: Hands, axe: Axe, lamp: bool) -> None:
    page = hands.page
    hands.opens("SK-0417", "Fan, left")
    page.evaluate("(on) => document.documentElement.classList.toggle('lamp', on)", lamp)
    assert axe(page) == []
    assert _contrast_of_seven(page) == []
    hands.into_the_machine()
    assert _contrast_of_seven(page) == []
    assert axe(page) == []
    page.get_by_role("link", name=re.compile(r"^Job \d+")).click()
    expect(page.get_by_role("heading", name="Journal")).to_be_visible()
    assert axe(page) == []
    page.get_by_role("link", name="Diagnose").click()
    page.get_by_role("button", name="The fan is loud").click()
    expect(page.get_by_role("heading", name="Next test, best first")).to_be_visible()
    assert axe(page) == []


def test_the_lead_decides_how_long_a_cure_is_watched(sign_in: SignIn, axe: Axe) -> None:
    page = sign_in("quay", "/bench")
    page.get_by_role("button", name="settings").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Days a cure has to hold").fill("400")
    dialog.locator("form", has=page.get_by_label("Days a cure has to hold")).get_by_role("button", name="Keep").click()
    expect(dialog.get_by_text("a whole number of days from 0 to 180 was wanted, got 400")).to_be_visible()
    assert axe(page) == []
    dialog.get_by_label("Days a cure has to hold").fill("7")
    dialog.locator("form", has=page.get_by_label("Days a cure has to hold")).get_by_role("button", name="Keep").click()
    expect(dialog.get_by_label("Days a cure has to hold")).to_have_value("7")
    expect(dialog.get_by_text("was wanted, got")).to_have_count(0)
