"""Facts on one line with what they rest on: DDR4 (label), 32 (document: service sheet; 2024-02-05); and back."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

import yaml

from almanac.core.parts.kinds import Grade
from almanac.exchange.pages.facts import UNDATED
from almanac.exchange.pages.yaml_tree import YamlFault, read_yaml

GRADES = "|".join(grade.value for grade in Grade)
DATE = rf"\d{{4}}-\d\d-\d\d|{UNDATED}"
SAID = re.compile(rf"^(?P<value>\S.*?)\s+\((?P<grade>{GRADES})(?::\s*(?P<source>[^();]+?))?(?:;\s*(?P<date>{DATE}))?\)$")
EVIDENCE = re.compile(rf"^\s*(?P<grade>{GRADES})\s*(?:;\s*(?P<source>[^;]+?))?\s*(?:;\s*(?P<date>{DATE}))?\s*$")
PARTS = ("grade", "source", "date")


def evidence_of(value: Any) -> Any:
    """ "measured; depot bench; 2025-03-14" : what is written of grade, source and date."""
    found = EVIDENCE.match(value) if isinstance(value, str) else None
    return _said(found) if found else value


def _said(found: re.Match[str]) -> dict[str, Any]:
    return {part: None if found[part] == UNDATED else found[part] for part in PARTS if found[part]}


def evidence_line(evidence: Mapping[str, Any]) -> Any:
    known = {part: value for part, value in evidence.items() if value is not None}
    line = "; ".join(str(known[part]) for part in PARTS if part in known)
    return line if evidence_of(line) == known else dict(evidence)


def statement_of(value: Any) -> Any:
    """A fact as it is written short: a bare value, one with its evidence, or a list of those that differ."""
    if isinstance(value, list) and value and all(isinstance(item, str) and SAID.match(item) for item in value):
        return [_one(item) for item in value]
    return _one(value)


def _one(value: Any) -> Any:
    found = SAID.match(value) if isinstance(value, str) else None
    if not found:
        return value
    try:
        said = read_yaml(found["value"].encode()).value
    except YamlFault:
        return value
    return {"value": said, **_said(found)}


def statement_line(statements: Sequence[Mapping[str, Any]], default: Mapping[str, Any]) -> Any:
    """Statements as short as they read back: what the page's own evidence says is left out.

    Parameters
    ----------
    statements : of one fact, in full · default : evidence that holds where a statement says nothing
    """
    short = [_short(item, default) for item in statements]
    if len(short) > 1 and not all(isinstance(item, str) and SAID.match(item) for item in short):
        return [
            item if isinstance(item, dict) and "value" in item else {"value": item} for item in (_left(one, default) for one in statements)
        ]
    return short if len(short) > 1 else short[0]


def _left(item: Mapping[str, Any], default: Mapping[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in item.items() if key not in PARTS or value != default.get(key)}


def _short(item: Mapping[str, Any], default: Mapping[str, Any]) -> Any:
    left = _left(item, default)
    if set(left) == {"value"}:
        bare = left["value"]
        return left if isinstance(bare, dict) or statement_of(bare) != bare else bare
    left = {**left, "grade": item["grade"]}  # a line names its grade, whatever the page's own is
    line = _line(left)
    return line if line is not None and _one(line) == left else left


def _line(left: Mapping[str, Any]) -> str | None:
    if not set(left) <= {"value", *PARTS}:
        return None
    dumped = yaml.safe_dump(left["value"], default_flow_style=True, width=10_000, allow_unicode=True).strip().removesuffix("...").strip()
    source = f": {left['source']}" if "source" in left else ""
    date = f"; {left['date'] or UNDATED}" if "date" in left else ""
    return f"{dumped} ({left['grade']}{source}{date})" if "grade" in left else None
