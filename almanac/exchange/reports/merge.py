"""Several documents of one machine put together: each part once, with what any of them says of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields, replace
from typing import TypeVar

from almanac.core.workbench.reported import DriveSeen, ModuleSeen, PackSeen, Reported
from almanac.exchange.reports.seen import Seen

Part = TypeVar("Part", DriveSeen, PackSeen)
DIFFERS_GB = 0.5
ALIKE = 0.01
"""Two documents mean the same drive where its size differs by less: one counts in powers of 1024 and rounds."""


def together(seen: Sequence[Seen]) -> tuple[Reported, list[str]]:
    """One report of all documents, and what they say that does not go together.

    Parameters
    ----------
    seen : by document, in the order they were pasted

    Returns
    -------
    (Reported, list of str) : a drive is known again by serial, name or size. Of memory the document with the most modules is
    taken, never the sum of two that mean the same.
    """
    odd: list[str] = []
    modules = max((one.modules for one in seen), key=_worth, default=())
    memory_gb = _memory(seen, modules, odd)
    drives = _drives(seen, odd)
    packs = _packs([pack for one in seen for pack in one.packs])
    pack = packs[0] if len(packs) == 1 else PackSeen()
    return (
        Reported(
            memory_gb=memory_gb,
            usable_gb=next((one.usable_gb for one in seen if one.usable_gb is not None), None),
            drives_gb=tuple(drive.gb for drive in drives if drive.gb is not None),
            pack_design_wh=pack.design_wh,
            pack_full_wh=pack.full_wh,
            charging=pack.charging,
            fans_rpm=max((one.fans_rpm for one in seen), key=len, default=()),
            memory_prompts=max((one.memory_prompts for one in seen), default=0),
            modules=modules,
            drives=tuple(drives),
            packs=tuple(packs),
            hottest_c=max((one.hottest_c for one in seen if one.hottest_c is not None), default=None),
        ),
        odd,
    )


def _memory(seen: Sequence[Seen], modules: Sequence[ModuleSeen], odd: list[str]) -> float | None:
    """What is installed: as a document states it, soldered memory with it, else the sum of the modules."""
    stated = [(one.form, one.memory_gb) for one in seen if one.memory_gb is not None]
    sums = [(one.form, sum(module.gb for module in one.modules)) for one in seen if one.modules and one.memory_gb is None]
    for said in (stated, sums):
        other = [(form, total) for form, total in said[1:] if abs(total - said[0][1]) > DIFFERS_GB]
        odd += [f"{form} says {total:g} GB of memory, {said[0][0]} {said[0][1]:g} GB" for form, total in other]
    if stated:
        return stated[0][1]
    return sum(module.gb for module in modules) if modules else None


def _worth(modules: tuple[ModuleSeen, ...]) -> tuple[int, int]:
    return len(modules), sum(bool(module.serial) + bool(module.generation) + bool(module.mt_s) for module in modules)


def _drives(seen: Sequence[Seen], odd: list[str]) -> list[DriveSeen]:
    """Drives of every document, each once; a log without a name belongs to the only drive of its bus, or to none."""
    known: list[DriveSeen] = []
    nameless = []
    for one in seen:
        taken: set[int] = set()
        for drive in one.drives:
            if drive.gb is None and not drive.serial and not drive.name:
                nameless.append(drive)
                continue
            place = next((place for place, other in enumerate(known) if place not in taken and _same_drive(other, drive)), None)
            if place is None:
                known.append(drive)
                taken.add(len(known) - 1)
            else:
                known[place] = _filled(known[place], drive)
                taken.add(place)
    for drive in nameless:
        places = [place for place, other in enumerate(known) if other.bus in ("", drive.bus)]
        if len(places) == 1:
            known[places[0]] = _filled(known[places[0]], drive)
        else:
            odd.append(f"a log names no drive, and {'several' if places else 'none'} could be meant: its wear is left out")
    return known


def _same_drive(one: DriveSeen, other: DriveSeen) -> bool:
    if one.serial and other.serial:
        return one.serial.upper() == other.serial.upper()
    if one.name and other.name:
        return one.name == other.name or one.name.startswith(other.name + "n") or other.name.startswith(one.name + "n")
    return one.gb is not None and other.gb is not None and abs(one.gb - other.gb) <= ALIKE * max(one.gb, other.gb)


def _packs(packs: Sequence[PackSeen]) -> list[PackSeen]:
    known: list[PackSeen] = []
    for pack in packs:
        place = next((place for place, other in enumerate(known) if _same_pack(other, pack)), None)
        if place is None:
            known.append(pack)
        else:
            known[place] = _filled(known[place], pack)
    return known


def _same_pack(one: PackSeen, other: PackSeen) -> bool:
    if one.serial and other.serial:
        return one.serial.upper() == other.serial.upper()
    if one.design_wh is None or other.design_wh is None:
        return True
    return abs(one.design_wh - other.design_wh) <= ALIKE * max(one.design_wh, other.design_wh)


def _filled(one: Part, other: Part) -> Part:
    """What is known of a part, with what another document adds."""
    missing = {item.name: getattr(other, item.name) for item in fields(one) if getattr(one, item.name) in (None, "")}
    return replace(one, **missing)
