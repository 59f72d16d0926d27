"""The door for machines: a report is brought with a key, without a sign-in."""

from __future__ import annotations

from datetime import UTC, datetime

from flask import Blueprint, request

from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.fleet.reports import By, Sender, take_machine_report
from almanac.store.models import Role, Scope
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session, unhurried
from almanac.web.schemas import inbox as schemas

blueprint = Blueprint("inbox", __name__, url_prefix="/api/v1/reports")
"""Nothing else may join it: requests here need no token against forgery, for no cookie opens them."""


@endpoint(blueprint, "", method="POST", access=Role.TECHNICIAN, replies=schemas.MachineReportTaken, status=201, by_key=Scope.REPORT)
def take_report_of_machine(query: schemas.ReportQuery) -> schemas.MachineReportTaken:
    """Take what a machine's own tools print; the body is that text."""
    try:
        text = request.get_data().decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise Refused(Fault("body", "text in UTF-8 was wanted")) from error
    unhurried()
    by = By(read_clock(session()), datetime.now(UTC), author_id())
    return schemas.MachineReportTaken.model_validate(
        take_machine_report(session(), Sender(query.tag.strip(), query.serial.strip(), query.at), text, by)
    )
