"""Long work behind the pages: what runs, waits and failed; cancelled or tried again by leads."""

from __future__ import annotations

from typing import Any

from flask import Blueprint

from almanac.services.answers.ceiling import MEGABYTES
from almanac.services.clock import FAR_FUTURE
from almanac.services.errors import NotFound
from almanac.store import answers, queue
from almanac.store.models import Role
from almanac.store.queue import Work
from almanac.store.settings import settings_on
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas.base import Done
from almanac.web.schemas.work import WorkList, WorkView

blueprint = Blueprint("work", __name__, url_prefix="/api/v1/work")
STATUS = {"todo": "waits", "doing": "runs", "failed": "failed", "cancelled": "cancelled", "aborted": "cancelled"}
WHAT = {
    "outlook": "Outlook",
    "share": "Outlook, {kind}",
    "plate": "Plate of {number}",
    "changes": "What changed, {kind}",
    "kind_rates": "Rates, {kind}",
    "model_rates": "Rates of a model",
    "line_up": "Line-up",
    "calibration": "How well it has done",
    "look_at_scenario": "A scenario",
    "look_at_part": "A scenario, {number}",
    "books": "Whether the stores' books add up",
    "repeats": "Repeat failures",
}


@endpoint(blueprint, "", access=Role.LEAD, replies=WorkList)
def work_list() -> WorkList:
    """What is computed behind the pages."""
    kept, size = answers.kept(session())
    ceiling = float(settings_on(session(), FAR_FUTURE).value("answers_megabytes", default=MEGABYTES))
    return WorkList(
        workers=queue.workers(session()),
        work=[_view(one) for one in queue.listed(session()) if one.status in STATUS],
        answers=kept,
        megabytes=size / 1e6,
        ceiling_megabytes=ceiling,
    )


@endpoint(blueprint, "/<int:job_id>/cancel", method="POST", access=Role.LEAD, replies=Done)
def cancel_work(job_id: int) -> Done:
    """Take work that waits out of the queue; work that runs ends at its next step."""
    if not queue.cancel(session(), job_id):
        raise NotFound(f"no work with the number {job_id} waits or runs")
    return Done()


@endpoint(blueprint, "/<int:job_id>/retry", method="POST", access=Role.LEAD, replies=Done)
def retry_work(job_id: int) -> Done:
    """Put work that failed back into the queue."""
    if not queue.try_again(session(), job_id):
        raise NotFound(f"no work with the number {job_id} failed")
    return Done()


def _view(one: Work) -> WorkView:
    return WorkView(
        id=one.id,
        what=_what(one.task, one.arguments),
        status="ending" if one.ending else STATUS[one.status],
        words=one.words,
        done=one.done,
        of=one.of,
        attempts=one.attempts,
        asked_at=one.asked_at,
        began_at=one.began_at,
        ended_at=one.ended_at,
        can_cancel=one.status in ("todo", "doing") and not one.ending,
        can_retry=one.status == "failed",
    )


def _what(task: str, arguments: dict[str, Any]) -> str:
    if task == queue.LIST:
        return "A long list"
    if task == queue.REFRESH:
        return "What was looked at lately, after a write"
    asked = {"given": arguments} if task == queue.SHARE else arguments.get("arguments") or {}
    given = {**(asked.get("path") or {}), **(asked.get("given") or {})}
    name = str(arguments.get("view", task))
    words = WHAT.get(name, name.replace("_", " ")).format_map({"number": "", "kind": "", **given})
    return f"{words}, {given['site']}" if given.get("site") else words
