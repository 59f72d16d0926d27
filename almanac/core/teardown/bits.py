"""Bits: the naming systems kept apart, whether one seats in a screw, and what to look for before it is turned (rule F4)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from almanac.core.errors import ContractError
from almanac.core.parts.answers import Answer, no, yes
from almanac.core.parts.kinds import Verdict
from almanac.core.teardown.tools import Tools

SYSTEMS = ("PH", "JIS", "T", "TR", "Y", "H", "SL", "PZ", "P")
"""Drive systems by their standard letters; a bit is the letters and a size, millimetre names stay as they are."""
SPOKEN = (
    (re.compile(r"\bsix[- ]?lobed?\s+(?:with\s+pin\s+)(\d{1,2})\b", re.IGNORECASE), "TR"),
    (re.compile(r"\bsix[- ]?lobed?\s+(\d{1,2})\b", re.IGNORECASE), "T"),
    (re.compile(r"\bfive[- ]?lobed?\s+(\d{1,2})\b", re.IGNORECASE), "P"),
    (re.compile(r"\bthree[- ]?winged?\s+(\d{1,3})\b", re.IGNORECASE), "Y"),
    (re.compile(r"\bcross[- ]?head\s+(\d{1,3})\b", re.IGNORECASE), "PH"),
    (re.compile(r"\bslot(?:ted)?\s+(\d{1,2})\b", re.IGNORECASE), "SL"),
)
NAMES = {
    "PH": "cross-head",
    "JIS": "cross-head after the Japanese standard, with a dot on the screw",
    "T": "six-lobe",
    "TR": "six-lobe with a pin in the screw: the bit has a hole",
    "Y": "three-winged",
    "H": "hexagon",
    "SL": "slotted",
    "PZ": "cross-head with four fine lines between the arms",
    "P": "five-lobe",
    "mm": "named by its width",
}
MISTAKEN = {
    "PH": "a JIS bit of its size drives it too; a PZ bit of its size does not",
    "JIS": "a PH bit of its size climbs out and rounds the head",
    "T": "a hexagon that nearly fits rounds it",
    "PZ": "a PH bit of its size climbs out",
    "Y": "nothing else seats in it",
    "P": "a six-lobe bit that nearly fits rounds it",
}
SEAT = "set the bit in and let go: it stands by itself and does not rock; take the largest that seats"
CLIMBS = "if it climbs out at the first quarter turn: stop, press harder or take the next bit, never turn on"


def said_as_bits(text: str) -> str:
    """A text with bits said in words named as they are written: six-lobe 6 is T6, three-winged 0 is Y0."""
    for pattern, system in SPOKEN:
        text = pattern.sub(rf"{system}\1", text)
    return text


def bit_of(text: str) -> tuple[str, str]:
    """System and size of a bit; names are never converted into one another (rule F4).

    Parameters
    ----------
    text : such as PH1, T5, JIS0, 2.0 mm

    Returns
    -------
    (system, size)

    Raises
    ------
    ContractError : no known system
    """
    name = text.strip().upper().replace(" ", "")
    if name.endswith("MM") and name[:-2].replace(".", "", 1).isdigit():
        return "mm", name[:-2]
    for system in sorted(SYSTEMS, key=len, reverse=True):
        size = name[len(system) :]
        if name.startswith(system) and size.replace("0", "", 1).isdigit() | (size in ("0", "00", "000")):
            return system, size
    raise ContractError(f"bit: a system ({', '.join(SYSTEMS)} or mm) and a size were wanted, got {text!r}")


def bit_drives(bit: str, screw: str) -> Answer:
    """Whether a bit may drive a screw: the same system and size; a JIS bit may drive a PH screw, never the reverse (rule F4).

    Raises
    ------
    ContractError : a bit of no known system
    """
    have, want = bit_of(bit), bit_of(screw)
    if have == want:
        return yes(f"{bit} for {screw}")
    if have[0] == "JIS" and want[0] == "PH" and have[1] == want[1]:
        return yes(f"{bit} seats in {screw}")
    if have[0] == "PH" and want[0] == "JIS":
        return no(f"{bit} cams out of {screw}")
    if have[0] == want[0]:
        return no(f"{bit} is not {screw}: try the largest that seats")
    return no(f"{have[0]} and {want[0]} are not converted into one another")


def undriven(tools: Tools, screw: str) -> str | None:
    """Why none of the bits of a step drives a screw of it; None where one does, or no bit is among them."""
    refused = []
    for name in tools.names:
        try:
            answer = bit_drives(name, screw)
        except ContractError:
            continue
        if answer.verdict == Verdict.YES:
            return None
        refused.append(answer.reason)
    return "; ".join(refused) or None


@dataclass(frozen=True)
class BitAdvice:
    """A bit a way asks for: what its drive is called, and what it is mistaken for."""

    bit: str
    words: str


def bit_advice(tools: Iterable[Tools]) -> tuple[BitAdvice, ...]:
    """What is worth knowing of the bits some steps ask for, each once.

    Parameters
    ----------
    tools : of the steps

    Returns
    -------
    tuple of BitAdvice : tools that are no bits are left out
    """
    found: dict[str, BitAdvice] = {}
    for one in tools:
        for name in one.names:
            try:
                system, size = bit_of(name)
            except ContractError:
                continue
            parts = [f"{NAMES[system]}, size {size}", *([MISTAKEN[system]] if system in MISTAKEN else [])]
            found.setdefault(
                name, BitAdvice(name, "; ".join([*parts, *(["not sure: try it before it is turned"] if not one.sure else [])]))
            )
    return tuple(found.values())
