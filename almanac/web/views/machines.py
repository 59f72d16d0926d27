"""Machines one by one: read by all, kept up by leads."""

from __future__ import annotations

from flask import Blueprint

from almanac.services.clock import read_clock
from almanac.services.fleet.dispose import Disposal, dispose
from almanac.services.fleet.edit import By, MachineEdit, edit_machine, reinstate, retire, send_machine
from almanac.services.fleet.machine import Curve, SaidLast, read_machine
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
        disposed_on=asset.disposed_on,
        disposal=asset.disposal,
        options={name: _option(value) for name, value in sorted(asset.options.items())},
        busy=page.busy,
        fields=schemas.MachineFields.model_validate(asset, from_attributes=True),
        held=[schemas.HeldPartView.model_validate({**part.row._asdict(), "age_days": part.age_days}, extra="ignore") for part in page.held],
        lacking=page.lacking,
        fixed=[schemas.FixedPartView.model_validate(row) for row in page.fixed],
        curves=[_curve(curve) for curve in page.curves],
        harvest=schemas.HarvestView.model_validate(page.harvest),
        said=_said(page.said),
        notes=[schemas.MachineNoteView.model_validate(row) for row in page.notes],
        events=[schemas.MachineEventView.model_validate(row) for row in page.events],
        number_of_changes=page.number_of_changes,
        changes=[CatalogChangeView.model_validate(row) for row in page.changes],
    )


def _option(value: object) -> str:
    """A value of an option in words."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value).replace("_", " ")


def _curve(curve: Curve) -> schemas.CurveView:
    first = curve.rows[0]
    return schemas.CurveView(
        label=first.label,
        kind=first.kind,
        number=first.number,
        since=first.fitted_on,
        until=first.removed_on,
        threshold=curve.threshold,
        points=[schemas.ReadPointView(on=row.read_on, share=row.share, cycles=row.cycles) for row in curve.rows],
    )


def _said(said: SaidLast | None) -> schemas.SaidLastView | None:
    if said is None:
        return None
    asked = [schemas.AskedOfMachine(id=number, words=words) for number, words in said.asked.items()]
    return schemas.SaidLastView(at=said.at, says=said.says, missed=said.missed, asked=asked)


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


@endpoint(blueprint, "/<tag>/disposal", method="POST", access=Role.LEAD, replies=schemas.MachineChanged, status=201)
def dispose_of_machine(tag: str, json: schemas.MachineDisposeIn) -> schemas.MachineChanged:
    """A retired machine leaves for good."""
    dispose(session(), tag, Disposal(json.gone, json.data, json.proof, json.on), _by(json.expected_changes))
    return schemas.MachineChanged(tag=tag)


@endpoint(blueprint, "/<tag>/return", method="POST", access=Role.LEAD, replies=schemas.MachineChanged, status=201)
def reinstate_one_machine(tag: str, json: schemas.MachineReturnIn) -> schemas.MachineChanged:
    """Its retirement was a mistake."""
    reinstate(session(), tag, _by(json.expected_changes))
    return schemas.MachineChanged(tag=tag)
