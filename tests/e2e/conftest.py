"""The real interface in a browser: the application served on loopback over a copy of the demo, for each test its own."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Locator, Page, expect
from werkzeug.serving import ThreadedWSGIServer

from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.store.engine import connect
from almanac.web.app import create_app
from almanac.web.outside import Outside
from tests.conftest import PASSWORDS

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


expect.set_options(timeout=90_000)
"""Long, so that a slow machine fails nothing: what is there is found at once."""


@contextlib.contextmanager
def served(cluster: Cluster, template: str, outside: Callable[[str], Outside]) -> Iterator[str]:
    """The application over a copy of a database of its own; outside : what is around it, by its address."""
    administer(cluster, "DROP DATABASE IF EXISTS browser WITH (FORCE)", f"CREATE DATABASE browser TEMPLATE {template}")
    engine = connect(cluster.url("browser"))
    server = ThreadedWSGIServer("127.0.0.1", 0, None)  # type: ignore[arg-type]
    address = f"http://127.0.0.1:{server.server_port}"
    server.app = create_app(engine, secret_key="browser", outside=outside(address))
    server.daemon_threads = False  # closing the server waits for requests in flight, and so for their connections
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    yield address
    server.shutdown()
    server.server_close()
    thread.join()
    engine.dispose()


@pytest.fixture
def address(cluster: Cluster, demo_template: str, tmp_path: Path) -> Iterator[str]:
    with served(cluster, demo_template, lambda _: Outside(mail=f"folder://{tmp_path}/outbox")) as found:
        yield found


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    """Debian's Chromium; nothing downloads a browser."""
    return {"executable_path": "/usr/bin/chromium", "args": ARGUMENTS}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, Any]:
    return {"viewport": {"width": 1280, "height": 800}, "bypass_csp": True, "locale": "en-GB"}


SignIn = Callable[..., Page]


@pytest.fixture
def sign_in(context: BrowserContext, address: str) -> Iterator[SignIn]:
    """Opens an address as a user; the page may not log an error that the test did not provoke."""
    errors: list[str] = []
    context.set_default_timeout(90_000)

    def open_as(login: str, path: str = "/") -> Page:
        page = context.new_page()
        page.on("pageerror", lambda error: errors.append(str(error)))
        page.goto(address + path)
        page.get_by_label("Login").fill(login)
        page.get_by_label("Password").fill(PASSWORDS[login])
        page.keyboard.press("Enter")
        page.get_by_role("navigation", name="Tabs").wait_for()
        return page

    yield open_as
    assert errors == []


@pytest.fixture
def axe() -> Callable[[Page], list[dict[str, Any]]]:
    """Violations of WCAG 2.2 A and AA on a page, as axe finds them."""
    source = (Path(__file__).resolve().parents[2] / "frontend/node_modules/axe-core/axe.min.js").read_text()

    def check(page: Page) -> list[dict[str, Any]]:
        page.evaluate(source)
        rules = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
        result = page.evaluate("(tags) => axe.run(document, { runOnly: { type: 'tag', values: tags } })", rules)
        return [{"id": v["id"], "nodes": [n["html"][:160] for n in v["nodes"][:3]]} for v in result["violations"]]

    return check


def tick(box: Locator) -> None:
    """Tick a box whose state lives in the address: the address changes first and the box follows it."""
    box.click()
    expect(box).to_be_checked()
