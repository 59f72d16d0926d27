"""A retired machine leaves the company for good: where to, and what became of the data on its drives."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import BenchRole, kinds_of_role
from almanac.services.change_log import note_changes
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.fleet.edit import By, subject_of
from almanac.services.words import day
from almanac.store import changes, machines
from almanac.store.machines import HeldRow

LONGEST = 200


class WentTo(StrEnum):
    """Where a machine went."""

    RECYCLED = "recycled"
    SOLD = "sold"
    RETURNED = "returned to its lessor"
    GIVEN = "given away"


class DataFate(StrEnum):
    """What became of the data on a machine's drives."""

    WIPED = "wiped and checked"
    DESTROYED = "drive destroyed"
    TAKEN_OUT = "drive taken out before"
    NONE = "it had no drive"


@dataclass(frozen=True)
class Disposal:
    """How a machine leaves for good. proof : number of a certificate, name of who took it, and the like"""

    gone: str
    data: str
    proof: str
    on: date


def dispose(session: Session, tag: str, wanted: Disposal, by: By) -> None:
    """Write down how a retired machine left for good.

    Raises
    ------
    NotFound : no such machine · Stale : it was changed meanwhile · Refused : it is in use, gone already, or what is said of its data
        cannot be
    """
    found = machines.locked(session, tag)
    if found is None:
        raise NotFound(f"no machine has the tag {tag}")
    asset = found[0]
    subject = subject_of(asset)
    if changes.count_of(session, subject) != by.expected_changes:
        raise Stale("this machine was changed meanwhile: read it again, then decide")
    if asset.retired_on is None:
        raise Refused(Fault("on", "it is in use: retire it first"))
    faults = _data_faults(machines.held_at_the_end(session, asset.id, asset.retired_on), wanted)
    if asset.disposed_on is not None:
        faults.append(Fault("on", f"it left on {day(asset.disposed_on)}: {asset.disposal}"))
    if not asset.retired_on <= wanted.on <= by.clock.today:
        faults.append(Fault("on", f"a day from {day(asset.retired_on)}, when it was retired, to today was wanted"))
    if faults:
        raise Refused(*faults)
    asset.disposed_on, asset.disposal = wanted.on, f"{wanted.gone}; {wanted.data}; {wanted.proof.strip()}"
    note_changes(session, subject, [("disposed", "retired", f"{day(wanted.on)}: {asset.disposal}")], clock=by.clock, author_id=by.author_id)


def _data_faults(held: list[HeldRow], wanted: Disposal) -> list[Fault]:
    """Drives that it held when it was retired have to be accounted for."""
    faults = [
        Fault(name, f"one of {', '.join(allowed)} was wanted")
        for name, given, allowed in (("gone", wanted.gone, list(WentTo)), ("data", wanted.data, list(DataFate)))
        if given not in allowed
    ]
    drives = [row for row in held if row.kind in kinds_of_role(BenchRole.STORAGE)]
    if drives and wanted.data == DataFate.NONE:
        faults.append(Fault("data", f"{drives[0].number} was on record in it when it was retired: what became of it?"))
    if not wanted.proof.strip() or len(wanted.proof) > LONGEST:
        faults.append(Fault("proof", f"who took it, or the number of the certificate, was wanted, in up to {LONGEST} letters"))
    return faults
