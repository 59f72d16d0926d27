"""What is looked at once a machine is closed: the common checks, and those its page and the opened covers add (rules F5, F6, F11)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from almanac.core.parts.kinds import Kind
from almanac.core.teardown.operations import Operation

RIM = "the rim is closed all round"
LATCHES = "cams and latches are retracted"
FLAT = "it stands flat and does not rock"
CHECKS: Mapping[str, str] = {
    "rim": f"{RIM}, no gap at a jack screw",
    "rattle": "nothing rattles when it is turned over",
    "feet": f"the feet are back, {FLAT}",
    "latches": LATCHES,
}
"""What is looked at where the page tells nothing of it; each is answered with yes."""


@dataclass(frozen=True)
class Closed:
    """What a page knows of the closed machine. feet : by name, unlike : those that go to one place only · hinge_angle : in degrees"""

    feet: tuple[str, ...] = ()
    unlike: tuple[str, ...] = ()
    hinge_angle: float | None = None


def closing_checks(opened: Sequence[Operation], closed: Closed, touched: Iterable[Kind]) -> tuple[tuple[str, str], ...]:
    """Checks of the closed machine, by key, in words.

    Parameters
    ----------
    opened : operations of the way in · closed : what the page knows · touched : kinds of the parts the way in frees

    Returns
    -------
    tuple of (key, words) : the common ones always, jack gaps, cams, the lid and the camera where this machine has them on the way.
    Of fasteners nobody described cams are asked all the same.
    """
    kinds = {item.kind for step in opened for item in step.fasteners}
    described = bool(kinds)
    found = {"rim": RIM, "rattle": CHECKS["rattle"], "feet": _feet(closed)}
    if "jack" in kinds:
        found["jack"] = "the jack screws are driven, and no gap is left where they lifted the cover"
    if not described or kinds & {"cam", "latch"}:
        found["latches"] = LATCHES
    if closed.hinge_angle is not None or Kind.DISPLAY in set(touched):
        wide = f" to {closed.hinge_angle:g}°, no further," if closed.hinge_angle is not None else ""
        found["hinge"] = f"the lid opens{wide} and closes, evenly and without a noise"
    if Kind.DISPLAY in set(touched):
        found["shutter"] = "the camera's shutter moves, where it has one, and the picture is there"
    return tuple(found.items())


def _feet(closed: Closed) -> str:
    if not closed.feet:
        return CHECKS["feet"]
    only = f", {' and '.join(closed.unlike)} in its own place" if closed.unlike else ""
    return f"the feet are back ({', '.join(closed.feet)}{only}), {FLAT}"
