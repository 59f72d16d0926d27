"""The documented form of a machine's report, docs/machine-report.md."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from almanac.core.workbench.reported import DriveSeen, ModuleSeen, PackSeen
from almanac.exchange.reports.seen import Seen


class DocumentedFault(Exception):
    """The document does not follow the form; the message names the place."""


class _Lenient(BaseModel):
    model_config = ConfigDict(extra="ignore")


class _Module(_Lenient):
    gb: float = Field(gt=0, le=4096)
    slot: str = Field("", max_length=80)
    generation: str = Field("", max_length=20)
    mt_s: float | None = Field(None, gt=0, le=20_000)
    running_mt_s: float | None = Field(None, gt=0, le=20_000)
    serial: str = Field("", max_length=80)


class _Memory(_Lenient):
    installed_gb: float | None = Field(None, ge=0, le=4096)
    usable_gb: float | None = Field(None, ge=0, le=4096)
    changed_prompts: int = Field(0, ge=0, le=99)
    modules: list[_Module] = Field([], max_length=64)


class _Drive(_Lenient):
    gb: float = Field(ge=0, le=200_000)
    name: str = Field("", max_length=80)
    bus: Literal["", "NVMe", "SATA"] = ""
    serial: str = Field("", max_length=80)
    left_percent: float | None = Field(None, ge=0, le=100)
    hours: float | None = Field(None, ge=0)
    failing: bool | None = None


class _Pack(_Lenient):
    design_wh: float | None = Field(None, ge=0, le=500)
    full_wh: float | None = Field(None, ge=0, le=500)
    charging: bool | None = None
    cycles: int | None = Field(None, ge=0, le=100_000)
    serial: str = Field("", max_length=80)


class _Fan(_Lenient):
    rpm: float = Field(ge=0, le=30_000)


class _Report(_Lenient):
    machine_report: int = Field(ge=1, le=1)
    memory: _Memory = _Memory()
    drives: list[_Drive] = Field([], max_length=64)
    pack: _Pack | None = None
    fans: list[_Fan] = Field([], max_length=64)
    hottest_c: float | None = Field(None, gt=0, lt=150)


def documented(document: Mapping[str, Any]) -> Seen:
    """A report in the documented form.

    Raises
    ------
    DocumentedFault : a field out of its range, with its place
    """
    try:
        found = _Report.model_validate(document)
    except ValidationError as error:
        first = error.errors()[0]
        raise DocumentedFault(f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}") from error
    return Seen(
        "machine report",
        modules=tuple(ModuleSeen(**module.model_dump()) for module in found.memory.modules),
        drives=tuple(DriveSeen(**drive.model_dump()) for drive in found.drives),
        packs=(PackSeen(**found.pack.model_dump()),) if found.pack else (),
        fans_rpm=tuple(fan.rpm for fan in found.fans),
        memory_gb=found.memory.installed_gb,
        usable_gb=found.memory.usable_gb,
        memory_prompts=found.memory.changed_prompts,
        hottest_c=found.hottest_c,
    )
