"""What machines' reports brought: questions to settle, machines that are not on record."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

from flask import Blueprint
from flask import Response as Reply

from almanac.core.workbench.heard import lines
from almanac.core.workbench.reported import report_of
from almanac.services.clock import read_clock
from almanac.services.fleet.reports import By, settle
from almanac.store import catalog
from almanac.store import reports as store
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import inbox as schemas
from almanac.web.schemas.base import Done

blueprint = Blueprint("reports", __name__, url_prefix="/api/v1/machine-reports")
WEEK = timedelta(days=7)
MOST = 200
SCRIPT = Path(__file__).resolve().parents[3] / "bin" / "almanac-report"


@endpoint(blueprint, "", access=Role.READER, replies=schemas.ReportsView)
def machine_reports() -> schemas.ReportsView:
    """What machines say that is on record otherwise, and who reports at all."""
    clock = read_clock(session())
    ever, lately, in_use = store.reporting(session(), clock.now - WEEK)
    total, rows = store.open_questions(session(), most=MOST)
    models = {model.id: f"{model.maker} {model.name}" for model in catalog.models(session()).values()}
    return schemas.ReportsView(
        as_of=clock.today,
        ever=ever,
        lately=lately,
        in_use=in_use,
        total=total,
        questions=[
            schemas.ReportQuestionView(
                id=row.question.id,
                tag=row.tag,
                model=models[row.model_id],
                site=row.site,
                words=row.question.words,
                raised_on=row.question.raised_on,
                said_last_on=row.question.said_last_on,
            )
            for row in rows
        ],
        strangers=[
            schemas.StrangerView(calls_itself=row.calls_itself or "", reported_at=row.reported_at, says=lines(report_of(row.said)))
            for row in store.strangers(session(), most=MOST)
        ],
    )


@endpoint(blueprint, "/questions/<int:question_id>", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def settle_report_question(question_id: int, json: schemas.SettleQuestionIn) -> Done:
    """It is as on record, whatever the machine says."""
    settle(session(), question_id, json.reason, By(read_clock(session()), datetime.now(UTC), author_id()))
    return Done()


@endpoint(blueprint, "/almanac-report", access=Role.READER, replies=None)
def report_script() -> Reply:
    """The script that machines report with, to be copied to them."""
    headers = {"Content-Disposition": f'attachment; filename="{SCRIPT.name}"'}
    return Reply(SCRIPT.read_bytes(), mimetype="text/x-shellscript", headers=headers)
