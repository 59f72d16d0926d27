"""What a step is done with: one tool or several, by hand, unsure, or nobody said (rule U1: never "hands" by default)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

HANDS = ("hands", "hand", "by hand", "fingers")


@dataclass(frozen=True)
class Tools:
    """names : in the order they are taken up, none where it is done by hand · sure : nobody doubts it · known : somebody said"""

    names: tuple[str, ...] = ()
    sure: bool = True
    known: bool = True

    @property
    def words(self) -> str:
        """For people: PH1, JIS0 + JIS1, PH0 (not sure), hands, tool not known."""
        if not self.known:
            return "tool not known"
        named = " + ".join(self.names) or "hands"
        return named if self.sure else f"{named} (not sure)"


BY_HAND = Tools()
NOT_SAID = Tools(known=False)


def read_tools(value: str | Sequence[str] | None, bits: Iterable[str | None] = ()) -> Tools:
    """The tools of a step as a page holds them.

    Parameters
    ----------
    value : "PH1", "JIS0 + JIS1" or a list, "PH0?" where unsure, "hands", or nothing
    bits : of the fasteners it undoes: what they ask for is taken where nothing is written

    Returns
    -------
    Tools : not known where nothing is written and no fastener says it
    """
    written = [value] if isinstance(value, str) else list(value or ())
    words = [item.strip() for text in written for item in text.split("+") if item.strip(" ?")]
    if not words:
        asked = tuple(dict.fromkeys(bit for bit in bits if bit))
        return Tools(asked) if asked and not written else NOT_SAID
    names = tuple(dict.fromkeys(word.rstrip("? ") for word in words if word.lower() not in HANDS))
    return Tools(names, sure=not any(word.endswith("?") for word in words))
