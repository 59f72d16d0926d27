"""The files an import reads: their columns, what each takes, and an example row. Templates and documentation come from here."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core.life.outcomes import Finding
from almanac.core.parts.kinds import Duty, Environment, Kind, Serviceability
from almanac.exchange.tables import write_csv
from almanac.services.importing import cells
from almanac.store.models.catalog import FORMS


@dataclass(frozen=True)
class Column:
    """One column. An optional one may be missing or empty and then has the default."""

    name: str
    parse: cells.Parser
    example: str
    help: str
    required: bool = True
    default: object = None


@dataclass(frozen=True)
class FileSpec:
    """One file and the columns that name a row."""

    name: str
    about: str
    key: tuple[str, ...]
    columns: tuple[Column, ...]

    @property
    def required(self) -> list[str]:
        return [column.name for column in self.columns if column.required]

    def template(self) -> bytes:
        """The header with one example row."""
        return write_csv([column.name for column in self.columns], [[column.example for column in self.columns]])


def _optional(name: str, parse: cells.Parser, example: str, about: str, default: object = None) -> Column:
    return Column(name, parse, example, about, required=False, default=default)


LONG = 10_000_000
FILES: dict[str, FileSpec] = {
    spec.name: spec
    for spec in (
        FileSpec(
            "sites",
            "places with a shelf; exactly one is the depot deliveries go to",
            ("code",),
            (
                Column("code", cells.words, "ELD", "short name used in the other files"),
                Column("name", cells.words, "Eldermouth", "full name"),
                Column("environment", cells.choice(Environment), "office", "what the air does to a machine: office, salt or dust"),
                Column("log_began_on", cells.day, "2021-11-01", "first day incidents were written down there"),
                _optional("time_zone", cells.words, "UTC", "IANA name", "UTC"),
                _optional("depot", cells.yes_no, "yes", "yes for the one depot", False),
                _optional("lane_days", cells.whole(0, 365), "", "days a part takes from the depot; empty: nobody knows yet"),
                _optional("departs", cells.weekdays, "Mon Thu", "weekdays it leaves the depot; empty: as often as usual", ()),
                _optional("carrier", cells.words, "van", "what carries it, in the company's own word", "boat"),
            ),
        ),
        FileSpec(
            "parts",
            "what is ordered and kept",
            ("number",),
            (
                Column("number", cells.words, "OB-P14-60", "the number it is ordered by"),
                Column("name", cells.words, "Pack P14, 15.2 V, 60 Wh", "what people call it"),
                Column("kind", cells.choice(Kind), "battery", "memory, ssd, battery, fan or another kind"),
                Column("supplier", cells.words, "Ostrel Spares", "who sells it"),
                Column("lead_time", cells.lead_time, "18:0.25;21:0.75", "the supplier's days, with weights; the same on all its rows"),
                Column("price", cells.price, "61.00", "of one part, in the company's currency"),
                _optional("pack", cells.whole(1, 100000), "4", "parts in a pack", 1),
                _optional("minimum_order", cells.whole(1, 100000), "4", "fewest parts sold at once", 1),
                _optional("price_breaks", cells.price_breaks, "10:58.50;50:55", "price of one where as many are bought at a time", []),
                _optional("shelf_life_days", cells.whole(1, 20000), "540", "days until it expires on the shelf"),
                _optional("end_of_supply_on", cells.day, "", "last day it can be bought"),
                _optional("warranty_days", cells.whole(1, 20000), "730", "days the supplier stands for it, from the day it was fitted"),
                _optional("facts", cells.facts, "voltage_v=15.2; energy_wh=60", "what decides where it fits; names in docs/facts.md", {}),
            ),
        ),
        FileSpec(
            "models",
            "device models, one row a position",
            ("maker", "model", "position"),
            (
                Column("maker", cells.words, "Ostrel", "maker"),
                Column("model", cells.words, "Packet 14", "model name, without the maker"),
                Column("form", cells.choice(FORMS), "notebook", "notebook, convertible, all_in_one, mini_pc or workstation"),
                Column("position", cells.words, "battery", "key of the position, the same for ever"),
                Column("kind", cells.choice(Kind), "battery", "what the position takes"),
                _optional("family", cells.words, "Packet", "family of models"),
                _optional("label", cells.words, "Battery", "what people call the position"),
                _optional("serviceability", cells.choice(Serviceability), "screwed", "how the part is held", "unknown"),
                _optional("ordered_unit", cells.words, "", "what is ordered instead, where the part is not orderable alone"),
                _optional("fits", cells.names, "OB-P14-60", "part numbers that fit, the one delivered first; separated by ;", ()),
            ),
        ),
        FileSpec(
            "assets",
            "machines of the fleet",
            ("tag",),
            (
                Column("tag", cells.words, "SK-0417", "asset tag"),
                Column("maker", cells.words, "Ostrel", "maker"),
                Column("model", cells.words, "Packet 14", "model name"),
                Column("site", cells.words, "ELD", "code of the site where it stands"),
                Column("duty", cells.choice(Duty), "office_hours", "office_hours, two_shifts or round_the_clock"),
                Column("in_service_on", cells.day, "2023-02-14", "first day of use"),
                _optional("serial", cells.words, "", "serial number"),
                _optional("retire_planned_on", cells.day, "2028-09-30", "day it is to be retired"),
                _optional("retired_on", cells.day, "", "day it was retired"),
            ),
        ),
        FileSpec(
            "tenures",
            "which part was in which position of which machine, from when until when",
            ("tag", "position", "fitted_on"),
            (
                Column("tag", cells.words, "SK-0417", "asset tag"),
                Column("position", cells.words, "battery", "key of the position"),
                Column("part", cells.words, "OB-P14-60", "part number"),
                Column("fitted_on", cells.day, "2023-02-14", "day it was fitted"),
                _optional("removed_on", cells.day, "2026-03-09", "day it came out; empty while it is in"),
                _optional("age_at_fitting_days", cells.whole(0, 20000), "0", "days it had served before", 0),
                _optional("serial", cells.words, "", "serial of the part"),
                _optional(
                    "fitted_until",
                    cells.day,
                    "",
                    "where nobody knows when it was fitted, the last day it may have been",
                ),
            ),
        ),
        FileSpec(
            "incidents",
            "what broke; a row ends the tenure that was removed on its day",
            ("tag", "position", "occurred_on"),
            (
                Column("tag", cells.words, "SK-0417", "asset tag"),
                Column("position", cells.words, "battery", "key of the position"),
                Column("occurred_on", cells.day, "2026-03-09", "day it happened"),
                Column("finding", cells.choice(Finding), "confirmed", "what it turned out to be"),
                Column("reason", cells.words, "runs twenty minutes", "what was noticed"),
                _optional("minutes", cells.whole(0, 10000), "25", "time at the bench"),
                _optional("note", cells.words, "", "anything else", ""),
                _optional("last_good_on", cells.day, "", "of a failure that a check found: day the part was last seen in order"),
            ),
        ),
        FileSpec(
            "readings",
            "what packs could still hold, or drives had left; three readings on different days tell a trend that the forecast follows",
            ("tag", "position", "read_on"),
            (
                Column("tag", cells.words, "SK-0417", "asset tag"),
                Column("position", cells.words, "battery", "key of the position"),
                Column("read_on", cells.day, "2026-02-02", "day it was read"),
                Column("full", cells.price, "48.20", "full capacity that day, Wh; of a drive its life left, %"),
                Column("design", cells.price, "60.00", "capacity it was made for, Wh; of a drive 100"),
            ),
        ),
        FileSpec(
            "stock",
            "what stands on the shelves, one row a lot",
            ("site", "part", "made_on"),
            (
                Column("site", cells.words, "ELD", "code of the site"),
                Column("part", cells.words, "OB-P14-60", "part number"),
                Column("on_hand", cells.whole(0, LONG), "4", "parts counted"),
                _optional("made_on", cells.day, "2026-01-12", "day of manufacture, for shelf life"),
            ),
        ),
    )
}
