"""What is looked at before the first screw: signs of a swelling pack, and of mains work that is licensed work (rules B4, G1b)."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from almanac.core.teardown.route import MAINS_FORMS

PACK_SIGNS = {
    "touchpad": "dead touchpad",
    "gap": "gap in the case",
    "lid": "lid does not close",
    "rocking": "rocks on a flat table",
    "smell": "smell",
    "heat": "heat",
}
"""A pack that swells lifts what lies above it."""
MAINS_SIGNS = {"no_power": "no power", "noise": "noise", "smell": "smell"}
"""With mains inside, only socket and lead are checked, from outside the closed case."""
SIGNS = {**PACK_SIGNS, **MAINS_SIGNS}


@dataclass(frozen=True)
class Intake:
    """What was seen at intake and what follows. entry : what the journal begins with, None where the job may go on"""

    entry: str | None
    words: tuple[str, ...]


def intake(form: str, signs: Collection[str]) -> Intake:
    """What the signs mean on a machine: a pack that stops all work, licensed work, or nothing.

    Parameters
    ----------
    form : of the machine; whatever is not on mains has a pack, listed on its page or not · signs : of SIGNS

    Returns
    -------
    Intake
    """
    mains = form in MAINS_FORMS
    pack = tuple(words for sign, words in PACK_SIGNS.items() if sign in signs and not mains)
    if pack:
        return Intake("danger", pack)
    live = tuple(words for sign, words in MAINS_SIGNS.items() if sign in signs and mains)
    return Intake("refer", live) if live else Intake(None, ())
