"""What becomes of a pack by what is known of it: signs, health, cycles, and a run time with its conditions (rules B3 to B5)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.fits.battery import battery_health
from almanac.core.workbench.reported import PackSeen

GAUGE_OFF = 0.25
"""A run time that speaks for so much less or more than the pack says of itself puts its gauge in doubt."""
NO_DOUBT_DROP = 30
"""Percentage points a run has to take: a shorter one says little of the whole pack."""


@dataclass(frozen=True)
class RunTime:
    """A run on the pack. draw_w : mean power drawn, None where nobody read it · conditions : load and screen, in words"""

    minutes: float
    from_percent: float
    to_percent: float
    conditions: str
    draw_w: float | None = None

    @property
    def full_wh(self) -> float | None:
        """Energy of a full pack by this run, None without the power drawn."""
        if self.draw_w is None:
            return None
        return self.draw_w * self.minutes / 60 / ((self.from_percent - self.to_percent) / 100)


@dataclass(frozen=True)
class PackTriage:
    """What to do with a pack. advice : quarantine, replace, watch, keep, or unknown · why : sentences"""

    advice: str
    why: tuple[str, ...]


def pack_triage(pack: PackSeen | None, signs: Sequence[str], run: RunTime | None) -> PackTriage:
    """What to do with a pack.

    Parameters
    ----------
    pack : as the machine says, None where it says nothing · signs : of danger, seen at this job or an earlier one · run : on the pack

    Returns
    -------
    PackTriage : signs override every figure; unknown cycles stay unknown; without health nothing is called good
    """
    if signs:
        return PackTriage("quarantine", (f"the pack was {', '.join(signs)}: no figure makes it a good one",))
    why = []
    advice = "unknown"
    if pack is not None and pack.full_wh and pack.design_wh:
        health = battery_health(pack.full_wh, pack.design_wh, pack.cycles)
        advice = health.advice
        why.append(f"full at {pack.full_wh:.4g} of {pack.design_wh:.4g} Wh, {health.share:.0%} of what it was made for")
    else:
        why.append("its health is not known: take the machine's report")
    cycles = pack.cycles if pack is not None else None
    why.append(f"{cycles} charge cycles" if cycles is not None else "charge cycles are not known")
    return PackTriage(advice, (*why, *_run_words(run, pack)))


def _run_words(run: RunTime | None, pack: PackSeen | None) -> list[str]:
    if run is None:
        return []
    said = f"it ran {run.minutes:g} min from {run.from_percent:g} to {run.to_percent:g}% ({run.conditions})"
    full = run.full_wh
    if full is None:
        return [f"{said}; without the power drawn it says nothing of its energy"]
    words = [f"{said} at {run.draw_w:g} W: a full pack of {full:.3g} Wh"]
    if run.from_percent - run.to_percent < NO_DOUBT_DROP:
        return [*words, f"less than {NO_DOUBT_DROP} points of charge: too short to doubt the gauge by"]
    if pack is not None and pack.full_wh and abs(full - pack.full_wh) > GAUGE_OFF * pack.full_wh:
        words.append(f"its gauge says {pack.full_wh:.4g} Wh: one of both is wrong, run it down once more before the pack is judged")
    return words


def run_time_refusals(data: Mapping[str, Any]) -> list[str]:
    """Why a run time cannot be written: a figure out of range, or no conditions (rule B3)."""
    faults = []
    figures = {name: _figure(data.get(name)) for name in ("minutes", "from_percent", "to_percent")}
    if figures["minutes"] is None or not 0 < figures["minutes"] <= 2880:
        faults.append("how many minutes did it run: above 0, two days at most")
    first, last = figures["from_percent"], figures["to_percent"]
    if first is None or last is None or not 0 <= last < first <= 100:
        faults.append("from which charge to which, in per cent: down, from 100 to 0 at most")
    draw = data.get("draw_w")
    if draw is not None and ((watts := _figure(draw)) is None or not 0 < watts <= 500):
        faults.append("the power drawn: above 0 and up to 500 W, or left out")
    if not str(data.get("conditions") or "").strip():
        faults.append("a run time counts only with its conditions: say what ran, and how bright the screen was")
    return faults


def run_time_of(data: Mapping[str, Any]) -> RunTime:
    """A run time from the entry of a journal."""
    draw = data.get("draw_w")
    return RunTime(
        float(data["minutes"]),
        float(data["from_percent"]),
        float(data["to_percent"]),
        str(data["conditions"]).strip(),
        None if draw is None else float(draw),
    )


def _figure(value: Any) -> float | None:
    return float(value) if isinstance(value, int | float) and not isinstance(value, bool) else None
