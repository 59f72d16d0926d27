"""Reading drive labels: form, length, keying, bus, generation (rules S1, S3, S6)."""

from __future__ import annotations

import re

from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.reading import Reading, capacity_gb, clean, one_of

M2_LENGTHS_MM = (30, 42, 60, 80, 110)
THICKNESSES_MM = (5.0, 7.0, 9.5, 12.5, 15.0)
DIAMETER = re.compile(r"2\.5\s?(?:\"|-?in(?:ch)?|mm)", re.IGNORECASE)
M2_CODE = re.compile(r"(?<![\d.])22(\d{2,3})(?!\d)")


def m2_length(code: str) -> int | None:
    """Length in mm of a size code 22LL, None for a length that does not exist (rule S1).

    Parameters
    ----------
    code : digits such as "2280"

    Returns
    -------
    int or None : mm
    """
    found = M2_CODE.fullmatch(code)
    length = int(found[1]) if found else None
    return length if length in M2_LENGTHS_MM else None


def read_drive(text: str) -> Reading:
    """Form, length, bus, generation, lanes, keying, sides, thickness and size of a drive's label.

    Parameters
    ----------
    text : the label as read, such as "M.2 2280 NVMe PCIe Gen4 x4 512GB"

    Returns
    -------
    Reading : kind ssd, or radio for a card keyed E
    """
    line, reading = clean(text), Reading(Kind.SSD)
    _keying(line, reading)
    if reading.kind == Kind.RADIO:
        return reading
    _form(line, reading)
    _bus(line, reading)
    capacity_gb(line, reading)
    if re.search(r"double[- ]sided|both sides", line, re.IGNORECASE):
        reading.facts["sides"] = 2
    elif re.search(r"single[- ]sided", line, re.IGNORECASE):
        reading.facts["sides"] = 1
    return reading


def _keying(line: str, reading: Reading) -> None:
    """Rule S3: keying is evidence, not proof; a card keyed E is a radio."""
    if re.search(r"\b(?:key(?:ed)?|notch)[ -]?E\b|\bE[- ]key", line, re.IGNORECASE):
        reading.kind = Kind.RADIO
        reading.facts["keying"] = "E"
        reading.ask("keyed E: this card is a radio, not a drive")
        return
    both = r"\bB ?[+&/] ?M\b|two notches"
    if re.search(both, line, re.IGNORECASE):
        reading.facts["keying"] = "B+M"
        reading.ask("two notches suggest SATA or two lanes, they do not prove it: read the bus")
    elif re.search(r"\bM[- ]key|key(?:ed)?[ -]?M\b|one notch", line, re.IGNORECASE):
        reading.facts["keying"] = "M"
        reading.ask("one notch suggests NVMe, it does not prove it: read the bus")


def _form(line: str, reading: Reading) -> None:
    codes = list(M2_CODE.finditer(line))
    code = codes[0] if codes else None
    inches = re.search(r"(?<![\d.])2\.5(?!\d)(?!\s?[AVW]\b)\s?(?:\"|″|''|-?in(?:ch)?\b|mm\b)?", line, re.IGNORECASE)
    if code or re.search(r"\bM\.2\b", line, re.IGNORECASE):
        reading.facts["form"] = "M.2"
        if len({found[0] for found in codes}) < 2 or one_of(reading, "length_mm", [m2_length(found[0]) for found in codes], "mm"):
            _length(code, reading)
    elif inches:
        reading.facts["form"] = "2.5-inch"
        if inches[0].lower().endswith("mm"):
            reading.ask("2.5 mm taken for 2.5 inch: check the unit")
        _thickness(line, reading)
    else:
        reading.ask("no form on the label: M.2 with its length, or 2.5-inch with its thickness")


def _length(code: re.Match[str] | None, reading: Reading) -> None:
    if not code:
        reading.ask("no length code: measure the drive with a ruler")
        return
    length = m2_length(code[0])
    if length is None:
        reading.ask(f"{code[0]}: no M.2 drive is {code[1]} mm long (30, 42, 60, 80, 110): measure with a ruler")
    reading.facts["length_mm"] = length


def _thickness(line: str, reading: Reading) -> None:
    rest = DIAMETER.sub("", line)
    found = re.search(r"(?<![\d.])(\d{1,2}(?:\.\d)?)\s*(mm|in(?:ch)?|\")(?![a-z])", rest, re.IGNORECASE)
    if not found:
        reading.ask("no thickness: measure it (5, 7, 9.5, 12.5 or 15 mm)")
        return
    value = float(found[1])
    if found[2].lower() != "mm":
        reading.ask(f"{found[1]} {found[2]} of thickness: taken for mm, check the unit")
    if value in THICKNESSES_MM:
        reading.facts["thickness_mm"] = value
    else:
        reading.ask(f"{value:g} mm is no thickness of a 2.5-inch drive (5, 7, 9.5, 12.5, 15): measure it")


def _bus(line: str, reading: Reading) -> None:
    nvme, sata = re.search(r"NVMe|PCIe", line, re.IGNORECASE), re.search(r"\bSATA\b", line, re.IGNORECASE)
    if nvme and sata:
        reading.ask("the label names both SATA and NVMe: ask what the machine reports")
    elif nvme:
        reading.facts["bus"] = "NVMe"
        generations = re.findall(r"(?:gen(?:eration)?\.? ?|PCIe ?)([345])(?:\.0)?(?!\d)", line, re.IGNORECASE)
        lanes = re.search(r"\bx ?([124])\b", line, re.IGNORECASE)
        if one_of(reading, "generation", generations):
            reading.facts["generation"] = int(generations[0])
        if lanes:
            reading.facts["lanes"] = int(lanes[1])
    elif sata:
        reading.facts["bus"] = "SATA"
    else:
        reading.ask("no bus on the label: ask what the machine reports")
