"""Forms a page was written in over time, brought to the present one: a page written before is read and means what it meant."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

PRESENT = 2
BY_HAND = "hands"


def current_form(page: Mapping[str, Any], taken_over: Collection[str] = ()) -> Mapping[str, Any]:
    """A page in the present form.

    In the first form a step without a tool was one done by hand; since then it is one of which nobody said. A step with fasteners is
    left open all the same: they ask for a tool that nobody wrote down.

    Parameters
    ----------
    page : as written · taken_over : ids of steps that the sibling has, of which the page states only what differs

    Returns
    -------
    the page itself where it is in the present form, else a new one
    """
    if page.get("page_format") != 1:
        return page
    steps = [_first_form(step, own=step.get("id") not in taken_over) for step in page.get("operations") or []]
    return {**page, "page_format": PRESENT, **({"operations": steps} if steps else {})}


def _first_form(step: Mapping[str, Any], *, own: bool) -> Mapping[str, Any]:
    if not own or step.get("tool") or step.get("fasteners"):
        return step
    return {**step, "tool": BY_HAND}
