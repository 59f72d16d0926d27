"""What lies on the demo's bench: jobs that ended, and jobs in hand, parked, waiting, stopped by a pack, with a waiver, with a question."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.workbench.approvals import Approval
from almanac.demo import truth
from almanac.demo.rows import at
from almanac.launch.demo_ended import lay_ended
from almanac.launch.demo_hands import ANSWERS, Hands
from almanac.services.clock import Clock
from almanac.services.workbench.approve import AnswerRequest, ApprovalRequest, answer_approval, ask_approval
from almanac.services.workbench.open import OpenRequest, open_job
from almanac.services.workbench.planning import PlanRequest

MACHINE = """
SELECT a.tag, o.key, p.number FROM tenure t JOIN asset a ON a.id = t.asset_id JOIN position o ON o.id = t.position_id
JOIN device_model m ON m.id = a.model_id JOIN part p ON p.id = t.part_id
JOIN asset_stay y ON y.asset_id = a.id AND y.until_on IS NULL JOIN site s ON s.id = y.site_id
WHERE (CAST(:site AS text) IS NULL OR s.code = :site)
  AND m.name = :model AND p.kind = :kind AND t.removed_on IS NULL AND a.retired_on IS NULL
ORDER BY a.id DESC LIMIT 1
"""
LEAD_AND_HANDS = "SELECT min(id) FILTER (WHERE role = 'lead'), min(id) FILTER (WHERE role = 'technician') FROM \"user\""


def lay_on_the_bench(session: Session) -> None:
    """Jobs of the last days, through the rules that any job goes through.

    Raises
    ------
    ValueError : an entry that the rules do not take
    """
    lead, hands = session.execute(text(LEAD_AND_HANDS)).one()
    if lead is None or hands is None:
        return

    def opened(model: str, kind: str, symptom: str, *, days: int, hour: int, **more: Any) -> Hands:
        tag, key, number = session.execute(text(MACHINE), {"model": model, "kind": kind, "site": more.pop("site", None)}).one()
        begun = at(truth.AS_OF - timedelta(days=days)).replace(hour=hour)
        plan = PlanRequest([key] if more.pop("reach", True) else [], plain=more.pop("plain", False))
        request = OpenRequest(tag, more.pop("purpose", "repair"), symptom, plan, **more)
        return Hands(session, open_job(session, request, clock=Clock(begun.date(), begun), author_id=hands), hands, begun, number)

    lay_ended(opened)
    _parked(opened("Halyard 14", "battery", "dies at 40 per cent", days=3, hour=9))
    _waiting(opened("Tiller Classic", "fan", "fan grinds", days=2, hour=10, site="MAR"))
    opened("Packet 15", "battery", "lid does not close flat", days=2, hour=14, signs=["lid", "touchpad"])
    _with_a_waiver(opened("Packet 13", "fan", "loud after an hour", days=0, hour=8), lead)
    _asks(opened("Drydock 16", "fan", "hot without noise", days=0, hour=9))


def _parked(hands: Hands) -> None:
    hands.goes(2)
    hands.says("park", words="called to the ferry", screws_where="box 3, left", isolated=True)
    hands.leaves()


def _waiting(hands: Hands) -> None:
    hands.says("wait", **{"for": "part", "part_number": hands.part_number})
    hands.leaves()


def _with_a_waiver(hands: Hands, lead: int) -> None:
    """At its fifth step, with a strap that was lent."""
    while "static" not in [gate.id for gate in hands.job.gates]:
        hands.goes(1)
    for gate in hands.job.gates:
        if gate.id != "static":
            hands.says("gate", gate=gate.id, answers=ANSWERS[gate.id])
    asked = ApprovalRequest(Approval.WAIVE, "static", "the strap is lent to Marrowness; a hand stays on the frame")
    number = ask_approval(hands.session, hands.job_id, asked, clock=hands.clock, author_id=hands.user_id)
    answer_approval(hands.session, number, AnswerRequest(granted=True), approver_id=lead, clock=hands.clock)
    while len(hands.job.standing.done) < 4:
        hands.goes(1)
    hands.leaves()


def _asks(hands: Hands) -> None:
    asked = ApprovalRequest(Approval.WAIVE, "power", "its button is stuck; the mains lead and the pack are out")
    ask_approval(hands.session, hands.job_id, asked, clock=hands.clock, author_id=hands.user_id)
    hands.leaves()
