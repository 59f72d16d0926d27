"""What a string printed on a part is likely to be: proposed, for a person to confirm."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

ROLES: Sequence[tuple[str, re.Pattern[str]]] = (
    ("revision", re.compile(r"^(?:rev(?:ision)?|ver(?:sion)?|v)[ .:]*[a-z]?\d{0,3}(?:\.\d+)?[a-z]?$", re.IGNORECASE)),
    (
        "date",
        re.compile(
            r"^(?:\d{4}[-./]\d{1,2}(?:[-./]\d{1,2})?|(?:19|20)?\d{2}\s?(?:w|wk|week)\s?\d{1,2}|(?:mfg|date|d/c)\b.*\d)$", re.IGNORECASE
        ),
    ),
    ("cable", re.compile(r"\b(?:cable|lead|harness|\d{1,3}\s?mm|awg|fpc|ffc)\b|e\d{5,}\s*awm", re.IGNORECASE)),
    ("approval", re.compile(r"^(?:ce|fcc(?:\s?id)?|ul|rohs|weee|tuv|kc|ccc|bsmi|pse|e\d{5,7}|r-?\d{8,})\b[\s:\w-]*$", re.IGNORECASE)),
    ("drawing", re.compile(r"^(?:dwg|drw|drawing|d)[ .:-]+[\w.-]+$|^\d{2,3}\.\d{4,5}\.[\w.]+$|^[a-z]?\d[a-z]\d{2,}-\w+$", re.IGNORECASE)),
    ("spare_code", re.compile(r"^(?:spare|fru|spn?|replace with|order)\b[ .:#-]*[\w-]{4,}$", re.IGNORECASE)),
    ("maker_model", re.compile(r"^(?:model|type|m/n|mpn)\b[ .:#-]*[\w./-]{3,}$", re.IGNORECASE)),
)
"""Roles by what tells them, the surest first."""


def proposed_role(text: str, known: Mapping[str, str] | None = None) -> str:
    """The role a string most likely has: revision, date, cable, approval, drawing, spare_code, maker_model, or unknown.

    Only a spare code or a maker's model is ordered, so what merely looks like a number is unknown until somebody says.

    Parameters
    ----------
    text : as it is printed · known : roles of strings that the parts list has, in small letters
    """
    plain = " ".join(text.split())
    if known and plain.lower() in known:
        return known[plain.lower()]
    return next((role for role, told in ROLES if told.search(plain)), "unknown")
