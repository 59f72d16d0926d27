"""A company's first day in the browser: from nothing, by three files as they are, to what is to be ordered."""

from __future__ import annotations

import re
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from playwright.sync_api import BrowserContext, Locator, Page, expect
from sqlalchemy.orm import Session
from werkzeug.serving import ThreadedWSGIServer

from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.services.clock import read_clock
from almanac.services.first_user import new_code
from almanac.store.engine import connect, migrate
from almanac.web.app import create_app
from almanac.web.outside import Outside
from tests.services.ugly_company import HOLDS, ugly_company

PASSWORD = "a password of some length"


@pytest.fixture
def empty_address(cluster: Cluster, tmp_path: Path) -> Iterator[tuple[str, str]]:
    """An application over an empty database, and the code for its first user."""
    administer(cluster, "DROP DATABASE IF EXISTS first_day WITH (FORCE)", "CREATE DATABASE first_day")
    engine = connect(cluster.url("first_day"))
    migrate(engine)
    with Session(engine) as session:
        code = new_code(session, read_clock(session))
        session.commit()
    app = create_app(engine, secret_key="first day", outside=Outside(mail=f"folder://{tmp_path}/outbox"))
    server = ThreadedWSGIServer("127.0.0.1", 0, app)
    server.daemon_threads = False
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}", code
    server.shutdown()
    server.server_close()
    thread.join()
    engine.dispose()


class Day:
    """The hands of a person on the page of lists, who counts what they decide."""

    def __init__(self, page: Page) -> None:
        self.page, self.decisions = page, 0
        self.taken = page.get_by_role("region", name="What it is taken for")
        self.difference = page.get_by_role("region", name="What it changes")

    def give(self, name: str, content: bytes) -> None:
        self.page.get_by_label("The day it was made").fill("2026-10-30")
        self.page.get_by_label("File", exact=False).set_input_files({"name": name, "mimeType": "text/plain", "buffer": content})
        expect(self.difference).to_be_visible()

    @contextmanager
    def decided(self) -> Iterator[None]:
        """One decision more; the next waits until the page shows what became of it: a reply's head comes before its body."""
        self.decisions += 1
        with self.page.expect_response("**/api/v1/lists/look"):
            yield
        expect(self.taken).to_have_attribute("aria-busy", "false")

    def choose(self, box: Locator, value: str) -> None:
        with self.decided():
            box.select_option(value)

    def say(self, label: str, value: str) -> None:
        self.taken.get_by_label(re.compile(f"^{label}")).first.fill(value)
        with self.decided():
            self.taken.get_by_role("button", name=re.compile(f"^Say so: {label}")).first.click()

    def press(self, name: str) -> None:
        with self.decided():
            self.difference.get_by_role("button", name=name).click()

    def apply(self) -> None:
        expect(self.difference.get_by_text(re.compile("questions? (is|are) open"))).to_have_count(0)
        with self.page.expect_response(lambda reply: reply.url.endswith("/api/v1/lists") and reply.request.method == "POST") as sent:
            self.difference.get_by_role("button", name=re.compile("^Apply [0-9,]+ change")).click()
        assert sent.value.status == 201
        expect(self.difference).to_contain_text("Applied.")


def machines(day: Day, content: bytes) -> None:
    day.give("Inventar.xlsx", content)
    expect(day.taken).to_contain_text("Taken for a machine list")
    day.choose(day.taken.get_by_label(re.compile("Printer 900")), "-")
    for _ in range(2):  # all models at once, and all sites
        day.choose(day.taken.get_by_label(re.compile("^All [0-9]+ of these at once")).first, "+")
    for _ in range(3):
        day.say("Since when is every repair written down at", "2023-01-01")
    day.choose(day.taken.get_by_label(re.compile("Where are orders delivered to")), "FAR")
    day.taken.get_by_text("What may be said now or later").click()
    for name, words in HOLDS.items():
        day.say(f"What does it hold.*{name}", words)
    day.apply()


def tickets(day: Day, content: bytes) -> None:
    day.give("Tickets.csv", content)
    expect(day.taken).to_contain_text("Taken for a list of tickets")
    answers = {"Wärmeleitpaste": "fan", "charge drops": "battery"}
    while (box := day.taken.get_by_role("combobox", name=re.compile("^“"))).count():
        text = box.first.evaluate("box => box.labels[0].textContent")
        day.choose(box.first, next((kind for words, kind in answers.items() if words in text), "-"))
        expect(day.taken.get_by_label(text, exact=True)).to_have_count(0)
    if (done := day.taken.get_by_label(re.compile("^Where nothing says what was done"))).count():
        day.choose(done, "replaced")
    day.apply()


def test_three_files_as_they_are_lead_to_the_first_orders(context: BrowserContext, empty_address: tuple[str, str]) -> None:
    address, code = empty_address
    context.set_default_timeout(90_000)
    page = context.new_page()
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.goto(address)
    for label, text in (("Code", code), ("Company", "Far Ferries"), ("Time zone", "UTC"), ("Your name", "A. Lead"), ("Login", "lead")):
        page.get_by_label(label, exact=False).first.fill(text)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("link", name="First day")).to_be_visible()
    said: list[str] = []
    page.on("console", lambda message: said.append(message.text) if message.type in ("error", "warning") else None)
    for path, words in (
        ("rates/fan", "No fan was ever seen in service"),
        ("rates/alarms", "Nothing can be watched yet"),
        ("rates/fade", "No reading is on record"),
    ):
        page.goto(f"{address}/{path}")
        expect(page.get_by_text(words)).to_be_visible()
    assert said == []  # an empty company is no error
    page.goto(address)
    page.get_by_role("link", name="First day").click()
    page.get_by_role("link", name="Take the machine list").click()
    files, day = ugly_company(), Day(page)
    machines(day, files.machines)
    day.give("Lager.csv", files.shelves)
    expect(day.taken).to_contain_text("Taken for a list of parts or shelves")
    day.choose(day.taken.get_by_label(re.compile("^All [0-9]+ of these at once")), "+")
    day.say("Days until an order comes from “Tangle Parts”", "14")
    day.apply()
    day.give("Inventar.xlsx", files.machines)
    with day.decided():
        day.difference.get_by_label("Machines hold what they were delivered with").check()
    day.apply()
    tickets(day, files.tickets)
    page.goto(f"{address}/first-day")
    expect(page.get_by_role("listitem").nth(2)).to_contain_text("told: 600 of 600 machines with parts on record")
    page.get_by_role("link", name="See what is to be ordered").click()
    expect(page.get_by_role("heading", name="Outlook")).to_be_visible()
    expect(page.locator("header p").filter(has_text="to place")).to_contain_text(re.compile("[0-9]+ orders? to place"))
    assert 10 < day.decisions <= 40
    assert errors == []
