"""Charts by name: as an address has them, and as a person reads them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from almanac.core.parts.declared.kinds import kind_name
from almanac.services.alarms.decided import day_number
from almanac.services.alarms.expected import ChartKey
from almanac.services.alarms.watch import made_on
from almanac.services.errors import NotFound
from almanac.services.outlook.inputs import Inputs
from almanac.services.words import day
from almanac.store.models import ChartScope

BETWEEN = "~"


@dataclass(frozen=True)
class NamedChart:
    """A chart of a kind. name : in an address"""

    kind: str
    key: ChartKey
    name: str


def name_of(inputs: Inputs, kind: str, key: ChartKey) -> str:
    """A chart's name in an address, without numbers of rows where people have words for them."""
    code = next((site.code for site in inputs.sites if site.id == key.site), "")
    made = made_on(key)
    fields = {
        ChartScope.POOL: (inputs.numbers.get(key.part or 0, ""), str(key.model), key.duty or "", key.air or ""),
        ChartScope.PART: (inputs.numbers.get(key.part or 0, ""),),
        ChartScope.SITE: (code,),
        ChartScope.LOT: (inputs.numbers.get(key.part or 0, ""), made.isoformat() if made else ""),
    }[ChartScope(key.scope)]
    return BETWEEN.join((kind, key.scope, *fields))


def chart_named(inputs: Inputs, name: str) -> NamedChart:
    """The chart an address names.

    Raises
    ------
    NotFound : it names none
    """
    kind, _, rest = name.partition(BETWEEN)
    scope, _, fields = rest.partition(BETWEEN)
    try:
        key = _key(inputs, ChartScope(scope), fields.split(BETWEEN))
    except (ValueError, KeyError, StopIteration):
        raise NotFound(f"nothing is watched under the name {name}") from None
    return NamedChart(kind, key, name)


def _key(inputs: Inputs, scope: ChartScope, fields: list[str]) -> ChartKey:
    if scope is ChartScope.SITE:
        (code,) = fields
        return ChartKey(scope.value, site=next(site.id for site in inputs.sites if site.code == code))
    part = {number: part for part, number in inputs.numbers.items()}[fields[0]]
    if scope is ChartScope.POOL:
        _, model, duty, air = fields
        return ChartKey(scope.value, part, int(model), duty, air)
    if scope is ChartScope.LOT:
        _, made = fields
        return ChartKey(scope.value, part, made=day_number(date.fromisoformat(made)))
    return ChartKey(scope.value, part)


def title_of(inputs: Inputs, kind: str, key: ChartKey) -> str:
    """What a chart watches, in words."""
    number = inputs.numbers.get(key.part or 0, "")
    if key.scope == ChartScope.SITE:
        site = next((site.name for site in inputs.sites if site.id == key.site), "a site")
        return f"{kind_name(kind)} at {site}"
    if key.scope == ChartScope.LOT:
        made = made_on(key)
        return f"{number}, lot of {day(made)}" if made else number
    if key.scope == ChartScope.PART:
        return f"{number}, all of them"
    model = inputs.models[key.model].full_name if key.model in inputs.models else "a model"
    return f"{number} in {model}, {(key.duty or '').replace('_', ' ')}, {key.air} air"
