"""The cover will not lift: what to look at next, never with more force (rules F9, F10, F11)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.answers import Answer, no, unknown, yes
from almanac.core.teardown.counts import Count, read_count, total
from almanac.core.teardown.operations import Operation
from almanac.core.teardown.sides import SIDES

GENTLE = "wiggle only; the force never rises between looks"


TURNS = ("first", "second", "third", "fourth", "fifth")
START_WORDS = {"bay": "through the open bay", "any side": "at any side"}
"""Where it is no edge or corner."""


@dataclass(frozen=True)
class Look:
    """One thing to look at: what, why on this model, and how."""

    id: str
    what: str
    why: str


def will_not_lift(step: Operation, opening: Mapping[str, Any], looked: Sequence[str] = ()) -> Look:
    """The next look when a cover does not come; after all of them, stop.

    Parameters
    ----------
    step : the cover's operation · opening : how the page says it opens · looked : ids already done

    Returns
    -------
    Look : id "stop" when nothing is left to look at
    """
    looks = _looks(step, opening)
    left = [look for look in looks if look.id not in looked]
    return left[0] if left else Look("stop", "Stop", "every look is done: park the job, take a photo and ask a second person")


def _looks(step: Operation, opening: Mapping[str, Any]) -> list[Look]:
    hidden = [f"{item.count.words} under {item.hidden}" for item in step.fasteners if item.hidden]
    listed = total(item.count for item in step.fasteners)
    screws = f"{listed.words} fasteners are listed" + (f", {'; '.join(hidden)}" if hidden else "")
    feet = [foot.get("name", "foot") for foot in opening.get("feet") or [] if foot.get("hides")]
    rows = opening.get("clip_rows") or []
    centre = [row for row in rows if row.get("side") == "centre"]
    other = [row["side"] for row in rows if row.get("side") not in ("centre", opening.get("start_edge"))]
    hooks = opening.get("hooks")
    plugs = [plug.name for plug in step.plugs]
    foot = f"screws hide under: {', '.join(feet)}" if feet else f"none is recorded: feel for dips; {GENTLE}"
    catch = f"{read_count(centre[0].get('clips')).words} clips are recorded there" if centre else f"none is recorded; {GENTLE}"
    edges = f"clips also at: {', '.join(other)}" if other else f"no other clip row is recorded; {GENTLE}"
    slide = f"the hooks slide towards the {hooks}" if hooks else f"not recorded: try each side; {GENTLE}"
    lead = f"lift two centimetres and look: {', '.join(plugs)}" if plugs else "lift two centimetres and look beneath"
    return [
        Look("screw", "A missed screw", f"{screws}: {GENTLE}"),
        Look("foot", "A foot, sticker or bay", foot),
        Look("centre", "A catch in the centre", catch),
        Look("edge", "Another edge", edges),
        Look("hook", "The direction of the hooks", slide),
        Look("lead", "A tethered lead", lead),
    ]


def start_edge(opening: Mapping[str, Any]) -> Answer:
    """Where to start prying, with the reason; unknown is a list of gentle trials (rule F10)."""
    edge = opening.get("start_edge")
    if not edge:
        return unknown("not recorded: try the hinge corners, then the sides, then the front, with a plastic pick and no force")
    depth = opening.get("depth_limit_mm")
    limit = f", no deeper than {depth:g} mm" if depth else ", how deep is not known: the tip of a plastic pick only"
    why = opening.get("start_reason") or "nobody said why"
    return yes(f"start {START_WORDS.get(edge, f'at the {edge}')}: {why}{limit}{_pry_order(opening)}")


def _pry_order(opening: Mapping[str, Any]) -> str:
    """The sides that follow; those with clips that the order leaves out are named, not passed over."""
    told = [side for side in opening.get("pry_order") or [] if side != opening.get("start_edge")]
    if not told:
        return ""
    clipped = [row["side"] for row in opening.get("clip_rows") or [] if row["side"] not in (*told, opening.get("start_edge"))]
    left = f"; when {' and '.join(clipped)} follow{'s' if len(clipped) == 1 else ''} is not recorded" if clipped else ""
    return f"; then {', '.join(told)}{left}"


@dataclass(frozen=True)
class ClipSide:
    """Clips along a side of the cover, in words, with its turn where the order is recorded."""

    side: str
    words: str


def clip_sides(opening: Mapping[str, Any]) -> tuple[ClipSide, ...]:
    """Every side with clips, and the side to begin at: what is drawn around a plan."""
    order = [side for side in opening.get("pry_order") or [] if side != opening.get("start_edge")]
    start = opening.get("start_edge")
    found = {row["side"]: _clip_words(read_count(row["clips"])) for row in opening.get("clip_rows") or []}
    sides = [*found, *([start] if start in SIDES and start not in found else [])]
    return tuple(ClipSide(side, _turn(side, start, order, found.get(side, ""))) for side in sides)


def _clip_words(count: Count) -> str:
    return "clips, nobody counted them" if count.unknown else f"{count.words} clip{'' if count == Count(1) else 's'}"


def _turn(side: str, start: str | None, order: Sequence[str], clips: str) -> str:
    first = 1 if start in SIDES else 0
    turn = "start here" if side == start else TURNS[order.index(side) + first] if side in order else ""
    return ", ".join(word for word in (turn, clips) if word)


def pry_tool(*, metal: bool, at_marked_point: bool) -> Answer:
    """Plastic by default, metal at marked points only (rule F10)."""
    if metal and not at_marked_point:
        return no("a metal tool goes to marked points only")
    return yes("a metal tool at a marked point" if metal else "a plastic tool")


def powered_driver(*, place: str, low_mode: bool, last_turn: bool) -> Answer:
    """A powered driver is for outer screws in low mode; never the sink, plastic bosses or the last turn (rule F10)."""
    if place != "outer":
        return no(f"not at the {place}: by hand")
    if last_turn:
        return no("the last turn is made by hand")
    return yes("outer screws, low mode") if low_mode else no("low mode only")


def lift_foot(foot: Mapping[str, Any]) -> Answer:
    """Whether lifting a part of a foot is enough (rule F11)."""
    if foot.get("corners_only") and foot.get("verified"):
        return yes("the screws sit at its corners: lift those only")
    if foot.get("corners_only"):
        return no("the screws are said to sit at the corners, nobody verified it: lift the foot fully")
    return no("lift the foot fully; refit its ends first, then the middle")


def stands_flat(*, rocks: bool | None) -> Answer:
    """After the feet are back the machine stands flat and does not rock (rule F11)."""
    if rocks is None:
        return unknown("set it on a flat table and press each corner")
    return no("it rocks: a foot is not seated or in the wrong place") if rocks else yes("it stands flat")
