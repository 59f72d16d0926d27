"""Every kind of list, by its name."""

from __future__ import annotations

from collections.abc import Mapping

from almanac.services.intake.machines.subject import Machines
from almanac.services.intake.parts.subject import Parts
from almanac.services.intake.purchases.subject import Purchases
from almanac.services.intake.readings.subject import Readings
from almanac.services.intake.subject import Subject
from almanac.services.intake.tickets.subject import Tickets

SUBJECTS: Mapping[str, Subject] = {subject.kind: subject for subject in (Machines(), Parts(), Readings(), Purchases(), Tickets())}
