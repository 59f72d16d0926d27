"""`calc network`, `calc echelon` and `calc budget`: a depot and its sites, bases that repair, and what money buys."""

from __future__ import annotations

from typing import Any

from almanac.calculator.inputs import InputFaults, JsonInput
from almanac.calculator.shelf_inputs import read_network, read_target
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.network.budget import BudgetPart, spend
from almanac.core.network.evaluate import Curves, NetworkFigures
from almanac.core.network.levels import FLOOR, Levels, Wanted, least_levels, most_for
from almanac.core.network.nodes import Network
from almanac.core.network.repairables import Base, Method, echelon_figures
from almanac.core.network.transfers import DEPOT, echelon_order, loading, standing_of

DEPOT_NAME = "depot"
MOST_TIME = 1e6


def network(path: str) -> dict[str, Any]:
    """Levels of a depot and its sites, worked out or evaluated, and what to order and load today."""
    given = JsonInput(path)
    made, names = read_network(given, given.values)
    price = given.number("price", default=1.0, low=1e-9, high=1e9)
    fixed = _levels(given, names)
    wanted = _wanted(given) if fixed is None and not given.has("budget") else None
    budget = given.number("budget", low=0.0) if given.has("budget") else None
    given.finish()
    try:
        made, levels, figures = _found(made, fixed, wanted, budget, price)
        answer = _answer(made, names, levels, figures, price)
        if given.has("on_hand"):
            answer |= _moves(given, made, names, levels)
        return answer
    except (ContractError, NoEstimate) as error:
        raise InputFaults([f"{path}: {error}"]) from error


def _levels(given: JsonInput, names: tuple[str, ...]) -> tuple[Levels, int] | None:
    inside = given.values.get("levels")
    if inside is None:
        return None
    if not isinstance(inside, dict) or not isinstance(inside.get("depot"), dict):
        given.fault("levels", "an object with depot {s, Q} and sites was wanted")
        return None
    s = given.whole("s", inside=inside["depot"], at="levels.depot", low=-1, high=10**6)
    lot = given.whole("Q", inside=inside["depot"], at="levels.depot", low=1, high=10**6)
    sites = inside.get("sites")
    if isinstance(sites, dict):
        sites = [sites.get(name) for name in names]
    if isinstance(sites, list) and all(isinstance(item, dict) for item in sites):
        by_name = {str(item.get("site")): item.get("level") for item in sites}
        sites = [by_name.get(name) for name in names]
    if not isinstance(sites, list) or len(sites) != len(names):
        given.fault("levels.sites", f"a level for each of {len(names)} sites was wanted")
        return None
    own = tuple(given.whole("value", inside={"value": item}, at=f"levels.sites[{i}]", high=10**6) for i, item in enumerate(sites))
    return Levels(s, own), lot


def _wanted(given: JsonInput) -> Wanted:
    each = given.values.get("per_site", False)
    if not isinstance(each, bool):
        given.fault("per_site", f"true or false was wanted, got {each!r}")
    floor = given.number("site_floor", default=FLOOR, low=0.0, high=1.0)
    target = read_target(given, given.values)
    return Wanted(target, min(floor, target), each=bool(each))


def _found(
    made: Network, levels: tuple[Levels, int] | None, wanted: Wanted | None, budget: float | None, price: float
) -> tuple[Network, Levels, NetworkFigures]:
    if levels is not None:
        chosen, lot = levels
        made = Network(made.weight, made.depot, made.sites, made.lanes, made.lead, made.review_days, lot)
        return made, chosen, Curves(made).figures(chosen.s, chosen.sites)
    if budget is not None:
        bought = most_for(made, price, budget)
        return made, bought.levels, bought.figures
    assert wanted is not None
    return made, *least_levels(made, wanted)


def _answer(made: Network, names: tuple[str, ...], levels: Levels, figures: NetworkFigures, price: float) -> dict[str, Any]:
    return {
        "depot": {
            "s": levels.s,
            "Q": made.lot,
            "fill": figures.depot.fill if float(made.weight @ made.depot) > 0 else None,
            "expected_backorders": figures.backorders,
        },
        "sites": [
            {"site": name, "level": level, "fill": site.fill, "expected_waiting": site.expected_waiting}
            for name, level, site in zip(names, levels.sites, figures.sites, strict=True)
        ],
        "fill": figures.fill,
        "expected_waiting": figures.expected_waiting,
        "stock_value": price * figures.stock,
    }


