"""Figures that a worker computes behind the page: the first ones come, old ones stay until newer ones are there."""

from __future__ import annotations

import re
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine, text
from werkzeug.serving import ThreadedWSGIServer

from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.store.engine import connect
from almanac.web.app import create_app
from tests.conftest import PASSWORDS
from tests.jobs.test_worker import start_worker


@pytest.fixture
def engine(cluster: Cluster, demo_template: str) -> Iterator[Engine]:
    administer(cluster, "DROP DATABASE IF EXISTS behind WITH (FORCE)", f"CREATE DATABASE behind TEMPLATE {demo_template}")
    found = connect(cluster.url("behind"))
    yield found
    found.dispose()


@pytest.fixture
def address(engine: Engine, tmp_path: Path) -> Iterator[str]:
    """The application with a worker process behind it."""
    server = ThreadedWSGIServer("127.0.0.1", 0, create_app(engine, secret_key="behind", workers=True))
    server.daemon_threads = False
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    worker = start_worker(engine, tmp_path / "worker.log")
    yield f"http://127.0.0.1:{server.server_port}"
    worker.kill()
    worker.wait(10)
    server.shutdown()
    server.server_close()
    thread.join()


def test_old_figures_stay_until_newer_ones_are_there(
    page: Page, address: str, engine: Engine, axe: Callable[[Page], list[dict[str, Any]]]
) -> None:
    page.set_default_timeout(180_000)
    page.goto(address)
    page.get_by_label("Login").fill("quay")
    page.get_by_label("Password").fill(PASSWORDS["quay"])
    page.keyboard.press("Enter")
    said = page.locator("header").get_by_role("status")
    expect(said).to_have_text(re.compile("being computed"), timeout=60_000)
    page.locator("tr[data-part]").first.wait_for()
    page.get_by_text("Skerry Line").click()
    page.get_by_role("menuitem", name="Work behind the pages").click()
    expect(page.get_by_role("heading", name="Work behind the pages")).to_be_visible()
    expect(page.get_by_text("1 worker")).to_be_visible()
    assert axe(page) == []
    page.get_by_role("link", name=re.compile("Outlook")).first.click()
    page.locator("tr[data-part]").first.wait_for()
    with engine.begin() as connection:
        connection.execute(text("UPDATE part SET name = 'Fan with a new name' WHERE number = 'OF-P14'"))
    expect(said).to_have_text(re.compile("newer ones are being computed"), timeout=60_000)
    expect(page.get_by_text("Fan with a new name").first).to_be_visible(timeout=180_000)
    expect(said).to_have_text("", timeout=60_000)


def test_a_long_list_is_worked_on_behind_the_page(
    page: Page, address: str, engine: Engine, tmp_path: Path, axe: Callable[[Page], list[dict[str, Any]]]
) -> None:
    rows = [f"ZZ-{number:05d};S{number:09d};Ostrel Packet 14;Gullskerry;0{1 + number % 9}.03.2024" for number in range(9000)]
    file = tmp_path / "register.csv"
    file.write_text("\n".join(["Asset tag;Serial;Model;Site;In service since", *rows]))
    page.set_default_timeout(400_000)
    page.goto(f"{address}/import/lists")
    page.get_by_label("Login").fill("quay")
    page.get_by_label("Password").fill(PASSWORDS["quay"])
    page.keyboard.press("Enter")
    page.locator("input[type=file]").set_input_files(file)
    expect(page.get_by_role("progressbar", name="Looking at register.csv")).to_be_visible()
    assert axe(page) == []
    page.get_by_role("button", name="Still there").click()
    page.locator("select").filter(has_text="choose what it is").select_option("+")
    apply = page.get_by_role("button", name="Apply 9,000 changes")
    expect(apply).to_be_enabled()
    apply.click()
    page.get_by_text("Applied.").wait_for()
    with engine.connect() as connection:
        assert connection.scalar(text("SELECT count(*) FROM asset WHERE tag LIKE 'ZZ-%'")) == 9000
    page.get_by_role("button", name=re.compile("Undo the list")).first.click()
    expect(page.get_by_text("9,000 changes are taken back")).to_be_visible()
    with engine.connect() as connection:
        assert connection.scalar(text("SELECT count(*) FROM asset WHERE tag LIKE 'ZZ-%'")) == 0
