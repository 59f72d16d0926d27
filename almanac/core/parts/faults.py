"""A fault of a model page: where it is, what is wrong, and the cure."""

from __future__ import annotations

from dataclasses import dataclass

Where = tuple[str | int, ...]
"""Path of an entry in a page document, such as ("operations", 3, "needs", 0)."""


@dataclass(frozen=True)
class PageFault:
    """One fault: its path in the page, what is wrong, and the cure.

    `open` marks what is missing rather than wrong, `noted` what was only written otherwise than rules read it.
    """

    where: Where
    message: str
    cure: str
    open: bool = False
    noted: bool = False


def path_words(where: Where) -> str:
    """A path as it is written: operations[3].needs[0]."""
    words = ""
    for part in where:
        words += f"[{part}]" if isinstance(part, int) else f".{part}" if words else str(part)
    return words
