"""Characters that no text a person means can hold: databases, workbooks and printed pages choke on them."""

from __future__ import annotations

import re

FORBIDDEN = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x84\x86-\x9f\ud800-\udfff\ufffe\uffff]")
"""Control characters but tab and line ends, halves of surrogate pairs, and what XML leaves out."""


def control_character(text: str) -> str | None:
    """What is wrong with a text that holds a forbidden character, with its place counted from 1; None for a good one."""
    found = FORBIDDEN.search(text)
    if found is None:
        return None
    return f"character {found.start() + 1} is a control character (U+{ord(found.group()):04X}) that no text can hold: remove it"


def printable(text: str) -> str:
    """The text with every forbidden character shown as the replacement character."""
    return FORBIDDEN.sub("\ufffd", text)
