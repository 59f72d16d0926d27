"""A label scanner: labels as they could stand on machines and parts; it types one and presses Enter."""

from __future__ import annotations

from dataclasses import dataclass
from hashlib import sha256

ENTER = "Enter"


@dataclass(frozen=True)
class Label:
    """A label to scan: what it is on, and what the scanner types."""

    words: str
    text: str

    @property
    def keys(self) -> tuple[str, ...]:
        """Key by key, as the scanner sends it."""
        return (*self.text, ENTER)


def part_label(number: str, words: str, seed: str) -> Label:
    """The serial on a part, the same for the same seed.

    Parameters
    ----------
    number : of the part · words : what it is on · seed : what makes this unit another than the next

    Returns
    -------
    Label : a serial of the part's letters and eight digits
    """
    digits = int(sha256(f"{number}|{seed}".encode()).hexdigest()[:12], 16) % 10**8
    letters = "".join(character for character in number if character.isalnum())[:4]
    return Label(words, f"{letters}{digits:08d}")
