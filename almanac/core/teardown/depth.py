"""How deep every part lies: what must come off first, and the minutes to reach it."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core.errors import NoEstimate
from almanac.core.teardown.closure import cheapest_closure
from almanac.core.teardown.operations import Operation, Teardown
from almanac.core.teardown.order import order_steps
from almanac.core.teardown.route import plan_route

OUTSIDE = "outside"


@dataclass(frozen=True)
class Depth:
    """One position: the last layer on the way to it, minutes of opening to reach, and steps; None where no way is known.

    least : the way is known to the layer only, from there nobody has looked · estimated : likely minutes of it that nobody gave
    """

    position: str
    layer: str
    minutes: float | None
    steps: int
    reached: str
    why_not: str | None = None
    least: bool = False
    estimated: float = 0.0


@dataclass(frozen=True)
class Layer:
    """One column of the depth chart: what must come off, minutes until it is off, and the positions behind it."""

    name: str
    minutes: float
    positions: tuple[str, ...]


def depth_of(teardown: Teardown, position: str) -> Depth:
    """Where one position lies.

    Parameters
    ----------
    teardown : the graph · position : of the page

    Returns
    -------
    Depth

    Raises
    ------
    ContractError : a position the page does not hold
    """
    try:
        route = plan_route(teardown, [position], as_far=True)
    except NoEstimate as reason:
        return Depth(position, "unknown", None, 0, position, str(reason))
    reached = route.escalations[0].reached if route.escalations else position
    layers = [step.layer for step in route.steps if step.layer and reached not in step.frees]
    layer = layers[-1] if layers else OUTSIDE
    opened = route.minutes_open
    why_not = route.ends[0][1] if route.ends else None
    return Depth(position, layer, opened.mean, len(route.steps), reached, why_not, bool(route.ends), opened.estimated)


def all_depths(teardown: Teardown) -> dict[str, Depth]:
    """Depth of every position of the page."""
    return {key: depth_of(teardown, key) for key in teardown.places}


def depth_chart(teardown: Teardown, depths: dict[str, Depth]) -> tuple[Layer, ...]:
    """Columns by what must come off first, shallow to deep.

    Parameters
    ----------
    teardown : the graph · depths : of all positions

    Returns
    -------
    tuple of Layer : "outside" first where something lies there; positions without a known way last, under "unknown"
    """
    names = list(dict.fromkeys(step.layer for step in teardown.operations.values() if step.layer))
    columns = [Layer(name, _until_off(teardown, name), _behind(depths, name)) for name in names]
    columns = sorted((column for column in columns if column.positions), key=lambda column: column.minutes)
    outside, unknown = _behind(depths, OUTSIDE), _behind(depths, "unknown")
    first = [Layer(OUTSIDE, 0.0, outside)] if outside else []
    last = [Layer("unknown", 0.0, unknown)] if unknown else []
    return (*first, *columns, *last)


def _behind(depths: dict[str, Depth], layer: str) -> tuple[str, ...]:
    found = [depth for depth in depths.values() if depth.layer == layer]
    return tuple(depth.position for depth in sorted(found, key=lambda depth: depth.minutes or 0.0))


def _until_off(teardown: Teardown, layer: str) -> float:
    """Mean minutes until the cheapest step of a layer is done."""
    steps = tuple(step.id for step in teardown.operations.values() if step.layer == layer)
    try:
        chosen = cheapest_closure(teardown, (steps,))
    except NoEstimate:
        return 0.0
    return sum(teardown.operations[name].minutes.mean for name in chosen)


def opening_steps(teardown: Teardown) -> tuple[Operation, ...]:
    """All steps until the first cover is off, in the page's order; none where no cover is described or no way leads to it."""
    cover = next((step for step in teardown.operations.values() if step.layer), None)
    if cover is None:
        return ()
    try:
        chosen = cheapest_closure(teardown, ((cover.id,),))
    except NoEstimate:
        return ()
    return tuple(step for step in teardown.operations.values() if step.id in chosen)


def layers_of_steps(teardown: Teardown) -> dict[str, str]:
    """The last layer that is off when a step can be done, by step; "outside" where none, "unknown" where there is no way.

    Parameters
    ----------
    teardown : the graph

    Returns
    -------
    dict : step id to the name of a layer
    """
    found: dict[str, str] = {}
    for name in teardown.operations:
        try:
            chosen = cheapest_closure(teardown, ((name,),))
        except NoEstimate:
            found[name] = "unknown"
            continue
        before = [teardown.operations[step] for step in order_steps(teardown, chosen).steps if step != name]
        layers = [step.layer for step in before if step.layer]
        found[name] = layers[-1] if layers else OUTSIDE
    return found
