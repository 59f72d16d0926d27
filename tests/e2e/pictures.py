"""Takes the pictures of docs/screenshots/ from a running demo: .venv/bin/python -m tests.e2e.pictures http://127.0.0.1:8480"""

from __future__ import annotations

import re
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from almanac.demo.catalog import USERS
from almanac.demo.load import draw
from tests.e2e.test_bench import Hands
from tests.services.ugly import as_csv, german

FOLDER = Path(__file__).resolve().parents[2] / "docs" / "screenshots"
SAYS_NOTHING = """() => ![...document.querySelectorAll('[role=status]')].some(e => /…|being computed|Stopped/.test(e.textContent))"""
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-sync"]


def _working(page: Page) -> None:
    page.get_by_role("heading", name="Working").wait_for()
    page.locator('section[aria-label="Working"]').evaluate("e => e.scrollIntoView()")
    page.get_by_role("button", name="show this part's log entries").first.click()
    page.wait_for_timeout(500)


def _fleet(page: Page) -> None:
    page.get_by_text(re.compile("will fail within a year")).first.wait_for(timeout=120_000)
    page.get_by_role("checkbox", name=re.compile("^SK-")).nth(1).check()


def _today(page: Page) -> None:
    page.get_by_role("heading", name=re.compile("^Today, ")).wait_for(timeout=120_000)


def _order(page: Page) -> None:
    page.get_by_role("region", name="To settle").wait_for()


def _survey(page: Page) -> None:
    page.get_by_label("Add a fact, or a label as you read it of Memory slot A, what the place takes").fill("16GB 2Rx8 PC4-3200AA-SE1")


def _bench(page: Page) -> None:
    hands = Hands(page)
    hands.opens("SK-0417", "Fan, left")
    hands.into_the_machine()
    page.evaluate("() => document.documentElement.classList.add('lamp')")
    page.wait_for_timeout(500)


def _what_if(page: Page) -> None:
    page.get_by_label("Model", exact=True).select_option(label="Quillfin Drydock 15")
    page.get_by_role("button", name="Add the change").click()
    follows = page.get_by_role("region", name="What would follow")
    follows.get_by_role("button").first.click(timeout=120_000)
    page.get_by_role("region", name="Beside the plan").get_by_text(re.compile("What if: ")).wait_for(timeout=120_000)


def _exceptions(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^exceptions")).click()
    page.get_by_role("dialog").get_by_text("quarantine").first.wait_for()


def _rates(page: Page) -> None:
    page.get_by_text("failures come with age").wait_for()


def _alarm(page: Page) -> None:
    page.get_by_role("region", name="What accepting would change").get_by_role("row").nth(1).wait_for(timeout=120_000)


def _rehearsal(page: Page) -> None:
    page.get_by_role("row").filter(has_text="Order when one is left").wait_for(timeout=180_000)
    page.get_by_text("is played next").first.wait_for(state="hidden", timeout=180_000)


def _difference(page: Page) -> None:
    """The demo's own machines as a German list, some of them moved, scrapped, missing, new."""
    page.get_by_label("The day it was made").fill("2026-10-30")
    page.get_by_label("File", exact=False).set_input_files({"name": "Geräte.csv", "mimeType": "text/csv", "buffer": _list()})
    page.get_by_label(re.compile("Laserwerk Printer 900")).select_option("-")
    page.get_by_label(re.compile("Packet 14b")).wait_for()


def _list() -> bytes:
    tables = draw().rows.tables
    models = {row["id"]: row for row in tables["device_model"]}
    sites = {row["id"]: row["name"] for row in tables["site"]}
    stands = {row["asset_id"]: sites[row["site_id"]] for row in tables["asset_stay"] if row["until_on"] is None}
    rows = [
        [asset["tag"], models[asset["model_id"]]["maker"], models[asset["model_id"]]["name"], stands[asset["id"]],
         german(asset["in_service_on"]), asset["serial"] or "", "im Einsatz"]
        for asset in tables["asset"] if asset["retired_on"] is None and asset["id"] in stands
    ]  # fmt: skip
    rows[0][3], rows[1][6], rows[5][3], rows[6][5] = "Brakenquay", "verschrottet", "Ternhaven", "SN-77100"
    del rows[2:4]
    rows.append(["SK-9200", "Ostrel", "Packet 14", "Ternhaven", "12.10.2026", "", ""])
    rows.append(["SK-9201", "Ostrel", "Packet 14b", "Ternhaven", "12.10.2026", "", ""])
    rows.append(["PR-0001", "Laserwerk", "Printer 900", "Ternhaven", "01.02.2024", "", ""])
    rows.append(["", "Ostrel", "Packet 14", "Ternhaven", "01.02.2024", "", ""])
    return as_csv(rows)


def _nothing(_: Page) -> None:
    """The view as it opens."""


PICTURES: dict[str, tuple[str, Callable[[Page], None]]] = {
    "outlook": ("/outlook", _nothing),
    "order": ("/stores/orders/PO-2026-025", _order),
    "working": ("/outlook/OB-P14-60", _working),
    "models": ("/models?q=rivets", _nothing),
    "page": ("/models/13?at=mainboard", _nothing),
    "route": ("/models/5/route?to=keyboard,fan_left", _nothing),
    "survey": ("/models/7/survey?at=part:memory_a", _survey),
    "ledger": ("/ledger", _nothing),
    "day": ("/bench", _nothing),
    "bench": ("/bench", _bench),
    "exceptions": ("/bench", _exceptions),
    "stores": ("/stores/BB-T16-56/ELD", _nothing),
    "rates": ("/rates/battery", _rates),
    "alarm": ("/rates/alarms", _alarm),
    "whatif": ("/outlook/what-if", _what_if),
    "rehearsal": ("/outlook/rehearsal", _rehearsal),
    "fleet": ("/fleet?model=1&sort=age", _fleet),
    "today": ("/today", _today),
    "difference": ("/import/lists", _difference),
}


def _settled(page: Page) -> None:
    """Wait until nothing on the page is being worked out, nor newer figures than those it shows."""
    page.wait_for_function(SAYS_NOTHING, timeout=180_000)
    page.wait_for_timeout(600)
    page.wait_for_function(SAYS_NOTHING, timeout=180_000)


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
            _settled(page)
            page.screenshot(path=FOLDER / f"{name}.png")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
