"""Machines one by one: read by all, kept up by leads."""

from __future__ import annotations

from flask import Blueprint

from almanac.services.clock import read_clock
from almanac.services.fleet.edit import By, MachineEdit, edit_machine, reinstate, retire, send_machine
from almanac.services.fleet.machine import read_machine
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import machines as schemas
from almanac.web.schemas.catalog import CatalogChangeView

blueprint = Blueprint("machines", __name__, url_prefix="/api/v1/machines")


@endpoint(blueprint, "/<tag>", access=Role.READER, replies=schemas.MachineView)
def one_machine(tag: str) -> schemas.MachineView:
    """What is in a machine, and what happened to it."""
    page = read_machine(session(), tag, read_clock(session()))
    asset = page.asset
    return schemas.MachineView(
        tag=asset.tag,
        model_id=page.model.id,
        model=f"{page.model.maker} {page.model.name}",
        form=page.model.form,
        site=page.site_code,
        in_service_on=asset.in_service_on,
        retired_on=asset.retired_on,
        busy=page.busy,
        fields=schemas.MachineFields.model_validate(asset, from_attributes=True),
        held=[schemas.HeldPartView.model_validate({**part.row._asdict(), "age_days": part.age_days}, extra="ignore") for part in page.held],
        lacking=page.lacking,
        notes=[schemas.MachineNoteView.model_validate(row) for row in page.notes],
        events=[schemas.MachineEventView.model_validate(row) for row in page.events],
        number_of_changes=page.number_of_changes,
        changes=[CatalogChangeView.model_validate(row) for row in page.changes],
    )


def _by(expected_changes: int) -> By:
    return By(read_clock(session()), author_id(), expected_changes)


@endpoint(blueprint, "/<tag>", method="POST", access=Role.LEAD, replies=schemas.MachineChanged, status=201)
def edit_one_machine(tag: str, json: schemas.MachineEditIn) -> schemas.MachineChanged:
    """Serial, use, and the day it is to be retired."""
    edit_machine(session(), tag, MachineEdit(**json.fields.model_dump(mode="python")), _by(json.expected_changes))
    return schemas.MachineChanged(tag=tag)


@endpoint(blueprint, "/<tag>/moves", method="POST", access=Role.LEAD, replies=schemas.MachineChanged, status=201)
def move_one_machine(tag: str, json: schemas.MachineMoveIn) -> schemas.MachineChanged:
    """It stands at another site from a day on."""
    send_machine(session(), tag, json.site, json.on, _by(json.expected_changes))
    return schemas.MachineChanged(tag=tag)


@endpoint(blueprint, "/<tag>/retirement", method="POST", access=Role.LEAD, replies=schemas.MachineChanged, status=201)
def retire_one_machine(tag: str, json: schemas.MachineRetireIn) -> schemas.MachineChanged:
    """It leaves with what it holds."""
    retire(session(), tag, json.on, _by(json.expected_changes))
    return schemas.MachineChanged(tag=tag)


@endpoint(blueprint, "/<tag>/return", method="POST", access=Role.LEAD, replies=schemas.MachineChanged, status=201)
def reinstate_one_machine(tag: str, json: schemas.MachineReturnIn) -> schemas.MachineChanged:
    """Its retirement was a mistake."""
    reinstate(session(), tag, _by(json.expected_changes))
    return schemas.MachineChanged(tag=tag)
