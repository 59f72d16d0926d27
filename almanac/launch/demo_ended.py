"""Jobs of the demo's bench that ended: a look inside, a charger, its return, a way in that was typed, and two that were given up.

None of them changes a part or the log: what the demo forecasts rests on its drawn history alone.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from almanac.core.workbench.closing import checks_of
from almanac.core.workbench.plan import JobStep, Phase
from almanac.launch.demo_hands import Hands
from almanac.services.ledger.record import LineRequest
from almanac.services.workbench.after import AbandonRequest, abandon_job, reopen_job
from almanac.services.workbench.close import CloseLine, CloseRequest, close_job
from almanac.services.workbench.plain import TypedStep, add_step

Opened = Callable[..., Hands]
COLD = {"symptom": "short_runtime"}


def lay_ended(opened: Opened) -> None:
    """Six jobs that ended in the last weeks.

    Parameters
    ----------
    opened : opens a job on a machine of a model by the kind of a part, so many days ago
    """
    _looked_inside(opened("Tiller 16", "fan", "look inside: what holds the fan?", days=16, hour=9, purpose="survey"))
    first = opened("Halyard 12", "battery", "does not charge", days=12, hour=10, reach=False)
    _found(first, "other_charger", "charges", "its charger was dead, the user has another one")
    again = reopen_job(first.session, first.job_id, "charges to 80 per cent only", clock=first.clock, author_id=first.user_id)
    _found(first.goes_on_with(again), "charge_limit", "a limit is set", "a charge limit was set by the dock's software")
    _typed(opened("Packet 15", "fan", "speakers rattle: nobody described their way out", days=9, hour=13, plain=True, purpose="survey"))
    _given_up(opened("Packet 13", "ssd", "a larger drive", days=5, hour=15), "the owner signs no work without a backup")
    _given_up(opened("Tiller 13", "memory", "restarts under load", days=1, hour=11), "the machine is retired with its model")


def _looked_inside(hands: Hands) -> None:
    hands.goes(100, honest)
    _close(hands, "nothing was changed; what holds the fan is on the page")


def _found(hands: Hands, test: str, outcome: str, note: str) -> None:
    hands.says("test", **COLD, test=test, outcome=outcome)
    _close(hands, note)


def _typed(hands: Hands) -> None:
    """A way in that nobody described: typed as it is done, offered as the draft of the page."""
    steps = (
        TypedStep("Undo nine screws and lift the base from the front", "PH0", "9x PH0 M2x5 captive", live=True),
        TypedStep("Pull the battery plug by its tab", leads=("battery lead",), isolates=True),
        TypedStep("Undo two screws each side and lift the fan with its lead", "PH0", "4x PH0 M2x3", ("fan lead",), hands.targets),
    )
    for step in steps:
        add_step(hands.session, hands.job_id, step, device=hands.device, clock=hands.clock)
        hands.goes(1, honest)
    hands.goes(100, honest)
    _close(hands, "a lead had slipped under the fan; the way in is the page's draft now")


def _given_up(hands: Hands, reason: str) -> None:
    abandon_job(hands.session, hands.job_id, AbandonRequest(reason), device=hands.device, clock=hands.clock)


def _close(hands: Hands, note: str) -> None:
    standing = hands.job.standing
    if standing.done:
        hands.says("check", **dict.fromkeys(checks_of(hands.job.plan), True))
    lines = [CloseLine(key, LineRequest(0, "kept")) for key in standing.swaps]
    close_job(hands.session, hands.job_id, CloseRequest("no_fault_found", lines, note=note), device=hands.device, clock=hands.clock)


def honest(hands: Hands, step: JobStep) -> dict[str, Any]:
    """What somebody who changes nothing says at a step: all that came out goes back."""
    if step.phase == Phase.OPENING:
        counted = {group.group: group.loose + group.unknown for group in step.screws if not group.counted}
        return {"captive": {group.group: False for group in step.screws if group.unknown}, **({"screws": counted} if counted else {})}
    if step.phase == Phase.SWAP:
        return {"refitted": True}
    if step.phase == Phase.TEST:
        return {"charge_checked": True, "result": "good"} if step.id == "test" else {}
    opened = hands.job.plan.step(f"open:{step.operation}")
    groups = opened.screws if opened else ()
    loose = {group.group: group.loose + group.unknown for group in groups if group.loose + group.unknown}
    return {"screws": loose, "leads": [lead.name for lead in step.leads]}
