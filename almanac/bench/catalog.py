"""How fast the catalog's core is: the route of a large page, and the line-up of many models."""

from __future__ import annotations

import random
import time
from typing import Any

import click

from almanac.bench.measure import show
from almanac.core.parts.lineup import Need, choose_line_up
from almanac.core.teardown.route import plan_route
from almanac.core.teardown.written import teardown_of

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
    needs, prices = many_needs(300)
    begun = time.perf_counter()
    choose_line_up(needs, prices, lead_years=0.1, target=0.95, holding_share=0.2, line_cost=25)
    show(f"Line-up of 300 models, {len(needs)} needs, {len(prices)} parts", time.perf_counter() - begun, "s", "aim 2 s")
