"""What a machine should report once its job is done: from what is fitted, with what the job put in."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.parts.answers import known
from almanac.core.parts.declared.words import fact_words
from almanac.core.parts.holding import held_as
from almanac.core.parts.kinds import Kind, Serviceability
from almanac.core.teardown.written import applies
from almanac.core.workbench.acceptance import ModulePlanned, Otherwise, Planned
from almanac.core.workbench.journal import Standing
from almanac.services.pages.library import read_library
from almanac.store import assets
from almanac.store.models import Asset, Job, Part, Position

FIGURES = {
    Kind.MEMORY: ("capacity_gb", "generation", "grade_mt_s"),
    Kind.SSD: ("capacity_gb", "bus"),
    Kind.BATTERY: ("energy_wh",),
}
"""What a report is accepted by, a kind."""


def planned_figures(session: Session, job: Job, standing: Standing) -> Planned:
    """What a machine should report by what was agreed; what nobody knows is left out.

    A figure is planned only when every part that adds to it is known: half a memory total would refuse a good machine.
    """
    asset = session.get_one(Asset, job.asset_id)
    positions = {row.key: row for row in assets.positions_of_model(session, asset.model_id)}
    fitted = parts_after(session, asset, standing)
    agreed = {**fitted, **agreed_parts(session, job, standing)}
    page = read_library(session).get(asset.model_id)
    drives = [(part, size) for part in agreed.values() if part.kind == Kind.SSD and (size := _number(part, "capacity_gb"))]
    modules = [part for part in agreed.values() if part.kind == Kind.MEMORY]
    return Planned(
        memory_gb=_memory(agreed, page.whole if page else {}, asset),
        modules=tuple(
            ModulePlanned(_number(part, "capacity_gb"), _text(part, "generation"), _number(part, "grade_mt_s")) for part in modules
        ),
        buses=tuple(_text(part, "bus") for part, _ in drives),
        drives_gb=tuple(size for _, size in drives),
        pack_wh=_pack(agreed),
        fans=sum(part.kind == Kind.FAN for part in agreed.values()),
        otherwise=tuple(
            Otherwise(positions[key].label, part.number, fitted[key].number, _differs(part, fitted[key]))
            for key, part in agreed.items()
            if key in standing.swaps and key in fitted and fitted[key].id != part.id
        ),
    )


def agreed_parts(session: Session, job: Job, standing: Standing) -> dict[str, Part]:
    """The part that was agreed for each position the job swapped, by its key: what was said, else the same again.

    Of an upgrade, and of a position that was empty, nothing was agreed but what went in, unless it was said.
    """
    held = {} if job.purpose == "upgrade" else assets.open_tenures(session, job.asset_id)
    before = {tenure.position_id: part for tenure, part, _ in held.values()}
    found: dict[str, Part] = {}
    for row in assets.positions_of_model(session, job.model_id):
        if row.key not in standing.swaps:
            continue
        said = standing.agreed_parts.get(row.key)
        part = assets.part_by_number(session, said) if said else before.get(row.id)
        if part is not None:
            found[row.key] = part
    return found


def _differs(agreed: Part, fitted: Part) -> tuple[str, ...]:
    """In which figures a part that went in is not what was agreed; one that nobody knows differs from none."""
    found = []
    for name in FIGURES.get(Kind(agreed.kind), ()):
        wanted, got = known(agreed.facts, name), known(fitted.facts, name)
        if wanted and got and wanted.value != got.value:
            found.append(
                f"{fact_words(Kind(agreed.kind), name, wanted.value)} agreed, {fact_words(Kind(agreed.kind), name, got.value)} fitted"
            )
    return tuple(found)


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
        if entry["kind"] == Kind.MEMORY and held_as(entry) == Serviceability.SOLDERED and applies(entry.get("when"), options):
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


def _text(part: Part, name: str) -> str:
    fact = known(part.facts, name)
    if not fact:
        return ""
    return " or ".join(map(str, fact.value)) if isinstance(fact.value, list | tuple) else str(fact.value)
