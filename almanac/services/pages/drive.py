"""The drive planner: which drive, at what speed, and how the data move."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.core.errors import ContractError
from almanac.core.parts.answers import Answer, known
from almanac.core.parts.planners.drive import CopyPlan, advise_fresh_install, plan_copy
from almanac.services.errors import Fault, Refused
from almanac.services.pages.fits import PartVerdict
from almanac.services.pages.plan import fitting_parts

USB_GB_S = 0.4
"""A drive adapter copies at about this rate whatever the drive: the slowest link unless the drive is slower."""


@dataclass(frozen=True)
class DriveRequest:
    """The new drive and the old one: sizes in GB, whether it is encrypted (None: not known) and whether it is failing."""

    position: str
    part_number: str
    source_gb: float
    used_gb: float
    encrypted: bool | None
    failing: bool
    adapter_gb_s: float = USB_GB_S


@dataclass(frozen=True)
class DriveSheet:
    """The verdict and speed of the new drive, how the data move, and whether a fresh install is advised."""

    verdict: PartVerdict
    copy: CopyPlan
    advice: Answer
    link_gb_s: float
    beside: list[str]


def plan_model_drive(session: Session, model_id: int, request: DriveRequest) -> DriveSheet:
    """Plan the change of a drive.

    Raises
    ------
    NotFound : no such model or position
    Refused : no drive of that number, one whose size is not known, or sizes that cannot be
    """
    fitting = fitting_parts(session, model_id, request.position)
    verdict = next((item for item in fitting.verdicts if item.part.number == request.part_number), None)
    if verdict is None:
        raise Refused(Fault("part_number", f"no drive in the catalogue has the number {request.part_number or '(empty)'}"))
    size = known(verdict.part.facts, "capacity_gb")
    if size is None:
        raise Refused(Fault("part_number", f"the size of {request.part_number} is not known: read its label"))
    link = min(request.adapter_gb_s, verdict.speed.gb_s if verdict.speed else request.adapter_gb_s)
    try:
        copy = plan_copy(
            source_gb=request.source_gb,
            used_gb=request.used_gb,
            target_gb=float(size.value),
            slowest_gb_s=link,
            failing=request.failing,
        )
    except ContractError as error:
        raise Refused(Fault(str(error).split(":")[0], str(error))) from error
    advice = advise_fresh_install(copy=copy, encrypted=request.encrypted, failing=request.failing)
    return DriveSheet(verdict, copy, advice, link, fitting.beside)
