"""What a line rests on, as a key: same log, same fleet, same shelves, same settings, same answer.

A new event changes the key of its kind only; a stock move that of its part only. Keys are digests of the rows themselves.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from almanac.services.outlook.inputs import Inputs
from almanac.services.remembered import digest
from almanac.store.models import Part

OF_LAWS = {"school", "worn_share", "spent_share"}
"""Settings that laws of demand rest on; the others weigh what follows from them."""
OF_STANDING = sorted(OF_LAWS | {"review_days", "floor"})
"""Settings that a line rests on beside its target."""


class Content:
    """Keys for the parts of one set of inputs."""

    def __init__(self, inputs: Inputs) -> None:
        self.inputs = inputs
        self._kind_of = {part.id: part.kind for part in inputs.parts}
        self._standing: dict[int, bytes] = {}
        self._company = self._company_key()
        self._kinds = inputs.lived.by_kind(self._kind_of, inputs.group)
        self._balances = _by_first(inputs.balances.items())
        self._promised = _by_first(inputs.promised.items())
        self._lots = _by_first(inputs.lots.items())

    def of(self, part: Part) -> bytes:
        """Key of one stock part's line."""
        return digest((self.besides_target(part), self._setting("target", part)))

    def besides_target(self, part: Part) -> bytes:
        """Key of what no target changes of a stock part."""
        if part.id not in self._standing:
            self._standing[part.id] = self._standing_key(part)
        return self._standing[part.id]

    def _setting(self, name: str, part: Part) -> str:
        return repr(self.inputs.settings.value(name, kind=part.kind, part_number=part.number))

    def _standing_key(self, part: Part) -> bytes:
        members = self.inputs.members(part.id)
        shelf = [(member, self._balances.get(member), self._promised.get(member), self._lots.get(member)) for member in members]
        orders = [line for line in self.inputs.open_lines if line.part_id in members]
        facts = (
            part.id,
            part.number,
            part.name,
            part.price,
            part.pack,
            part.minimum_order,
            part.shelf_life_days,
            part.supplier_id,
            part.end_of_supply_on,
        )
        numbers = [self.inputs.numbers[member] for member in members]
        settings = [self._setting(name, part) for name in OF_STANDING]
        return digest((self._company, self._kinds.get(part.kind), settings, facts, numbers, shelf, orders))

    def laws(self, near_days: int, horizon_days: int) -> bytes:
        """Key of all laws of demand: what they rest on changes with the log and the fleet, not with shelves, prices or targets."""
        inputs = self.inputs
        entries = inputs.settings.entries.items()
        return digest(
            (
                inputs.clock.today,
                inputs.logged,
                inputs.site.id if inputs.site else None,
                near_days,
                horizon_days,
                sorted((key, repr(value[0])) for key, value in entries if key[2] in OF_LAWS),
                [(site.id, site.environment) for site in inputs.sites],
                [(p.action, p.model_id, p.site_id, p.duty, p.planned_on, p.quantity, p.part_id) for p in inputs.plans],
                sorted(inputs.assets.items()),
                inputs.weather,
                sorted(inputs.first_parts.items()),
                sorted(inputs.group.items()),
                [(part.id, part.number, part.kind) for part in inputs.parts],
                sorted(self._kinds.items()),
            )
        )

    def _company_key(self) -> bytes:
        inputs = self.inputs
        return digest(
            (
                inputs.clock.today,
                inputs.logged,
                inputs.site.id if inputs.site else None,
                # Laws reach as far ahead as the company's own review asks for.
                inputs.settings.value("review_days"),
                [(site.id, site.code, site.name, site.environment) for site in inputs.sites],
                sorted(inputs.lanes.items()),
                [(supplier.id, supplier.lead_time) for supplier in inputs.suppliers.values()],
                [(p.action, p.model_id, p.site_id, p.duty, p.planned_on, p.quantity, p.part_id) for p in inputs.plans],
                sorted(inputs.assets.items()),
                inputs.weather,
                sorted(inputs.first_parts.items()),
            )
        )


def _by_first(items: Iterable[tuple[tuple[int, int], Any]]) -> dict[int, list[tuple[int, str]]]:
    """Values by (part, site) gathered under the part."""
    found: dict[int, list[tuple[int, str]]] = defaultdict(list)
    for (part, site), value in items:
        found[part].append((site, repr(value)))
    return {part: sorted(entries) for part, entries in found.items()}
