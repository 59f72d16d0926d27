"""The first page: how much script it takes, and how soon it can be used on loopback."""

from __future__ import annotations

import gzip
import re
import threading
import time
from pathlib import Path

from sqlalchemy import Engine
from werkzeug.serving import WSGIRequestHandler, make_server

from almanac.bench.measure import show
from almanac.demo.catalog import USERS
from almanac.web.app import FRONTEND, create_app

CHROMIUM = Path("/usr/bin/chromium")


class _Quiet(WSGIRequestHandler):
    def log(self, *_: object) -> None:
        """Requests are not part of the answer."""


def measure_page(engine: Engine) -> None:
    """Script of the first page, and the time to a usable outlook where Chromium is installed."""
    page = (FRONTEND / "index.html").read_text()
    scripts = re.findall(r'(?:src|href)="(/assets/[^"]+\.js)"', page)
    size = sum(len(gzip.compress((FRONTEND / name.lstrip("/")).read_bytes())) for name in scripts)
    show("Script of the first page, gzipped", size / 1000, "kB", "(aim 250 kB)")
    if not CHROMIUM.exists():
        return
    server = make_server("127.0.0.1", 0, create_app(engine, secret_key="bench"), threaded=True, request_handler=_Quiet)
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    try:
        _time_in_browser(f"http://127.0.0.1:{server.server_port}")
    finally:
        server.shutdown()
        thread.join()


def _time_in_browser(address: str) -> None:
    from playwright.sync_api import sync_playwright

    login, _, _, password = USERS[0]
    with sync_playwright() as playwright:
        arguments = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-sync"]
        browser = playwright.chromium.launch(executable_path=str(CHROMIUM), args=arguments)
        page = browser.new_page()
        page.goto(address)
        page.get_by_label("Login").fill(login)
        page.get_by_label("Password").fill(password)
        page.keyboard.press("Enter")
        page.locator("tr[data-part]").first.wait_for()
        begun = time.perf_counter()
        page.goto(address)
        page.locator("tr[data-part]").first.wait_for()
        show("From the address to a usable outlook", (time.perf_counter() - begun) * 1000, "ms", "(aim 1,000 ms)")
        browser.close()
