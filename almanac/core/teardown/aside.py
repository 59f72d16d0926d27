"""What a step has beside its fasteners, in words: clips of the cover it lifts, zones to keep out of, what people noted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.teardown.depth import opening_steps
from almanac.core.teardown.lift import ClipSide, clip_sides
from almanac.core.teardown.operations import Operation, Teardown


def clips_of(step: Operation, page: Mapping[str, Any], teardown: Teardown) -> tuple[ClipSide, ...]:
    """Where the clips of a cover are, at the step that lifts it.

    Parameters
    ----------
    step : of the graph · page : the whole page in its stored form · teardown : its graph

    Returns
    -------
    tuple of ClipSide, empty at any other step
    """
    if not step.layer or step.id not in {one.id for one in opening_steps(teardown)}:
        return ()
    return clip_sides(page.get("opening") or {})


def aside_words(step: Operation, page: Mapping[str, Any], teardown: Teardown) -> tuple[str, ...]:
    """The same and what else is to be minded at a step, for paper and for who sees no drawing.

    Parameters as `clips_of`.

    Returns
    -------
    tuple of lines
    """
    written: Mapping[str, Any] = next((entry for entry in page.get("operations") or [] if entry["id"] == step.id), {})
    clips = "; ".join(f"{one.side}: {one.words}" if one.words else one.side for one in clips_of(step, page, teardown))
    return (
        *((clips,) if clips else ()),
        *(f"keep out: {zone['reason']}" for zone in written.get("keep_out") or []),
        *(note["text"] for note in page.get("notes") or [] if note.get("operation") == step.id),
    )
