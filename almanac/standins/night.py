"""A fleet that reports every night: each machine says what is on record of it with small differences, a few say otherwise."""

from __future__ import annotations

import json
import random
from collections.abc import Sequence
from dataclasses import dataclass

from almanac.core.parts.kinds import Kind

FADE_A_YEAR, LEAST = 0.06, 0.45
WEAR_A_YEAR = 4.0
FAULTS = ("another drive", "more memory", "no pack")


@dataclass(frozen=True)
class Inside:
    """A part on record in a machine. size : GB of a drive or module, Wh of a pack, None where nobody knows · years : in service"""

    kind: str
    size: float | None
    serial: str
    years: float


def night_report(inside: Sequence[Inside], *, seed: str, fault: str | None = None) -> str:
    """What a machine says tonight, in the documented form.

    Parameters
    ----------
    inside : its parts on record · seed : the same machine says the same again, such as its tag · fault : None, or one of FAULTS

    Returns
    -------
    str : JSON
    """
    chance = random.Random(seed)  # noqa: S311 -- a stand-in needs to say the same again, not to be unguessable
    modules = [part.size for part in inside if part.kind == Kind.MEMORY and part.size is not None]
    if fault == "more memory" and modules:
        modules.append(modules[0])
    drives = [part for part in inside if part.kind == Kind.SSD]
    packs = [part for part in inside if part.kind == Kind.BATTERY and fault != "no pack"]
    document = {
        "machine_report": 1,
        "memory": {"modules": [{"gb": size} for size in modules], **({"installed_gb": sum(modules)} if modules else {})},
        "drives": [_drive(part, chance, other=fault == "another drive") for part in drives],
        "pack": _pack(packs[0], chance) if packs and packs[0].size else None,
        "hottest_c": round(chance.uniform(38, 67)),
    }
    return json.dumps({key: value for key, value in document.items() if value}, indent=1)


def _drive(part: Inside, chance: random.Random, *, other: bool) -> dict[str, object]:
    serial = "ND" + "".join(chance.choices("0123456789ABCDEF", k=8))
    left = max(3, round(100 - WEAR_A_YEAR * part.years * chance.uniform(0.6, 1.6)))
    size = {"gb": round(part.size * 1.0002, 1)} if part.size else {}
    return {**size, "serial": serial if other or not part.serial else part.serial, "left_percent": left}


def _pack(part: Inside, chance: random.Random) -> dict[str, object]:
    assert part.size is not None
    share = max(LEAST, 1.0 - FADE_A_YEAR * part.years * chance.uniform(0.6, 1.5))
    serial = part.serial or "NP" + "".join(chance.choices("0123456789ABCDEF", k=8))
    design = round(part.size * 0.995, 2)
    return {
        "design_wh": design,
        "full_wh": round(design * share, 2),
        "cycles": round(part.years * chance.uniform(60, 190)),
        "charging": True,
        "serial": serial,
    }
