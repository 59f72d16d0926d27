"""Many machines changed at once: all of them or none, and every one that cannot be is named."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.fleet.edit import By, MachineEdit, edit_machine, retire, send_machine
from almanac.store import machines

MOST = 500
MOST_FAULTS = 20


@dataclass(frozen=True)
class BulkEdit:
    """One change of many machines. site : they move there on that day · duty : how they are used · plan_on : the day they are to be
    retired, no_plan : none · retire : they are retired on that day
    """

    act: str
    site: str = ""
    duty: str = ""
    on: date | None = None


def change_machines(session: Session, machines_seen: Mapping[str, int], edit: BulkEdit, *, clock: Clock, author_id: int) -> int:
    """Change machines, each by its tag and how many changes of it were seen; returns how many were changed.

    Raises
    ------
    Refused : no machine, too many, an act that is none, or machines for which it cannot be done, each named; nothing is changed then
    """
    if not 1 <= len(machines_seen) <= MOST:
        raise Refused(Fault("machines", f"from 1 to {MOST} machines were wanted, got {len(machines_seen)}"))
    act = _act(edit)
    faults: list[Fault] = []
    for tag, seen in sorted(machines_seen.items()):
        try:
            act(session, tag, By(clock, author_id, seen))
        except Refused as error:
            faults += [Fault(f"machines.{tag}", f"{tag}: {fault.message}") for fault in error.faults]
        except (NotFound, Stale) as error:
            faults.append(Fault(f"machines.{tag}", f"{tag}: {error}"))
    if faults:
        raise Refused(*_some(faults))
    return len(machines_seen)


def _some(faults: Sequence[Fault]) -> list[Fault]:
    left = len(faults) - MOST_FAULTS
    return [*faults[:MOST_FAULTS], *([Fault("machines", f"and {left} more")] if left > 0 else [])]


def _act(edit: BulkEdit) -> Callable[[Session, str, By], object]:
    on = edit.on
    if edit.act == "move" and on is not None:
        return lambda session, tag, by: send_machine(session, tag, edit.site, on, by)
    if edit.act == "retire" and on is not None:
        return lambda session, tag, by: retire(session, tag, on, by)
    if edit.act in ("duty", "plan"):
        return lambda session, tag, by: _edit(session, tag, edit, by)
    missing = "on" if edit.act in ("move", "retire") else "act"
    raise Refused(Fault(missing, "a day was wanted" if missing == "on" else "one of move, duty, plan, retire was wanted"))


def _edit(session: Session, tag: str, edit: BulkEdit, by: By) -> None:
    asset = machines.by_tag(session, tag)
    if asset is None:
        raise NotFound(f"no machine has the tag {tag}")
    duty = edit.duty if edit.act == "duty" else asset.duty
    planned = edit.on if edit.act == "plan" else asset.retire_planned_on
    edit_machine(session, tag, MachineEdit(asset.serial, duty, planned), by)
