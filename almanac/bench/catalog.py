"""How fast the catalog's core is: the route of a large page, and the line-up of many models."""

from __future__ import annotations

import random
import time
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

import click

from almanac.bench.measure import show
from almanac.core.parts.lineup import Need, choose_line_up
from almanac.core.parts.page_forms import PRESENT
from almanac.core.teardown.route import plan_route
from almanac.core.teardown.written import teardown_of
from almanac.exchange.pages.read import read_page
from almanac.exchange.pages.write import write_page

PAGES = Path(__file__).resolve().parents[1] / "demo" / "pages"

TOOLS = ("PH0", "PH1", "T5", None)


def large_page(steps: int, *, seed: int = 7) -> dict[str, Any]:
    """A page of many steps in layers, some with alternatives, each freeing a position."""
    chance = random.Random(seed)  # noqa: S311 - a drawing to measure on, no secret
    operations: list[dict[str, Any]] = []
    for place in range(steps):
        earlier = [f"s{other}" for other in range(max(0, place - 12), place)]
        needs: list[Any] = chance.sample(earlier, min(len(earlier), 2))
        if place % 7 == 6:
            needs = [{"any": needs}]
        minutes = chance.uniform(0.5, 5)
        operations.append(
            {
                "id": f"s{place}",
                "text": f"Step {place}",
                "needs": needs,
                "frees": [f"p{place}"],
                "tool": chance.choice(TOOLS),
                "live": place < 3,
                "isolates": place == 3,
                "minutes": {"low": minutes, "likely": minutes, "high": minutes},
            }
        )
    positions = [{"key": f"p{place}", "label": f"Part {place}", "kind": "other", "serviceability": "screwed"} for place in range(steps)]
    return {"positions": positions, "operations": operations}


def many_needs(models: int, *, parts: int = 120, seed: int = 7) -> tuple[list[Need], dict[str, float]]:
    """Needs of many models, three positions each, every one served by up to six parts of its own corner of the catalogue."""
    chance = random.Random(seed)  # noqa: S311 - a drawing to measure on, no secret
    prices = {f"part {number}": chance.uniform(15, 150) for number in range(parts)}
    needs = []
    for model in range(models):
        for position in range(3):
            first = chance.randrange(0, parts - 8)
            candidates = chance.sample(range(first, first + 8), chance.randint(1, 6))
            needs.append(Need(f"{model}/{position}", chance.uniform(0.05, 4), tuple(f"part {number}" for number in candidates)))
    return needs, prices


def typed(pages: Iterable[Mapping[str, Any]]) -> tuple[int, int]:
    """Characters of page files in the first form and in the present one, blanks at the beginning of a line left out."""
    first = present = 0
    for page in pages:
        first += _characters(write_page({**page, "page_format": 1}))
        present += _characters(write_page({**page, "page_format": PRESENT}))
    return first, present


def _characters(file: bytes) -> int:
    return sum(len(line.strip()) for line in file.decode().splitlines())


def measure_catalog() -> None:
    """Print the time of a 60-step route to three parts, and of a line-up of 300 models."""
    click.echo("The catalog")
    teardown = teardown_of(large_page(60))
    plan_route(teardown, ["p59"])
    begun = time.perf_counter()
    rounds = 20
    for _ in range(rounds):
        plan_route(teardown, ["p59", "p50", "p41"])
    show("Route to three parts of a page of 60 steps", (time.perf_counter() - begun) / rounds * 1000, "ms", "aim 20 ms")
    first, present = typed(read_page(file.read_bytes()).page or {} for file in sorted(PAGES.glob("*.yaml")))
    show("Characters of the demo's pages, of what they took in the first form", present / first * 100, "%", "aim 50 %")
    needs, prices = many_needs(300)
    begun = time.perf_counter()
    choose_line_up(needs, prices, lead_years=0.1, target=0.95, holding_share=0.2, line_cost=25)
    show(f"Line-up of 300 models, {len(needs)} needs, {len(prices)} parts", time.perf_counter() - begun, "s", "aim 2 s")
