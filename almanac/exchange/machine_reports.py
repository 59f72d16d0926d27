"""Machine reports as text: the documented JSON, or the JSON tree and plain text of common hardware listings."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from almanac.core.workbench.acceptance import Reported

LARGEST = 2_000_000
BYTES_PER_GB_MEMORY = 2**30
BYTES_PER_GB_DRIVE = 10**9
SIZE = re.compile(r"^\s*Size:\s*(\d+)\s*(MB|GB)\s*$", re.MULTILINE)
FULL_DESIGN = re.compile(r"^\s*energy-full-design:\s*([\d.]+)\s*Wh", re.MULTILINE)
FULL = re.compile(r"^\s*energy-full:\s*([\d.]+)\s*Wh", re.MULTILINE)
STATE = re.compile(r"^\s*state:\s*(\S+)", re.MULTILINE)
SPEED = re.compile(r"^\s*fan\d*:\s*(\d+)\s*RPM", re.MULTILINE | re.IGNORECASE)


class ReportFault(Exception):
    """The text is no report that is understood; the message says what was wanted."""


class _Strict(BaseModel):
    model_config = ConfigDict(extra="ignore")


class _Memory(_Strict):
    installed_gb: float | None = Field(None, ge=0, le=4096)
    usable_gb: float | None = Field(None, ge=0, le=4096)
    changed_prompts: int = Field(0, ge=0, le=99)


class _Drive(_Strict):
    gb: float = Field(ge=0, le=200_000)


class _Pack(_Strict):
    design_wh: float | None = Field(None, ge=0, le=500)
    full_wh: float | None = Field(None, ge=0, le=500)
    charging: bool | None = None


class _Fan(_Strict):
    rpm: float = Field(ge=0, le=30_000)


class MachineReport(_Strict):
    """The documented form, docs/machine-report.md."""

    machine_report: int = Field(ge=1, le=1)
    memory: _Memory = _Memory()
    drives: list[_Drive] = []
    pack: _Pack | None = None
    fans: list[_Fan] = []


@dataclass(frozen=True)
class Found:
    """A report and the form it came in."""

    report: Reported
    form: str


def read_report(text: str) -> Found:
    """A report from text.

    Raises
    ------
    ReportFault : it is empty, too long, or of no form that is understood
    """
    if not text.strip():
        raise ReportFault("the report is empty: paste what the machine says")
    if len(text) > LARGEST:
        raise ReportFault("the report is longer than 2 MB: paste memory, drives, pack and fans only")
    if text.lstrip()[0] in "{[":
        return _from_json(text)
    return _from_text(text)


def _from_json(text: str) -> Found:
    try:
        document = json.loads(text)
    except json.JSONDecodeError as error:
        raise ReportFault(f"line {error.lineno}, column {error.colno}: no JSON: {error.msg}") from error
    if isinstance(document, dict) and "machine_report" in document:
        return Found(_documented(document), "machine report")
    tree = [document] if isinstance(document, dict) else document
    if isinstance(tree, list) and any(isinstance(item, dict) and "class" in item for item in tree):
        return Found(_from_tree([item for item in tree if isinstance(item, dict)]), "hardware tree")
    raise ReportFault('JSON with "machine_report": 1, or a tree of entries with "class", was wanted')


def _documented(document: Mapping[str, Any]) -> Reported:
    try:
        found = MachineReport.model_validate(document)
    except ValidationError as error:
        first = error.errors()[0]
        raise ReportFault(f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}") from error
    pack = found.pack or _Pack()
    return Reported(
        memory_gb=found.memory.installed_gb,
        usable_gb=found.memory.usable_gb,
        drives_gb=tuple(drive.gb for drive in found.drives),
        pack_design_wh=pack.design_wh,
        pack_full_wh=pack.full_wh,
        charging=pack.charging,
        fans_rpm=tuple(fan.rpm for fan in found.fans),
        memory_prompts=found.memory.changed_prompts,
    )


def _from_tree(tree: list[dict[str, Any]]) -> Reported:
    """A tree of entries with class, size in bytes and children: memory banks, disks, and a power entry in mWh."""
    entries = list(_walk(tree))
    banks = [entry for entry in entries if entry.get("class") == "memory" and str(entry.get("id", "")).startswith("bank")]
    memory = sum(_size(entry) for entry in banks)
    disks = [_size(entry) for entry in entries if entry.get("class") in ("disk", "storage") and _size(entry) > 0]
    packs = [entry for entry in entries if entry.get("class") == "power" and entry.get("capacity")]
    return Reported(
        memory_gb=memory / BYTES_PER_GB_MEMORY if memory else None,
        drives_gb=tuple(size / BYTES_PER_GB_DRIVE for size in disks),
        pack_design_wh=float(packs[0]["capacity"]) / 1000 if packs else None,
    )


def _walk(tree: list[dict[str, Any]], depth: int = 0) -> Iterator[dict[str, Any]]:
    for entry in tree:
        yield entry
        children = entry.get("children")
        if isinstance(children, list) and depth < 30:
            yield from _walk([child for child in children if isinstance(child, dict)], depth + 1)


def _size(entry: Mapping[str, Any]) -> float:
    size = entry.get("size")
    return float(size) if isinstance(size, int | float) and not isinstance(size, bool) else 0.0


def _from_text(text: str) -> Found:
    """Lines such as `Size: 16 GB` of memory devices, `energy-full-design: 60.1 Wh`, `fan1: 2400 RPM`."""
    sizes = [float(number) / (1024 if unit == "MB" else 1) for number, unit in SIZE.findall(text)]
    design, full, state = FULL_DESIGN.search(text), FULL.search(text), STATE.search(text)
    speeds = tuple(float(speed) for speed in SPEED.findall(text))
    if not (sizes or design or speeds):
        raise ReportFault("no line was understood: Size: 16 GB, energy-full-design: 60.1 Wh or fan1: 2400 RPM were looked for")
    report = Reported(
        memory_gb=sum(sizes) if sizes else None,
        pack_design_wh=float(design.group(1)) if design else None,
        pack_full_wh=float(full.group(1)) if full else None,
        charging=None if state is None else state.group(1) in ("charging", "fully-charged"),
        fans_rpm=speeds,
    )
    return Found(report, "listing")
