"""Who acts on stock."""

from __future__ import annotations

import pytest

from almanac.services.clock import Clock
from almanac.services.stores.acts import Recorded


@pytest.fixture
def lead(clock: Clock) -> Recorded:
    return Recorded(clock, 1, is_lead=True)


@pytest.fixture
def technician(clock: Clock) -> Recorded:
    return Recorded(clock, 2, is_lead=False)
