"""What is ordered when a part dies: itself, the assembly around it, or the mainboard (rules E1 to E3)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from almanac.core.errors import ContractError
from almanac.core.parts.kinds import Kind, Serviceability

ITSELF = frozenset({Serviceability.SOCKETED, Serviceability.SCREWED, Serviceability.CLIPPED, Serviceability.TAPED})


@dataclass(frozen=True)
class Held:
    """How a position is held, what it sits in and whether it can be ordered alone (None: not known). doubt : why that may not be so"""

    key: str
    kind: Kind
    held: Serviceability
    part_of: str | None = None
    orderable: bool | None = None
    doubt: str = ""


@dataclass(frozen=True)
class OrderedUnit:
    """What is ordered for a position.

    units : keys of positions whose part is ordered; two where it is unknown · reason : which rule decided
    takes_along : other positions that come with the assembly · exact : False where two are listed
    """

    units: tuple[str, ...]
    reason: str
    takes_along: tuple[str, ...]

    @property
    def exact(self) -> bool:
        return len(self.units) == 1


def ordered_unit(key: str, positions: Mapping[str, Held]) -> OrderedUnit:
    """Follow a position to what is ordered for it.

    Parameters
    ----------
    key : of a position · positions : all of the model by key

    Returns
    -------
    OrderedUnit

    Raises
    ------
    ContractError : an unknown position, or parts that contain one another in a circle
    """
    if key not in positions:
        raise ContractError(f"position: one of {', '.join(positions)} was wanted, got {key!r}")
    unit = _unit_of(positions[key], positions)
    return replace(unit, reason=f"{unit.reason} ({positions[key].doubt})") if positions[key].doubt else unit


def _unit_of(place: Held, positions: Mapping[str, Held]) -> OrderedUnit:
    key = place.key
    if place.held in ITSELF and place.orderable is not False:
        return OrderedUnit((key,), f"{place.held.value}: ordered as itself", ())
    if place.held == Serviceability.SOLDERED:
        board = _mainboard(positions)
        return OrderedUnit((board,), "soldered: the mainboard is ordered", _inside(board, key, positions))
    if place.held == Serviceability.GLUED and place.orderable:
        return OrderedUnit((key,), "glued, with a spare: ordered as itself", ())
    above = _assembly(place, positions)
    if place.held == Serviceability.UNKNOWN or above is None:
        both = (key, above) if above else (key,)
        return OrderedUnit(tuple(unit for unit in both if unit), "how it is held is not known: both are listed", ())
    why = "without a spare of its own" if place.held in ITSELF | {Serviceability.GLUED} else "not ordered alone"
    return OrderedUnit((above,), f"{place.held.value.replace('_', ' ')}, {why}: the assembly is ordered", _inside(above, key, positions))


def _mainboard(positions: Mapping[str, Held]) -> str:
    for place in positions.values():
        if place.kind == Kind.MAINBOARD:
            return place.key
    return "mainboard"


def _assembly(place: Held, positions: Mapping[str, Held]) -> str | None:
    """The nearest ancestor that can be ordered."""
    seen, above = {place.key}, place.part_of
    while above is not None:
        if above in seen:
            raise ContractError(f"position {place.key}: {above} contains itself")
        seen.add(above)
        parent = positions.get(above)
        if parent is None or parent.orderable is not False:
            return above
        above = parent.part_of
    return None


def _inside(assembly: str, asked: str, positions: Mapping[str, Held]) -> tuple[str, ...]:
    """What else comes with an assembly: all that is part of it and known to stay on it, but the part asked for."""
    inside = (place for place in positions.values() if place.part_of == assembly and place.key != asked)
    return tuple(place.key for place in inside if not _comes_off(place) and place.held != Serviceability.UNKNOWN)


def _comes_off(place: Held) -> bool:
    return place.held in ITSELF and place.orderable is not False


def moves_over(unit: str, positions: Mapping[str, Held]) -> tuple[str, ...]:
    """Positions that move from an old assembly to the new one: part of it, however deep, and held so that they come off (rule E3).

    Parameters
    ----------
    unit : key of what is ordered · positions : all of the model by key
    """
    return tuple(key for key in _off(unit, positions) if positions[key].held != Serviceability.UNKNOWN)


def may_move_over(unit: str, positions: Mapping[str, Held]) -> tuple[str, ...]:
    """Positions on an assembly of which nobody knows how they are held, so that they may have to move.

    Parameters as `moves_over`.
    """
    return tuple(key for key in _off(unit, positions) if positions[key].held == Serviceability.UNKNOWN)


def _off(unit: str, positions: Mapping[str, Held]) -> tuple[str, ...]:
    """What comes off an assembly, or may. What stays on brings along what stays on it; what comes off takes its own along."""
    found: list[str] = []
    inside = [unit]
    seen = {unit}
    while inside:
        above = inside.pop(0)
        for place in positions.values():
            if place.part_of != above or place.key in seen:
                continue
            seen.add(place.key)
            (found if _comes_off(place) or place.held == Serviceability.UNKNOWN else inside).append(place.key)
    return tuple(key for key in positions if key in found)


def moved_demand(failures: Mapping[str, float], units: Mapping[str, Sequence[str]]) -> dict[str, float]:
    """Failures by ordered unit; an uncertain one is shared, so the sum stays the same (rule E2).

    Parameters
    ----------
    failures : by position key, >= 0 · units : what is ordered for a position, one key or several where nobody knows which

    Returns
    -------
    dict : failures by the key of what is ordered; a position without a unit is ordered itself
    """
    moved: dict[str, float] = {}
    for key, count in failures.items():
        ordered = units.get(key) or (key,)
        for unit in ordered:
            moved[unit] = moved.get(unit, 0.0) + count / len(ordered)
    return moved


def carry_over(attached: Iterable[str], included: Iterable[str]) -> tuple[str, ...]:
    """What must be moved from the old part: attached to the old, not included with the new (rule E3)."""
    new = set(included)
    return tuple(item for item in dict.fromkeys(attached) if item not in new)
