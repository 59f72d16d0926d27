"""The drive planner: copy, shrink or refuse, and how long it takes (rules S7 and S8)."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core import checks
from almanac.core.parts.answers import Answer, Facts, known, no, unknown, yes
from almanac.core.parts.kinds import Verdict

SPARE_ROOM = 1.15
IDENTITY = ("bus", "form", "length_mm", "thickness_mm", "capacity_gb", "generation", "sides")
"""What makes two drives one stock line (rule S7)."""


@dataclass(frozen=True)
class CopyPlan:
    """How the data move: copy, shrink or refuse; minutes over the slowest link; what comes first."""

    how: str
    reason: str
    minutes: float | None
    first: tuple[str, ...]


def plan_copy(
    *, source_gb: float, used_gb: float, target_gb: float, slowest_gb_s: float, failing: bool = False, spare_room: float = SPARE_ROOM
) -> CopyPlan:
    """Copy if the target holds the source; else shrink if what is used has room; else refuse (rule S8).

    Parameters
    ----------
    source_gb, target_gb : sizes, GB, > 0 · used_gb : GB, in [0, source_gb] · slowest_gb_s : GB/s of the slowest link, > 0
    failing : the source shows errors · spare_room : factor on what is used, >= 1

    Returns
    -------
    CopyPlan

    Raises
    ------
    ContractError : a value outside its range
    """
    source, target = checks.positive("source_gb", source_gb), checks.positive("target_gb", target_gb)
    used = checks.number("used_gb", used_gb, low=0, high=source)
    link = checks.positive("slowest_gb_s", slowest_gb_s)
    factor = checks.number("spare_room", spare_room, low=1)
    first = ("a failing source is imaged first",) if failing else ()
    minutes = used / link / 60
    if target >= source:
        return CopyPlan("copy", f"{target:g} GB holds the whole {source:g} GB", minutes, first)
    if used * factor <= target:
        return CopyPlan("shrink", f"{used:g} GB used x {factor:g} fit into {target:g} GB once the volume is shrunk", minutes, first)
    return CopyPlan("refuse", f"{used:g} GB used x {factor:g} do not fit into {target:g} GB", None, first)


def same_stock_line(first: Facts, second: Facts) -> Answer:
    """Whether two drives are one stock line: bus, form, length, size, generation and sides equal (rule S7).

    Parameters
    ----------
    first, second : facts of the drives

    Returns
    -------
    Answer : unknown where a fact is missing on one side only
    """
    for key in IDENTITY:
        one, other = known(first, key), known(second, key)
        if one and other and one.value != other.value:
            return no(f"{key.replace('_', ' ')} differs: {one.value} and {other.value}", one, other)
        if bool(one) != bool(other):
            return unknown(f"{key.replace('_', ' ')} is known of one of them only", one, other)
    return yes("equal in bus, form, length, size, generation and sides", *(known(first, key) for key in IDENTITY))


def advise_fresh_install(*, copy: CopyPlan, encrypted: bool | None, failing: bool) -> Answer:
    """Whether a fresh install is advised over a copy; the person decides.

    Returns
    -------
    Answer : yes advises a fresh install
    """
    if copy.how == "refuse":
        return yes("the data do not fit: install fresh and move the files")
    if failing:
        return yes("a failing drive copies its damage: image it for the data, install fresh")
    if encrypted is None:
        return Answer(Verdict.UNKNOWN, "encryption is not known: find out and have the recovery key on file")
    return no(f"{copy.how} is possible" + (", with the recovery key on file" if encrypted else ""))
