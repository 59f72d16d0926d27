"""What a step rests on that nobody here saw: hearsay, and steps it was done after of which nobody knows whether it needs them (rule U3)."""

from __future__ import annotations

from dataclasses import replace

from almanac.core.errors import NoEstimate
from almanac.core.teardown.closure import cheapest_closure, weights_of
from almanac.core.teardown.operations import Operation, Teardown


def step_doubts(step: Operation, teardown: Teardown) -> tuple[str, ...]:
    """What is said of a step wherever it is shown.

    Parameters
    ----------
    step : of a way in · teardown : the graph it is part of

    Returns
    -------
    tuple of sentences, empty where somebody here saw it done
    """
    return (
        *((f"rests on hearsay: {step.hearsay}",) if step.hearsay else ()),
        *(f"so far done after “{_text(name, teardown)}”: whether it has to be, nobody knows" for name in step.only_done),
    )


def spared_minutes(step: Operation, done: str, teardown: Teardown) -> float:
    """Mean minutes, out and back, of what a step would not have to wait for if one that was only done first is not needed.

    Parameters
    ----------
    step : of the graph · done : one of its `only_done` · teardown : the graph

    Returns
    -------
    float : 0 where the way leads through it all the same, or there is no way
    """
    free = replace(step, needs=tuple(group for group in step.needs if group != (done,)), only_done=())
    without = replace(teardown, operations={**teardown.operations, step.id: free})
    weights = weights_of(teardown)
    try:
        now, then = (cheapest_closure(graph, ((step.id,),)) for graph in (teardown, without))
    except NoEstimate:
        return 0.0
    return max(sum(weights[name] for name in now) - sum(weights[name] for name in then), 0.0)


def _text(name: str, teardown: Teardown) -> str:
    return teardown.operations[name].text if name in teardown.operations else name
