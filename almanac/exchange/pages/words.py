"""What breaks the format of a page, in our own sentences: no library's words reach a person (rule U7)."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from pydantic import BaseModel
from pydantic_core import ErrorDetails

from almanac.exchange.pages import format as form

SEE = "see docs/page-format.md"
OWN = ("evidence", "day", "count", "stated")
"""Faults whose words are ours already."""
EMPTY = ("string_too_short", "missing")


def _limit(context: Mapping[str, Any], name: str) -> str:
    value = context.get(name)
    return f"{value:g}" if isinstance(value, int | float) else str(value)


SENTENCES: dict[str, Callable[[Mapping[str, Any]], tuple[str, str]]] = {
    "missing": lambda _: ("is missing", "add it"),
    "string_too_short": lambda _: ("is empty", "fill it in, or leave the entry out"),
    "string_too_long": lambda it: (f"is longer than {_limit(it, 'max_length')} characters", "say it shorter, the rest belongs into a note"),
    "too_long": lambda it: (f"has more than {_limit(it, 'max_length')} entries", "split the page, or drop what repeats"),
    "too_short": lambda it: (f"needs at least {_limit(it, 'min_length')}", "add one, or leave the entry out"),
    "greater_than_equal": lambda it: (f"is below {_limit(it, 'ge')}", "measure it again"),
    "greater_than": lambda it: (f"is not above {_limit(it, 'gt')}", "measure it again"),
    "less_than_equal": lambda it: (f"is above {_limit(it, 'le')}", "look at the unit, and measure it again"),
    "enum": lambda it: (f"one of {_choices(it)} was wanted", "use one of these"),
    "literal_error": lambda it: (f"one of {_choices(it)} was wanted", "use one of these"),
    "string_pattern_mismatch": lambda _: ("does not look as it should", SEE),
}
KINDS = {
    "bool": "yes or no (true or false)",
    "int": "a whole number",
    "float": "a number",
    "string": "text",
    "list": "a list",
    "dict": "a mapping of names to entries",
    "model": "an entry of its own",
    "date": "a day such as 2026-03-14",
}
PATTERNS = {
    "thread": "a thread such as M2.5x4",
    "key": "a short name without blanks at its ends",
    "id": "a short name without blanks at its ends",
}


def _choices(context: Mapping[str, Any]) -> str:
    return str(context.get("expected", "")).replace("'", "").replace(" or ", ", ")


def sentence(item: ErrorDetails, name: str) -> tuple[str, str]:
    """What is wrong and the cure.

    Parameters
    ----------
    item : as the format found it · name : of the entry
    """
    kind, context = item["type"], item.get("ctx") or {}
    if kind in OWN:
        return item["msg"], "add evidence to the page, or grade, source and date to this fact" if kind == "evidence" else SEE
    if kind == "extra_forbidden":
        return _unknown_name(name)
    if kind == "string_pattern_mismatch" and name in PATTERNS:
        return f"{PATTERNS[name]} was wanted", "write it so"
    if kind in SENTENCES:
        return SENTENCES[kind](context)
    wanted = next((words for begin, words in KINDS.items() if kind.startswith(begin)), None)
    return (f"{wanted} was wanted", SEE) if wanted else ("cannot be read", SEE)


def _unknown_name(name: str) -> tuple[str, str]:
    near = difflib.get_close_matches(name, _names(), n=1, cutoff=0.6)
    return "no entry is called so", f"{near[0]} is meant?" if near else "remove it, or correct its name"


def _names() -> Iterable[str]:
    """Every name a page may hold."""
    models = [found for found in vars(form).values() if isinstance(found, type) and issubclass(found, BaseModel)]
    return sorted({name for model in models for name in model.model_fields} | {"screws", "uses", "steps", "parts", "under", "out", "shows"})
