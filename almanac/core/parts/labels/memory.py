"""Reading memory labels and reported speeds (rules M2, M3, M10)."""

from __future__ import annotations

import re

from almanac.core.errors import ContractError
from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.reading import Reading, capacity_gb, clean, one_of

GRADES: dict[int, tuple[int, ...]] = {
    3: (800, 1066, 1333, 1600, 1866, 2133),
    4: (1600, 1866, 2133, 2400, 2666, 2933, 3200),
    5: (3200, 3600, 4000, 4400, 4800, 5200, 5600, 6000, 6400, 6800, 7200, 8000),
}
"""Data rates in MT/s of each generation, as its standard names them."""
TRANSFERS_BELOW = {3: 4000, 4: 6000, 5: 10000}
"""Below this a module code counts MT/s, at or above it MB/s of a 64-bit bus, eight to the transfer."""
SIZES_GB: dict[int, tuple[int, ...]] = {3: (1, 2, 4, 8), 4: (4, 8, 16, 32), 5: (8, 12, 16, 24, 32, 48)}
"""Sizes of one module by generation, unless the company sets others (rule M10)."""
NEAR = 0.01
FORMS = {"S": "SO-DIMM", "U": "DIMM"}
CODE = re.compile(r"\bPC([345])(L?)[- ]?(\d{3,6})([A-Z]{0,2})(?:-([A-Z])[A-Z]?\d)?", re.IGNORECASE)
NAMED = re.compile(r"\b(LP)?DDR([345])(L?|X)(?![A-Z])(?:[- ]?(\d{3,5}))?", re.IGNORECASE)
SPEED = re.compile(r"(?<![\d.-])(\d{3,5})\s*(MHz|MT/?s)", re.IGNORECASE)


def sizes_of(generation: str | None) -> tuple[int, ...]:
    """Sizes of one module of a technology named such as DDR4; none for soldered ones."""
    digit = generation[3:4] if generation and generation.startswith("DDR") else ""
    return SIZES_GB.get(int(digit), ()) if digit.isdigit() else ()


def snap(generation: int, rate: float) -> int | None:
    """The grade within 1% of a data rate in MT/s, None where there is none near (rule M3).

    Parameters
    ----------
    generation : 3, 4 or 5 · rate : MT/s

    Returns
    -------
    int or None : MT/s

    Raises
    ------
    ContractError : another generation
    """
    if generation not in GRADES:
        raise ContractError(f"generation: one of 3, 4, 5 was wanted, got {generation}")
    nearest = min(GRADES[generation], key=lambda grade: abs(grade - rate))
    return nearest if abs(nearest - rate) <= NEAR * nearest else None


def grade_of_code(generation: int, number: int) -> int | None:
    """The data rate in MT/s a module code PCg-n means, None where no grade is near (rule M3)."""
    return snap(generation, number if number < TRANSFERS_BELOW[generation] else number / 8)


def repairs(generation: int, number: int) -> list[int]:
    """Codes that differ in one digit and name a grade: what a misread label may have said (rule M3)."""
    digits = str(number)
    tried = (int(digits[:i] + new + digits[i + 1 :]) for i in range(len(digits)) for new in "0123456789" if new != digits[i])
    return sorted({code for code in tried if len(str(code)) == len(digits) and grade_of_code(generation, code) is not None})


def repairs_of_grade(generation: int, number: int) -> list[int]:
    """Grades that a number is when one digit is missing, doubled or misread: 320 is 3200.

    Parameters
    ----------
    generation : 3, 4 or 5 · number : as written, > 0
    """
    said = str(number)

    def near(grade: int) -> bool:
        meant = str(grade)
        if len(meant) == len(said):
            return sum(one != other for one, other in zip(meant, said, strict=True)) == 1
        longer, shorter = (meant, said) if len(meant) > len(said) else (said, meant)
        return len(longer) - len(shorter) == 1 and any(longer[:i] + longer[i + 1 :] == shorter for i in range(len(longer)))

    return [grade for grade in GRADES[generation] if near(grade)]


def grade_of_report(generation: int, reported: int) -> tuple[int | None, str | None]:
    """The grade behind a machine's report, which may give the clock: half the data rate (rule M3).

    Parameters
    ----------
    generation : 3, 4 or 5 · reported : MHz or MT/s as the machine says

    Returns
    -------
    (MT/s or None, a question or None)
    """
    itself, doubled = snap(generation, reported), snap(generation, 2 * reported)
    if itself and doubled:
        return None, f"{reported} may be the grade {itself} or the clock of {doubled}: read the module's label"
    if doubled:
        return doubled, f"{reported} is the clock: the grade is {doubled} MT/s"
    if itself:
        return itself, None
    return None, f"no DDR{generation} grade is near {reported}: read the module's label"


