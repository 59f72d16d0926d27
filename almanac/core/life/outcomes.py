"""Findings of an incident line and what each means for rates and for stock (handbook of the method, section 1)."""

from __future__ import annotations

from enum import StrEnum

DEAD_ON_ARRIVAL_DAYS = 14
"""A failure this soon after fitting is dead on arrival; wear-out exposure starts after it."""


class Finding(StrEnum):
    """What an incident turned out to be, for one part of it."""

    CONFIRMED = "confirmed"
    OPEN = "open"
    NO_FAULT_FOUND = "no_fault_found"
    DAMAGE = "damage"
    DEAD_ON_ARRIVAL = "dead_on_arrival"
    UPGRADE = "upgrade"
    PREVENTIVE = "preventive"


FAULT_CLAIMS = frozenset({Finding.CONFIRMED, Finding.OPEN})
"""Findings that count, fully or in part, as a wear-out failure."""

SETTLED_CLAIMS = frozenset({Finding.CONFIRMED, Finding.NO_FAULT_FOUND, Finding.DAMAGE, Finding.DEAD_ON_ARRIVAL})
"""Findings a complaint can settle to; their confirmed share weighs the open ones."""


class Bucket(StrEnum):
    """Where a physical part of a shelf is counted."""

    ON_HAND = "on_hand"
    HARVESTED = "harvested"
    QUARANTINE = "quarantine"
    SCRAPPED = "scrapped"
    RETURNED = "returned"
    UNDER_WAY = "under_way"
    ISSUED = "issued"


REMOVED_TO: dict[Finding, Bucket] = {
    Finding.CONFIRMED: Bucket.SCRAPPED,
    Finding.OPEN: Bucket.QUARANTINE,
    Finding.NO_FAULT_FOUND: Bucket.HARVESTED,
    Finding.DAMAGE: Bucket.SCRAPPED,
    Finding.DEAD_ON_ARRIVAL: Bucket.RETURNED,
    Finding.UPGRADE: Bucket.HARVESTED,
    Finding.PREVENTIVE: Bucket.HARVESTED,
}
"""Bucket the removed unit goes to. A harvested part is not stock until its test (rule N7)."""
