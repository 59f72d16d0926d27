"""One more statement of a fact: what was said before it is never overwritten."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from almanac.core.parts.facts import STRENGTH


def with_statement(said: Sequence[Mapping[str, Any]], new: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Statements of one fact with one more.

    The same value of the same variant is said once, by the stronger evidence, of equals by the later; another value stands beside
    those that differ, so that a label does not take the place of what was measured. Looked for and not known gives way to what is.

    Parameters
    ----------
    said, new : {value, grade, source, date, ...}

    Returns
    -------
    list of statements, in the order they were said
    """
    kept = [dict(one) for one in said if one["value"] is not None]
    same = next((place for place, one in enumerate(kept) if _says(one) == _says(new)), None)
    if same is None:
        return [*kept, dict(new)] if new["value"] is not None or not kept else kept
    if _firm(new) > _firm(kept[same]):
        kept[same] = {**kept[same], **new}
    return kept


def _says(statement: Mapping[str, Any]) -> tuple[object, object]:
    return statement["value"], statement.get("when") or None


def _firm(statement: Mapping[str, Any]) -> tuple[int, str]:
    return -STRENGTH.get(statement["grade"], len(STRENGTH)), str(statement.get("date") or "")