def read_memory(text: str) -> Reading:
    """Technology, voltage, grade, form, size, ranks and suffix of a memory module's label.

    Parameters
    ----------
    text : the label as read, such as "8GB 1Rx8 PC4-3200AA-SA2-11"

    Returns
    -------
    Reading : kind memory with facts generation, low_voltage, grade_mt_s, form, capacity_gb, ranks, width, suffix
    """
    line, reading = clean(text), Reading(Kind.MEMORY)
    code, named = CODE.search(line), NAMED.search(line)
    if not _one_technology(line, reading):
        pass
    elif code:
        _from_code(code, reading)
    elif named:
        _from_name(named, line, reading)
    else:
        reading.ask("no memory technology is named: look for PC3, PC4, PC5 or DDR on the label")
    _form(line, code, reading)
    capacity_gb(line, reading)
    _organisation(line, reading)
    _size_check(reading)
    return reading


def _one_technology(line: str, reading: Reading) -> bool:
    """Whether a label names one generation and one grade at most; of two neither is taken."""
    codes, names = list(CODE.finditer(line)), list(NAMED.finditer(line))
    generations = [f"DDR{found[1]}" for found in codes] + [f"DDR{found[2]}" for found in names]
    grades = [grade for found in codes if (grade := grade_of_code(int(found[1]), int(found[3]))) is not None]
    one = not generations or one_of(reading, "generation", generations)
    return (not grades or one_of(reading, "grade_mt_s", grades, "MT/s")) and one


def _voltage(generation: int, low: bool, reading: Reading) -> None:
    """Rule M2: only DDR3 comes in two voltages, and a label without L leaves the voltage open."""
    reading.facts["generation"] = f"DDR{generation}"
    if generation == 3:
        reading.facts["low_voltage"] = True if low else None
        if low:
            reading.facts["generation"] = "DDR3L"
            return
        reading.ask("DDR3 without L: the voltage is unknown, 1.5 V or dual; find the L, 1.35 V or the spare code")
    elif low:
        reading.ask(f"“low voltage” said of DDR{generation} is dropped: that generation has one voltage")


def _from_code(code: re.Match[str], reading: Reading) -> None:
    generation, number = int(code[1]), int(code[3])
    _voltage(generation, bool(code[2]), reading)
    if code[4]:
        reading.facts["suffix"] = code[4].upper()
    _grade(generation, number, grade_of_code(generation, number), reading)


def _from_name(named: re.Match[str], line: str, reading: Reading) -> None:
    generation = int(named[2])
    if named[1]:
        reading.facts["generation"] = f"LPDDR{generation}{named[3].upper()}"
        reading.ask("LPDDR is soldered unless it is a compression module: ask for the form")
        return
    said_low = bool(named[3]) or bool(re.search(r"low[- ]?voltage|1\.35\s*V", line, re.IGNORECASE))
    _voltage(generation, said_low, reading)
    speed = SPEED.search(line)
    number = int(named[4] or (speed[1] if speed else 0))
    clock = bool(speed) and not named[4] and speed[2].lower() == "mhz" if speed else False
    if number and clock:
        grade, question = grade_of_report(generation, number)
        reading.facts["grade_mt_s"] = grade
        if question:
            reading.ask(question)
    elif number:
        _grade(generation, number, grade_of_code(generation, number), reading)
    else:
        reading.ask("no speed grade on the label")


def _grade(generation: int, number: int, grade: int | None, reading: Reading) -> None:
    if grade:
        reading.facts["grade_mt_s"] = grade
        return
    meant = sorted({grade_of_code(generation, code) or 0 for code in repairs(generation, number)})
    hint = f"one digit misread would make it {' or '.join(f'{rate} MT/s' for rate in meant)}" if meant else "nor near a code one digit off"
    reading.ask(f"no DDR{generation} grade is near {number}; {hint}. Read the label again")


def _form(line: str, code: re.Match[str] | None, reading: Reading) -> None:
    if re.search(r"SO-?DIMM", line, re.IGNORECASE):
        reading.facts["form"] = "SO-DIMM"
    elif re.search(r"CAMM", line, re.IGNORECASE):
        reading.facts["form"] = "compression module"
    elif code:
        letter = (code[5] or (code[4] if code[4] and len(code[4]) == 1 else "")).upper()
        if letter in FORMS:
            reading.facts["form"] = FORMS[letter]


def _organisation(line: str, reading: Reading) -> None:
    ranks = re.search(r"\b([1248])R\s?x\s?(4|8|16)\b", line, re.IGNORECASE)
    if ranks:
        reading.facts["ranks"], reading.facts["width"] = int(ranks[1]), int(ranks[2])


def _size_check(reading: Reading) -> None:
    size, generation = reading.facts.get("capacity_gb"), reading.facts.get("generation") or ""
    sizes = SIZES_GB.get(int(generation[3])) if generation.startswith("DDR") else None
    if size and sizes and size not in sizes:
        reading.ask(f"{size} GB is no usual size of a {generation} module ({', '.join(map(str, sizes))}): count again")
