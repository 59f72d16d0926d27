"""What a machine should report once its job is done: from what is fitted, with what the job put in."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.parts.answers import known
from almanac.core.parts.kinds import Kind
from almanac.core.teardown.operations import applies
from almanac.core.workbench.acceptance import Planned
from almanac.core.workbench.journal import Standing
from almanac.services.pages.library import read_library
from almanac.store import assets
from almanac.store.models import Asset, Part, Position


def planned_figures(session: Session, asset: Asset, standing: Standing) -> Planned:
    """Memory, drives, pack and fans a machine should report; what nobody knows is left out.

    A figure is planned only when every part that adds to it is known: half a memory total would refuse a good machine.
    """
    fitted = parts_after(session, asset, standing)
    page = read_library(session).get(asset.model_id)
    return Planned(
        memory_gb=_memory(fitted, page.whole if page else {}, asset),
        drives_gb=tuple(size for part in fitted.values() if part.kind == Kind.SSD and (size := _number(part, "capacity_gb"))),
        pack_wh=_pack(fitted),
        fans=sum(part.kind == Kind.FAN for part in fitted.values()),
    )


def parts_after(session: Session, asset: Asset, standing: Standing) -> dict[str, Part]:
    """What is in each position once the job's swaps are done, by the position's key."""
    positions: dict[int, Position] = {row.id: row for row in assets.positions_of_model(session, asset.model_id)}
    fitted = {positions[place].key: part for place, (_, part, _) in assets.open_tenures(session, asset.id).items() if place in positions}
    for key, swap in standing.swaps.items():
        part = assets.part_by_number(session, str(swap["part_number"])) if swap.get("part_number") else None
        if part is not None:
            fitted[key] = part
    return fitted


def _memory(fitted: Mapping[str, Part], page: Mapping[str, Any], asset: Asset) -> float | None:
    """Modules fitted and what is soldered; None where a slot's content or the soldered size is not known."""
    modules = [_number(part, "capacity_gb") for part in fitted.values() if part.kind == Kind.MEMORY]
    soldered = []
    options = {name: str(value) for name, value in asset.options.items()}
    for entry in page.get("positions") or []:
        if entry["kind"] == Kind.MEMORY and entry.get("serviceability") == "soldered" and applies(entry.get("when"), options):
            size = known(entry.get("fitted") or {}, "capacity_gb")
            soldered.append(float(size.value) if size else None)
    sizes = [*modules, *soldered]
    if not sizes or any(size is None for size in sizes):
        return None
    return float(sum(size for size in sizes if size is not None))


def _pack(fitted: Mapping[str, Part]) -> float | None:
    packs = [_number(part, "energy_wh") for part in fitted.values() if part.kind == Kind.BATTERY]
    return packs[0] if len(packs) == 1 else None


def _number(part: Part, name: str) -> float | None:
    fact = known(part.facts, name)
    return float(fact.value) if fact else None
