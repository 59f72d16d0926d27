"""The safety table of the bench, each row done wrong first: mains that nobody waives, licensed work, one person's own word."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import text

from almanac.launch.cluster import Cluster
from almanac.store.engine import connect
from tests.conftest import PASSWORDS
from tests.e2e.conftest import SignIn
from tests.e2e.test_bench import Hands

Axe = Callable[[Page], list[dict[str, Any]]]
MACHINE = """
SELECT min(a.tag) FROM asset a JOIN device_model m ON m.id = a.model_id WHERE a.retired_on IS NULL AND m.name = :model
"""


@pytest.fixture
def hands(sign_in: SignIn) -> Hands:
    return Hands(sign_in("pell"))


def _tag(cluster: Cluster, model: str) -> str:
    engine = connect(cluster.url("browser"))
    with engine.begin() as connection:
        tag = str(connection.execute(text(MACHINE), {"model": model}).scalar_one())
    engine.dispose()
    return tag


def test_mains_inside_is_never_waived_and_waits_the_makers_minutes(hands: Hands, cluster: Cluster, axe: Axe) -> None:
    page = hands.page
    hands.opens(_tag(cluster, "Counter 20"), "Memory slot A")
    expect(page.get_by_role("button", name="It cannot be met")).to_have_count(0)
    expect(page.get_by_text("Mains inside: lead out and in your hand").first).to_be_visible()
    hands.passes("Power off")
    gate = page.get_by_role("region", name="Isolated")
    for step in (2, 3, 4):
        hands.done()
        hands.at(step)
    expect(gate).to_be_visible()
    expect(page.get_by_role("button", name="It cannot be met")).to_have_count(0)
    while (statement := gate.locator("button[aria-pressed=false]")).count():
        statement.first.click()
    for field in gate.get_by_role("textbox").all():
        field.fill("3")
    gate.get_by_role("button", name="Open this gate").click()
    expect(page.get_by_text(re.compile("wait at least 10 min after the mains is out, 3 min were said")).first).to_be_visible()
    assert axe(page) == []
    hands.passes("Isolated")


def test_no_power_with_mains_inside_is_licensed_work(hands: Hands, cluster: Cluster, axe: Axe) -> None:
    page = hands.page
    page.goto(re.sub(r"/[^/]*$", f"/bench/new?tag={_tag(cluster, 'Counter 24')}", page.url))
    page.get_by_label("What was noticed").fill("does nothing")
    page.get_by_label("no power").check()
    page.get_by_label("Drive").first.check()
    page.get_by_role("button", name="Record it: the job opens stopped").click()
    expect(page.get_by_role("button", name="Done")).to_have_count(0)
    expect(page.get_by_text(re.compile("licensed")).first).to_be_visible()
    assert axe(page) == []


def test_a_pack_that_was_released_by_nobody_keeps_every_job_off_its_machine(hands: Hands, browser: Browser, axe: Axe) -> None:
    page = hands.page
    page.goto(re.sub(r"/[^/]*$", "/bench/new?tag=SK-0417", page.url))
    page.get_by_label("What was noticed").fill("lid does not close")
    page.get_by_label("the lid does not close").check()
    page.get_by_role("button", name="Record it: the job opens stopped").click()
    expect(page.get_by_role("heading", name=re.compile("^Stop, the pack"))).to_be_visible()
    stopped = page.url
    page.goto(re.sub(r"/bench/.*$", "/bench/new?tag=SK-0417", page.url))
    page.get_by_label("What was noticed").fill("let me work")
    page.get_by_label("looked, none of these").check()
    page.get_by_role("button", name="Open the job and diagnose it").click()
    expect(
        page.get_by_role("alert").filter(has_text="nobody released it: a lead does that first, no other job begins on it")
    ).to_be_visible()
    expect(page.get_by_role("heading", name="What may lie behind it")).to_have_count(0)
    page.goto(stopped)
    page.get_by_label("What was done").fill("it was carried to the steel box; officer L. Tarn looked at it")
    page.get_by_role("button", name="Ask a lead to release it").click()
    other = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
    lead = other.new_page()
    lead.goto(re.sub(r"/bench/.*$", "/bench", page.url))
    lead.get_by_label("Login").fill("quay")
    lead.get_by_label("Password").fill(PASSWORDS["quay"])
    lead.keyboard.press("Enter")
    lead.get_by_role("button", name="One approval is asked").click()
    dialog = lead.get_by_role("dialog")
    approve = dialog.get_by_role("button", name=re.compile("^(Approve|Release)"))
    expect(approve.first).to_be_visible()
    assert axe(lead) == []
    approve.first.click()
    expect(dialog.get_by_role("alert").or_(dialog.get_by_text(re.compile("officer|day", re.IGNORECASE))).first).to_be_visible()
    other.close()


SEALED = """
INSERT INTO model_revision (model_id, number, page, author_id, reason, draft, recorded_at)
SELECT r.model_id, r.number + 1, jsonb_set(r.page, '{operations,0,seal}', 'true'), 1, 'it has a seal', false, now()
FROM model_revision r JOIN device_model m ON m.id = r.model_id
WHERE m.name = 'Packet 15' ORDER BY r.number DESC LIMIT 1
"""
ALONE = """
UPDATE "user" SET active = (login = 'pell');
INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
VALUES ('company', '', 'own_approval', 1, '1', '2026-01-01', now())
"""


def _sql(cluster: Cluster, words: str) -> None:
    engine = connect(cluster.url("browser"))
    with engine.begin() as connection:
        for statement in words.split(";"):
            if statement.strip():
                connection.execute(text(statement))
    engine.dispose()


def _signs_in_here(page: Page, login: str) -> None:
    asked = page.get_by_role("region", name=re.compile("^Asked: "))
    asked.get_by_label("Login").fill(login)
    asked.get_by_label("Password").fill(PASSWORDS[login])
    asked.get_by_role("button", name="Approve", exact=True).click()


def test_a_seal_is_broken_on_a_second_persons_word(hands: Hands, cluster: Cluster, axe: Axe) -> None:
    page = hands.page
    _sql(cluster, SEALED)
    hands.opens(_tag(cluster, "Packet 15"), "Fan")
    for gate in ("Power off", "Look at the pack"):
        hands.passes(gate)
    seal = page.get_by_role("region", name="A seal is broken here")
    expect(seal).to_be_visible()
    expect(page.get_by_role("button", name="Done")).to_have_count(0)
    expect(seal.get_by_role("button", name="Open this gate")).to_have_count(0)
    page.get_by_label("Why it has to be done").fill("its fan lies below")
    page.get_by_role("button", name=re.compile("^Ask a second person")).click()
    _signs_in_here(page, "pell")
    expect(page.get_by_role("alert").first).to_be_visible()  # the worker's own word is none
    assert axe(page) == []
    _signs_in_here(page, "quay")
    expect(seal).to_have_count(0)
    expect(page.get_by_role("button", name="Done")).to_be_visible()


def test_one_person_approves_with_a_photo_what_the_company_allows(hands: Hands, cluster: Cluster, axe: Axe) -> None:
    page = hands.page
    _sql(cluster, ALONE)
    hands.opens("SK-0417", "Fan, left")
    page.get_by_role("button", name="It cannot be met").click()
    page.get_by_label("Why this gate is to be let be").fill("the button is torn off")
    page.get_by_role("button", name="nobody else is here").click()
    page.get_by_role("button", name="Approve it myself").click()
    expect(page.get_by_text(re.compile("needs a photo")).first).to_be_visible()
    image = {"name": "button.png", "mimeType": "image/png", "buffer": page.screenshot(clip={"x": 0, "y": 0, "width": 64, "height": 64})}
    page.get_by_label("Photo that shows it").set_input_files(image)  # type: ignore[arg-type]
    page.get_by_role("button", name="Approve it myself").click()
    expect(page.get_by_text("power waived by R. Pell: the button is torn off").first).to_be_visible()
    assert axe(page) == []
    page.get_by_role("link", name=re.compile("^Bench")).click()
    page.get_by_role("button", name="exceptions").click()
    expect(page.get_by_role("dialog").get_by_role("cell", name="own approval")).to_be_visible()
