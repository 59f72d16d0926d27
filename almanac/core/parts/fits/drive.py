"""Does a drive fit a place, and how fast will it run there (rules S1 to S6)."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core.parts.answers import Answer, Facts, Known, all_of, known, no, stated, unknown, weakest, yes
from almanac.core.parts.kinds import Grade
from almanac.core.parts.labels.drive import M2_LENGTHS_MM

LANE_GB_S = {3: 0.985, 4: 1.97, 5: 3.94}
"""Payload of one lane by generation, GB/s (rule S4)."""
SATA_GB_S = 0.6
BUS_TRUST = (Grade.REPORTED, Grade.MEASURED, Grade.LABEL, Grade.DOCUMENT, Grade.INFERRED, Grade.TOLD, Grade.ASSUMED)
"""For the bus alone the machine's report comes first (rule S3)."""


def known_bus(facts: Facts) -> Known | None:
    """The bus of a drive, the machine's report before any other evidence (rule S3).

    Parameters
    ----------
    facts : with `bus`, and `keying` as the weakest evidence

    Returns
    -------
    Known or None
    """
    statements = stated(facts, "bus")
    if not statements:
        key = known(facts, "keying")
        return Known("NVMe", Grade.INFERRED) if key and key.value == "M" else None
    best = min(statements, key=lambda item: BUS_TRUST.index(Grade(item["grade"])))
    return Known(best["value"], Grade(best["grade"])) if best["value"] else None


def fit_drive(takes: Facts, drive: Facts) -> Answer:
    """Whether a drive fits its place and is detected.

    Parameters
    ----------
    takes : facts of the place: form, lengths_mm, bus, double_sided, bracket, thickness_mm or caddy_mm and inner_mm
    drive : facts of the part: form, length_mm, bus, sides, thickness_mm

    Returns
    -------
    Answer
    """
    place, part = known(takes, "form"), known(drive, "form")
    if place is None or part is None:
        return unknown(f"the form of the {'place' if place is None else 'drive'} is not known", place, part)
    if place.value == "optical bay":
        return _in_caddy(takes, drive)
    if place.value != part.value:
        return no(f"the place takes {place.value}, this is {part.value}", place, part)
    shape = [_length(takes, drive), _sides(takes, drive)] if place.value == "M.2" else [_thickness(takes, drive)]
    return all_of([*shape, _bus(takes, drive)])


def _length(takes: Facts, drive: Facts) -> Answer:
    """Rules S1 and S2."""
    posts, length, bracket = known(takes, "lengths_mm"), known(drive, "length_mm"), known(takes, "bracket")
    if length is None or posts is None:
        return unknown("the length of the drive or the posts of the place are not known: use a ruler", length, posts)
    if length.value not in M2_LENGTHS_MM:
        return unknown(f"no M.2 drive is {length.value} mm long: measure it with a ruler", length)
    if length.value in posts.value:
        return yes(f"a post stands at {length.value} mm", length, posts)
    if length.value > max(posts.value):
        return no(f"{length.value} mm is longer than the last post at {max(posts.value)} mm", length, posts)
    return _on_bracket(length, bracket)


def _on_bracket(length: Known, bracket: Known | None) -> Answer:
    """Rule S2: shorter than every post, a bracket carries it."""
    if bracket is None:
        return unknown(f"{length.value} mm has no post here: is a bracket at hand?", length)
    if bracket.value:
        return yes(f"{length.value} mm on its bracket; a bracket freed stays with the asset", length, bracket)
    return no(f"{length.value} mm has no post here and no bracket is at hand", length, bracket)


def _sides(takes: Facts, drive: Facts) -> Answer:
    """Rule S5: double-sided only where the height is known to allow it."""
    sides, room = known(drive, "sides"), known(takes, "double_sided")
    if sides is not None and sides.value == 1:
        return yes("chips on one side only", sides)
    if room is not None and room.value is True:
        return yes("there is height for a double-sided drive", sides, room)
    if sides is None:
        return unknown("one-sided or double-sided is not known, and the height is not known to allow both", sides, room)
    if room is None:
        return unknown("double-sided, and the height under it is not known", sides)
    return no("double-sided, and there is no height for it", sides, room)


