"""Rows of a machine list as they are understood."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from almanac.core.parts.kinds import Duty
from almanac.services.intake.columns import plain
from almanac.services.intake.machines.additions import Additions
from almanac.services.intake.machines.fields import FIELDS, means_gone
from almanac.services.intake.meanings import Meanings
from almanac.services.intake.settled import NEW, NOT_FOR_US
from almanac.services.intake.table import Line

USUAL_DUTY = Duty.OFFICE_HOURS.value
DUTY_WORDS = {
    Duty.ROUND_THE_CLOCK.value: ("24/7", "24x7", "24h", "round the clock", "always on", "rund um die uhr", "dauerbetrieb", "continu"),
    Duty.TWO_SHIFTS.value: ("two shifts", "2 shifts", "shift", "zweischicht", "2 schicht", "schicht", "deux equipes", "equipes"),
    Duty.OFFICE_HOURS.value: ("office", "office hours", "buero", "buerozeit", "normal", "bureau", "heures de bureau"),
}


@dataclass(frozen=True)
class Names:
    """What is on record: sites by code with their names, models by id with maker and name, tags."""

    sites: Mapping[str, str]
    models: Mapping[int, tuple[str, str]]
    tags: frozenset[str]

    def known(self) -> dict[str, set[str]]:
        """Plain names by field, to tell columns by what stands in them."""
        return {
            "tag": {plain(tag) for tag in self.tags},
            "site": {plain(name) for pair in self.sites.items() for name in pair},
            "model": {plain(name) for maker, model in self.models.values() for name in (model, f"{maker} {model}")},
            "maker": {plain(maker) for maker, _ in self.models.values()},
        }

    def model_meanings(self) -> dict[str, str]:
        """Ids of models by their plain names; by the model alone where one maker has it."""
        own = {plain(f"{maker} {model}"): str(number) for number, (maker, model) in self.models.items()}
        alone = Counter(plain(model) for _, model in self.models.values())
        return own | {plain(model): str(number) for number, (_, model) in self.models.items() if alone[plain(model)] == 1}

    def site_meanings(self) -> dict[str, str]:
        """Codes of sites by their plain codes and names."""
        return {plain(code): code for code in self.sites} | {plain(name): code for code, name in self.sites.items()}


@dataclass(frozen=True)
class MachineRow:
    """A row as it was understood; what it does not say is None. gone : its status says it is used no more
    model : its id, or the name a new one has until it gets one
    """

    line: int
    tag: str
    serial: str | None
    model: str | None
    site: str | None
    duty: str | None
    in_service_on: date | None
    retire_planned_on: date | None
    gone: bool
    status: str
    wrong: str = ""


def machine_row(line: Line, models: Meanings, sites: Meanings, additions: Additions) -> MachineRow | None:
    """One row; None for one that is none of ours."""
    maker, model = line.text("maker"), line.text("model")
    said = model if not maker or plain(model).startswith(plain(maker)) else f"{maker} {model}"
    meaning = models.of(line.number, said) if said else None
    place = sites.of(line.number, line.text("site")) if line.text("site") else None
    if NOT_FOR_US in (meaning, place):
        return None
    if place == NEW:
        place = additions.site(line.number, line.text("site"))
    if meaning == NEW:
        meaning = additions.model(line.number, maker, model, line.text("form"))
    status = line.text("status")
    return MachineRow(
        line=line.number,
        tag=line.text("tag"),
        serial=line.text("serial") or None,
        model=meaning,
        site=place,
        duty=_duty(line.text("duty")),
        in_service_on=line.day("in_service_on"),
        retire_planned_on=line.day("retire_planned_on"),
        gone=bool(status) and means_gone(status),
        status=status,
        wrong=line.unread(FIELDS),
    )


def _duty(text: str) -> str | None:
    said = plain(text)
    if not said:
        return None
    return next((duty for duty, words in DUTY_WORDS.items() if any(plain(word) in said for word in words)), None)
