"""A machine that answers: it reports what was planned, as real machines do with small differences, or with a fault."""

from __future__ import annotations

import json

from almanac.core.workbench.acceptance import ModulePlanned, Planned

FAULTS = ("memory", "drive", "pack", "fan")


def answer(planned: Planned, *, fault: str | None = None) -> str:
    """A report as JSON in the documented form.

    Parameters
    ----------
    planned : what a healthy machine has · fault : None, or which part misbehaves: memory, drive, pack or fan

    Returns
    -------
    str : JSON
    """
    memory = planned.memory_gb
    if fault == "memory" and memory is not None:
        memory /= 2
    drives = list(planned.drives_gb[1:] if fault == "drive" else planned.drives_gb)
    speeds = [2400.0 + 150.0 * place for place in range(planned.fans)]
    if fault == "fan" and speeds:
        speeds[-1] = 0.0
    buses = dict(zip(planned.drives_gb, planned.buses, strict=False))
    document = {
        "machine_report": 1,
        "memory": {
            "installed_gb": memory,
            "usable_gb": None if memory is None else round(memory * 0.985, 1),
            "changed_prompts": 1,
            "modules": [_module(module) for module in planned.modules[1 if fault == "memory" else 0 :] if module.gb],
        },
        "drives": [{"gb": round(size * 1.0002, 1), "bus": buses.get(size, "").split(" or ")[0]} for size in drives],
        "pack": _pack(planned.pack_wh, fault),
        "fans": [{"rpm": speed} for speed in speeds],
    }
    return json.dumps(document, indent=2)


def _module(module: ModulePlanned) -> dict[str, object]:
    return {"gb": module.gb, "generation": module.generation, "mt_s": module.mt_s}


def _pack(planned_wh: float | None, fault: str | None) -> dict[str, object] | None:
    if planned_wh is None:
        return None
    return {"design_wh": round(planned_wh * 0.99, 2), "full_wh": round(planned_wh * 0.97, 2), "charging": fault != "pack"}