def _moves(given: JsonInput, made: Network, names: tuple[str, ...], levels: Levels) -> dict[str, Any]:
    on_hand = _by_name(given, "on_hand", names)
    under_way = _by_name(given, "under_way", names) if given.has("under_way") else {}
    on_order = given.whole("on_order", default=0)
    given.finish()
    standing = standing_of(on_hand, under_way, names, DEPOT_NAME, on_order)
    moves = loading(made, levels, standing)
    return {
        "order": echelon_order(levels, made.lot, standing),
        "transfers": [{"from": _name(move.come_from, names), "to": _name(move.go_to, names), "quantity": move.quantity} for move in moves],
    }


def _name(place: int, names: tuple[str, ...]) -> str:
    return DEPOT_NAME if place == DEPOT else names[place]


def _by_name(given: JsonInput, key: str, names: tuple[str, ...]) -> dict[str, int]:
    inside = given.values.get(key)
    if not isinstance(inside, dict):
        given.fault(key, "an object of parts by place was wanted")
        return {}
    for name in inside:
        if name not in (*names, DEPOT_NAME):
            given.fault(f"{key}.{name}", f"one of depot, {', '.join(names)} was wanted")
    return {name: given.whole(name, inside=inside, at=key, low=-(10**6)) for name in inside}


def echelon(path: str) -> dict[str, Any]:
    """Backorders of a depot and bases that repair, for each of some levels."""
    given = JsonInput(path)
    method = given.values.get("method", Method.EXACT.value)
    if method not in list(Method):
        given.fault("method", f"one of {', '.join(Method)} was wanted, got {method!r}")
    entries = given.objects("bases")
    bases = [
        Base(
            given.number("rate", inside=entry, at=f"bases[{i}]", low=0.0, high=1e6),
            given.number("repaired_here", inside=entry, at=f"bases[{i}]", default=0.0, low=0.0, high=1.0),
            given.number("repair_time", inside=entry, at=f"bases[{i}]", default=0.0, low=0.0, high=MOST_TIME),
            given.number("order_ship", inside=entry, at=f"bases[{i}]", low=0.0, high=MOST_TIME),
        )
        for i, entry in enumerate(entries)
    ]
    depot = given.values.get("depot")
    repair = given.number("repair_time", inside=depot if isinstance(depot, dict) else {}, at="depot", low=0.0, high=MOST_TIME)
    levels = [_echelon_levels(given, entry, i, len(bases)) for i, entry in enumerate(given.objects("levels"))]
    given.finish()
    try:
        return {"levels": [_echelon(bases, repair, depot_level, own, Method(method)) for depot_level, own in levels]}
    except ContractError as error:
        raise InputFaults([f"{path}: {error}"]) from error


def _echelon_levels(given: JsonInput, entry: dict[str, Any], place: int, count: int) -> tuple[int, list[int]]:
    at = f"levels[{place}]"
    own = entry.get("bases")
    if not isinstance(own, list) or len(own) != count:
        given.fault(f"{at}.bases", f"a level for each of {count} bases was wanted")
        own = []
    levels = [given.whole("value", inside={"value": item}, at=f"{at}.bases[{i}]", high=10**6) for i, item in enumerate(own)]
    return given.whole("depot", inside=entry, at=at, high=10**6), levels


def _echelon(bases: list[Base], repair: float, depot_level: int, levels: list[int], method: Method) -> dict[str, Any]:
    found = echelon_figures(bases, repair, depot_level, levels, method)
    return {
        "depot": {
            "demand": found.depot_demand,
            "pipeline": found.depot_pipeline,
            "expected_backorders": found.depot_backorders,
            "delay": found.delay,
        },
        "bases": [
            {"pipeline": pipeline, "expected_backorders": short} for pipeline, short in zip(found.pipelines, found.backorders, strict=True)
        ],
        "total_expected_backorders": sum(found.backorders),
    }


def budget(path: str) -> dict[str, Any]:
    """What money buys over parts, by marginal analysis."""
    given = JsonInput(path)
    entries = given.objects("parts")
    parts = [
        BudgetPart(
            str(entry.get("part", i + 1)),
            given.number("pipeline", inside=entry, at=f"parts[{i}]", low=0.0, high=1e6),
            given.number("cost", inside=entry, at=f"parts[{i}]", low=1e-9, high=1e12),
            given.number("weight", inside=entry, at=f"parts[{i}]", default=1.0, low=0.0, high=1e9),
        )
        for i, entry in enumerate(entries)
    ]
    money = given.number("budget", low=0.0, high=1e15) if given.has("budget") else None
    given.finish()
    try:
        found = spend(parts, money)
    except ContractError as error:
        raise InputFaults([f"{path}: {error}"]) from error
    return {
        "chosen": [{"part": part.part, "S": level} for part, level in zip(parts, found.levels, strict=True)],
        "cost": found.cost,
        "expected_backorders": found.expected_backorders,
        "left_over": found.left_over,
        "swapped": [{"given_up": out, "taken": into} for out, into in found.exchanges],
        "curve": [vars(step) for step in found.curve],
    }
