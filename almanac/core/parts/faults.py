"""A fault of a model page: where it is, what is wrong, and the cure."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import IntEnum

Where = tuple[str | int, ...]
"""Path of an entry in a page document, such as ("operations", 3, "needs", 0)."""


class Stake(IntEnum):
    """What an answer would change, the gravest first."""

    DANGER = 0
    DECISION = 1
    MINUTES = 2
    RECORD = 3


@dataclass(frozen=True)
class Cause:
    """Open faults of one cause are one line. plural : that line, with {n} · name : of this one in it · size : minutes or machines"""

    plural: str = ""
    name: str = ""
    stake: Stake = Stake.RECORD
    size: float = 0.0


@dataclass(frozen=True)
class PageFault:
    """One fault: its path in the page, what is wrong, and the cure.

    `open` marks what is missing rather than wrong, `noted` what was only written otherwise than rules read it.
    cause : what an open one comes from, and what settling it changes
    """

    where: Where
    message: str
    cure: str
    open: bool = False
    noted: bool = False
    cause: Cause = field(default_factory=Cause)


def path_words(where: Where) -> str:
    """A path as it is written: operations[3].needs[0]."""
    words = ""
    for part in where:
        words += f"[{part}]" if isinstance(part, int) else f".{part}" if words else str(part)
    return words
