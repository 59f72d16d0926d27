"""Takes the pictures of docs/screenshots/ from a running demo: .venv/bin/python -m tests.e2e.pictures http://127.0.0.1:8480"""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from almanac.demo.catalog import USERS
from tests.e2e.test_bench import Hands

FOLDER = Path(__file__).resolve().parents[2] / "docs" / "screenshots"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-sync"]


def _record(page: Page) -> None:
    page.get_by_label("Asset tag").fill("SK-0417")
    page.keyboard.press("Enter")
    page.get_by_label("Position").select_option(label="Fan, left")
    page.get_by_label("What was noticed").fill("fan does not turn")


def _working(page: Page) -> None:
    page.get_by_role("heading", name="Working").wait_for()
    page.locator('section[aria-label="Working"]').evaluate("e => e.scrollIntoView()")
    page.get_by_role("button", name="show this part's log entries").first.click()
    page.wait_for_timeout(500)


def _fits(page: Page) -> None:
    page.get_by_role("button", name="What fits").click()
    page.wait_for_timeout(500)


def _order(page: Page) -> None:
    page.get_by_role("region", name="To settle").wait_for()


def _survey(page: Page) -> None:
    page.get_by_role("button", name="Memory slot A Memory, socketed").click()
    page.get_by_label("Add a fact, or a label as you read it").first.fill("16GB 2Rx8 PC4-3200AA-SE1")
    page.get_by_label("Pasted notes").fill("pack says 11.4V 4.91Ah 56Wh\nscrews: 9 captive, 1 long, 11 in total")
    page.get_by_role("button", name="Propose").click()
    page.locator('section[aria-label="Survey"]').evaluate("e => e.scrollTo(0, 470)")


def _bench(page: Page) -> None:
    hands = Hands(page)
    hands.opens("SK-0417", "Fan, left")
    hands.into_the_machine()
    page.evaluate("() => document.documentElement.classList.add('lamp')")
    page.wait_for_timeout(500)


def _mismatch(page: Page) -> None:
    """The job of the picture before, closed with the fan lead forgotten."""
    page.get_by_role("link", name="Go on at the bench").click()
    hands = Hands(page)
    hands.done()
    hands.at(4)
    hands.done()
    hands.at(5)
    hands.tests_before_closing()
    hands.puts_back("2 × PH0 M2x5")
    hands.done()
    hands.at(8)
    page.get_by_role("alert").wait_for()


def _diagnosis(page: Page) -> None:
    page.get_by_label("What was noticed").fill("screen stays dark after it fell")
    page.get_by_label("it was dropped").check()
    page.get_by_label("looked, none of these").check()
    page.get_by_role("button", name="Open the job and diagnose it").click()
    page.get_by_role("button", name="light", exact=True).click()
    page.get_by_role("button", name="picture outside only").click()
    page.get_by_text("Most likely now").wait_for()


def _rates(page: Page) -> None:
    page.get_by_text("They wear out").wait_for()


def _calibration(page: Page) -> None:
    page.get_by_text("of the past 12 quarters").wait_for(timeout=120_000)


def _what_if(page: Page) -> None:
    page.get_by_label("What if we").select_option("buy")
    page.get_by_label("Model", exact=True).select_option(label="Ostrel Packet 14")
    page.get_by_label("Site", exact=True).select_option("ELD")
    page.get_by_role("textbox", name="Machines").fill("200")
    page.get_by_role("button", name="Add the change").click()
    page.get_by_role("region", name="What would follow").get_by_role("button").first.click(timeout=120_000)
    page.get_by_text("What if: ").wait_for(timeout=120_000)


def _nothing(_: Page) -> None:
    """The view as it opens."""


PICTURES: dict[str, tuple[str, Callable[[Page], None]]] = {
    "outlook": ("/outlook", _nothing),
    "order": ("/stores/orders/PO-2026-025", _order),
    "working": ("/outlook/OB-P14-60", _working),
    "models": ("/models?q=rivets", _nothing),
    "page": ("/models/1?at=battery", _nothing),
    "route": ("/models/5/route?to=keyboard,fan_left", _nothing),
    "fits": ("/models/7?at=drive", _fits),
    "compare": ("/models/compare?models=1,2,7", _nothing),
    "survey": ("/models/7/survey", _survey),
    "ledger": ("/ledger", _nothing),
    "bench": ("/bench", _bench),
    "mismatch": ("/bench", _mismatch),
    "diagnosis": ("/bench/new?tag=SK-0031", _diagnosis),
    "stores": ("/stores/BB-T16-56/ELD", _nothing),
    "record": ("/ledger/new", _record),
    "rates": ("/rates/battery", _rates),
    "calibration": ("/rates/calibration", _calibration),
    "what-if": ("/outlook/what-if", _what_if),
    "import": ("/import", _nothing),
}


def main(address: str) -> None:
    """One picture of each main view at 1280 by 800."""
    login, _, _, password = USERS[0]
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
        page.goto(address)
        page.get_by_label("Login").fill(login)
        page.get_by_label("Password").fill(password)
        page.keyboard.press("Enter")
        page.get_by_role("heading", name="Outlook").wait_for()
        for name, (path, prepare) in PICTURES.items():
            page.goto(address + path)
            page.wait_for_load_state("networkidle")
            prepare(page)
            page.get_by_text("Computing").first.wait_for(state="hidden", timeout=120_000)
            page.wait_for_timeout(600)
            page.screenshot(path=FOLDER / f"{name}.png")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
