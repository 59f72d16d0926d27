"""What a use case refuses, with the place of each fault, so that every edge can show it where it belongs."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class Fault:
    """One thing that is wrong: `field` names its place, `message` what was wanted and the cure."""

    field: str
    message: str


class Refused(Exception):
    """The request cannot be carried out; nothing was changed."""

    def __init__(self, *faults: Fault) -> None:
        self.faults = list(faults)
        super().__init__("; ".join(fault.message for fault in faults))


class NotFound(Exception):
    """What was asked for does not exist; the message names it."""


class Stale(Exception):
    """Somebody changed it since the screen was read; the message says what to do."""


@dataclass
class NeedsConfirmation(Exception):
    """The request is unusual; it is carried out when it comes again with `confirm` naming the question."""

    question: str
    message: str
    details: dict[str, str] = field(default_factory=dict)

    def __str__(self) -> str:
        return self.message
