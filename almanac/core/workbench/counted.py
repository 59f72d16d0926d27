"""Counts at the bench that differ from the page: proposed to it, never corrected in silence (rule F1)."""

from __future__ import annotations

import copy
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanac.core.workbench.journal import Standing, loose_out
from almanac.core.workbench.plan import JobPlan, Phase


@dataclass(frozen=True)
class Counted:
    """Loose screws of one group of one step: as the page has them, and as they came out."""

    operation: str
    group: str
    page: str
    counted: int

    @property
    def words(self) -> str:
        """Both numbers in a sentence."""
        return f"{self.operation}: {self.counted} × {self.group} came out, the page says {self.page}"


def counted_otherwise(plan: JobPlan, standing: Standing) -> list[Counted]:
    """Groups that were counted and came out in another number than the page says, or in one it does not know, as they came out."""
    found = []
    for step in plan.steps:
        data = standing.counts.get(step.id) or {}
        if step.phase != Phase.OPENING or step.operation is None or not data.get("screws"):
            continue
        out, captive = loose_out(step, data), data.get("captive") or {}
        for group in step.screws:
            expected = group.expected(stays=bool(captive.get(group.group)))
            if group.group in data["screws"] and not (expected.exact and expected.agrees(out[group.group])):
                found.append(Counted(step.operation, group.group, expected.words, out[group.group]))
    return found


def with_counts(
    own: Mapping[str, Any], whole: Mapping[str, Any], counted: Sequence[Counted], source: str
) -> tuple[dict[str, Any], list[Counted], list[Counted]]:
    """The page as written with the counts proposed.

    Parameters
    ----------
    own : the page as written · whole : with what it inherits · counted : at the bench · source : such as "job 12 on 2026-11-01"

    Returns
    -------
    (page, proposed, left) : those that could be written; a count of a group that stands in several places of one step is left, for
    nobody said where the difference is
    """
    document = copy.deepcopy(dict(own))
    proposed, left = [], []
    for item in counted:
        step = _own_step(document, whole, item.operation)
        entries = [
            entry for entry in (step or {}).get("fasteners") or [] if entry["group"] == item.group and entry.get("captive") is not True
        ]
        if step is None or len(entries) != 1:
            left.append(item)
            continue
        if item.counted == 0:
            step["fasteners"] = [entry for entry in step["fasteners"] if entry is not entries[0]]
        else:
            entries[0]["count"] = item.counted
            entries[0].pop("at", None)
            entries[0]["note"] = f"{item.counted} counted, {item.page} before: {source}"
        proposed.append(item)
    return document, proposed, left


def _own_step(document: dict[str, Any], whole: Mapping[str, Any], name: str) -> dict[str, Any] | None:
    """The step's entry of the own page; a page that inherits it states its fasteners anew."""
    steps = document.setdefault("operations", [])
    own = next((step for step in steps if step["id"] == name), None)
    above = next((step for step in whole.get("operations") or [] if step["id"] == name), None)
    if own is not None and own.get("fasteners"):
        found: dict[str, Any] = own
        return found
    if above is None:
        return None
    if own is None:
        own = {"id": name, "text": above["text"]}
        steps.append(own)
    own["fasteners"] = copy.deepcopy(above.get("fasteners") or [])
    return own
