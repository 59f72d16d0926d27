"""What machines without a record may hold: in no rate and in no demand, so shown beside both as a range (rule N1)."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.core.demand.unrecorded import Spread, spread_units
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.answers.readings import Reading, read
from almanac.services.outlook.inputs import Inputs
from almanac.store import catalog, unrecorded

KINDS = [kind.value for kind in FORECAST_KINDS]


@dataclass(frozen=True)
class Unrecorded:
    """Machines in service of which nothing of some kind is on record, by site, and the units of each part they may hold."""

    machines: dict[int, int]
    units: dict[tuple[int, int], Spread]

    def machines_at(self, sites: set[int]) -> int:
        """Machines at some sites that lack a record of one kind or more."""
        return sum(count for site, count in self.machines.items() if site in sites)

    def units_of(self, part_id: int, sites: set[int]) -> Spread:
        """Units of a stock part that those at some sites may hold."""
        return sum((spread for (part, site), spread in self.units.items() if part == part_id and site in sites), Spread())


def read_unrecorded(session: Session, inputs: Inputs) -> Unrecorded:
    """Machines without a record, and what they may hold going by machines of their model that have one."""
    asked = Reading[Unrecorded]("machines without a record", "1", {"day": inputs.clock.today.isoformat()}, Unrecorded)
    return read(session, asked, lambda: _read(session, inputs))


def _read(session: Session, inputs: Inputs) -> Unrecorded:
    groups = unrecorded.bare_groups(session, kinds=KINDS, as_of=inputs.clock.today)
    machines: dict[int, int] = defaultdict(int)
    units: dict[tuple[int, int], Spread] = defaultdict(Spread)
    models = sorted({group.model_id for group in groups})
    held = _held(session, inputs, models)
    shares = _shares(session, inputs, models)
    for group in groups:
        machines[group.site_id] += group.machines
        for kind in group.kinds:
            share = shares.get((group.model_id, kind), 1.0) if kind in group.unsure else 1.0
            for part, kept in held.get((group.model_id, kind), {}).items():
                sure = kept.seen and kind not in group.unsure
                units[part, group.site_id] += spread_units(group.machines, kept.by_units, kept.of_machines, share=share, sure=sure)
    return Unrecorded(dict(machines), dict(units))


@dataclass(frozen=True)
class HeldPart:
    """Machines by the units of one part they hold, of how many; `seen` in machines, not taken from the model's page."""

    by_units: Mapping[int, int]
    of_machines: int
    seen: bool = True


Held = dict[tuple[int, str], dict[int, HeldPart]]


def _held(session: Session, inputs: Inputs, models: list[int]) -> Held:
    """By model and kind: how many recorded machines hold how many units of each part; as delivered where none is on record."""
    found: Held = defaultdict(dict)
    for row in unrecorded.held_units(session, models=models, kinds=KINDS, group=inputs.group, as_of=inputs.clock.today):
        holding = found[row.model_id, row.kind].get(row.part_id, HeldPart({}, row.of_machines))
        found[row.model_id, row.kind][row.part_id] = HeldPart({**holding.by_units, row.units: row.machines}, row.of_machines)
    for model in models:
        listed = _as_listed(session, inputs, model)
        found.update({(model, kind): parts for kind, parts in listed.items() if (model, kind) not in found})
    return found


def _as_listed(session: Session, inputs: Inputs, model: int) -> dict[str, dict[int, HeldPart]]:
    """By kind, what the model's page lists first in each position."""
    kind_of, units = {part.id: part.kind for part in inputs.parts}, Counter[int]()
    for part, count in catalog.first_listed_parts(session, model).items():
        units[inputs.group.get(part, part)] += count
    found: dict[str, dict[int, HeldPart]] = defaultdict(dict)
    for part, count in units.items():
        if kind := kind_of.get(part):
            found[kind][part] = HeldPart({count: 1}, 1, seen=False)
    return found


def _shares(session: Session, inputs: Inputs, models: list[int]) -> dict[tuple[int, str], float]:
    """Share of a model's machines that take a unit of a kind, among those whose options tell."""
    rows = unrecorded.known_options(session, models=models, kinds=KINDS, as_of=inputs.clock.today)
    return {(row.model_id, row.kind): row.with_it / (row.with_it + row.without) for row in rows if row.with_it + row.without}