def _thickness(takes: Facts, drive: Facts) -> Answer:
    """Rule S6: a thinner drive fits, with a spacer where needed."""
    bay, drive_mm = known(takes, "thickness_mm"), known(drive, "thickness_mm")
    if bay is None or drive_mm is None:
        return unknown("the thickness of the bay or of the drive is not known: measure it", bay, drive_mm)
    if drive_mm.value > bay.value:
        return no(f"{drive_mm.value:g} mm is thicker than the bay of {bay.value:g} mm", bay, drive_mm)
    thinner = drive_mm.value < bay.value
    return yes(f"{drive_mm.value:g} mm in a bay of {bay.value:g} mm", bay, drive_mm, practice="may need a spacer" if thinner else None)


def _in_caddy(takes: Facts, drive: Facts) -> Answer:
    """Rule S6: an optical bay takes a caddy of its own height, and the drive goes into the caddy."""
    bay, caddy, inner, drive_mm = (
        known(takes, "thickness_mm"),
        known(takes, "caddy_mm"),
        known(takes, "inner_mm"),
        known(drive, "thickness_mm"),
    )
    if known(drive, "form") and known(drive, "form").value != "2.5-inch":  # type: ignore[union-attr]
        return no("a caddy takes 2.5-inch drives only", known(drive, "form"))
    if bay is None or caddy is None or inner is None or drive_mm is None:
        return unknown("the height of the bay, the caddy, its inside or the drive is not known", bay, caddy, inner, drive_mm)
    if caddy.value != bay.value:
        return no(f"a caddy of {caddy.value:g} mm in a bay of {bay.value:g} mm: they must be equal", bay, caddy)
    if drive_mm.value > inner.value:
        return no(f"{drive_mm.value:g} mm is thicker than the caddy's inside of {inner.value:g} mm", inner, drive_mm)
    return all_of([yes(f"{drive_mm.value:g} mm in the caddy", bay, caddy, inner, drive_mm), _bus(takes, drive)])


def _bus(takes: Facts, drive: Facts) -> Answer:
    """Rule S3: a bus mismatch goes in and is not detected."""
    allowed, bus = known(takes, "bus"), known_bus(drive)
    if allowed is None or bus is None:
        return unknown(f"the bus of the {'place' if allowed is None else 'drive'} is not known: ask what the machine reports", allowed, bus)
    buses = allowed.value if isinstance(allowed.value, list) else [allowed.value]
    if bus.value not in buses:
        return no(f"the place speaks {' or '.join(buses)}, the drive {bus.value}: it goes in and is not detected", allowed, bus)
    return yes(f"{bus.value} on both sides", allowed, bus)


@dataclass(frozen=True)
class Speed:
    """What a drive will run at: GB/s, why, whether the place holds it back, and the weakest evidence."""

    gb_s: float
    reason: str
    held_back: bool
    grade: Grade | None


def speed_in(takes: Facts, drive: Facts) -> Speed | None:
    """The link a drive gets: the lower generation and the fewer lanes of slot and drive (rule S4).

    Parameters
    ----------
    takes, drive : facts generation, lanes, bus

    Returns
    -------
    Speed or None : None where a generation or lane count is not known
    """
    bus = known_bus(drive)
    if bus is not None and bus.value == "SATA":
        return Speed(SATA_GB_S, "SATA", False, bus.grade)
    facts = [known(side, key) for key in ("generation", "lanes") for side in (takes, drive)]
    slot_generation, drive_generation, slot_lanes, drive_lanes = facts
    if not (slot_generation and drive_generation and slot_lanes and drive_lanes):
        return None
    generation, lanes = min(slot_generation.value, drive_generation.value), min(slot_lanes.value, drive_lanes.value)
    if generation not in LANE_GB_S:
        return None
    held_back = (generation, lanes) != (drive_generation.value, drive_lanes.value)
    grade = weakest(*(fact.grade for fact in facts if fact))
    return Speed(round(LANE_GB_S[generation] * lanes, 3), f"generation {generation}, {lanes} lanes", held_back, grade)


def fittings_to_add(takes: Facts, *, second_drive: bool) -> list[str]:
    """What must be at hand beside the drive: pad where it touches, carrier and screw for a second one (rule S5).

    Parameters
    ----------
    takes : facts pad, carrier · second_drive : the place is empty from the factory

    Returns
    -------
    list of str
    """
    pad = known(takes, "pad")
    if second_drive:
        return ["carrier", "screw", "pad"]
    return ["pad"] if pad is not None and pad.value else []
