"""What a line rests on, as a key: same log, same fleet, same shelves, same settings, same answer.

The key holds the rows themselves, not a digest, so two different states can never be taken for one another. A new event
changes the key of its kind only; a stock move that of its part only.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterable
from typing import Any

from almanac.services.outlook.inputs import Inputs
from almanac.store.models import Part


class Content:
    """Keys for the parts of one set of inputs."""

    def __init__(self, inputs: Inputs) -> None:
        self.inputs = inputs
        self._kind_of = {part.id: part.kind for part in inputs.parts}
        self._company = self._company_key()
        self._kinds = self._kind_keys()
        self._balances = _by_first(inputs.balances.items())
        self._promised = _by_first(inputs.promised.items())

    def of(self, part: Part) -> Hashable:
        """Key of one stock part."""
        members = self.inputs.members(part.id)
        shelf = tuple(
            (member, self._balances.get(member), self._promised.get(member), tuple(self.inputs.lots.get(member, ()))) for member in members
        )
        orders = tuple(line for line in self.inputs.open_lines if line.part_id in members)
        facts = (part.id, part.number, part.name, part.price, part.pack, part.minimum_order, part.shelf_life_days, part.supplier_id)
        return (self._company, self._kinds.get(part.kind), facts, shelf, orders)

    def _company_key(self) -> Hashable:
        inputs = self.inputs
        return (
            inputs.clock.today,
            inputs.site.id if inputs.site else None,
            tuple((key, repr(value)) for key, value in sorted(inputs.settings.entries.items())),
            tuple((site.id, site.code, site.name, site.environment) for site in inputs.sites),
            tuple(sorted(inputs.lanes.items())),
            tuple((supplier.id, repr(supplier.lead_time)) for supplier in inputs.suppliers.values()),
            tuple((p.action, p.model_id, p.site_id, p.duty, p.planned_on, p.quantity, p.part_id) for p in inputs.plans),
            tuple(sorted(inputs.assets.items())),
            repr(sorted(inputs.first_parts.items())),
        )

    def _kind_keys(self) -> dict[str, Hashable]:
        rows: dict[str, list[tuple[Any, ...]]] = defaultdict(list)
        for tenure in self.inputs.tenures:
            rows[self._kind_of.get(tenure.part_id, "")].append(tenure)
        for served in self.inputs.service:
            rows[self._kind_of.get(served.part_id, "")].append(served)
        return {kind: frozenset(group) for kind, group in rows.items()}


def _by_first(items: Iterable[tuple[tuple[int, int], Any]]) -> dict[int, Hashable]:
    """Values by (part, site) gathered under the part."""
    found: dict[int, list[tuple[int, str]]] = defaultdict(list)
    for (part, site), value in items:
        found[part].append((site, repr(value)))
    return {part: tuple(sorted(entries)) for part, entries in found.items()}
