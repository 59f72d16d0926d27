"""Units in service where options are not known, free slots, top-ups, fans of an asset: rules N1, M4, B7, C3."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.parts.exposure import exposure_years, spread_units
from almanac.core.parts.fits.battery import next_top_up
from almanac.core.parts.fits.memory import free_slots
from almanac.core.parts.fits.others import fans_of_asset
from almanac.core.parts.kinds import Verdict

counts = st.dictionaries(st.sampled_from(["one fan", "two fans", "none"]), st.integers(0, 200), min_size=1)


@given(counts, st.integers(0, 100))
def test_unknown_machines_stay_within_the_range(machines: dict[str, int], unknown: int) -> None:
    units = spread_units(machines, unknown, {"one fan": 1, "two fans": 2})
    assert units.low - 1e-9 <= units.expected <= units.high + 1e-9
    assert units.low >= units.known
    if unknown == 0:
        assert units.low == units.high == units.known
    low, expected, high = exposure_years(units, 2.5)
    assert low - 1e-9 <= expected <= high + 1e-9


def test_unknown_machines_are_spread_by_the_known_shares() -> None:
    units = spread_units({"small": 60, "large": 40}, 10, {"large": 1})
    assert (units.known, units.low, units.high) == (40, 40, 50)
    assert units.expected == pytest.approx(44)
    assert spread_units({"small": 0, "large": 0}, 10, {"large": 1}).expected == pytest.approx(5)
    with pytest.raises(ContractError):
        spread_units({}, 1, {})
    with pytest.raises(ContractError):
        spread_units({"a": 1}, -1, {})


def test_free_slots_come_from_sight() -> None:
    assert free_slots({"a": False, "b": True}).reason == "free: b"
    assert free_slots({"a": False}).verdict == Verdict.NO
    assert free_slots({"a": False, "b": None}).verdict == Verdict.UNKNOWN


def test_top_ups_come_due() -> None:
    assert [next_top_up(days) for days in (0, 100, 180, 400)] == [180, 80, 0, 0]
    with pytest.raises(ContractError):
        next_top_up(-1)


def test_fans_follow_the_assets_option_not_the_model() -> None:
    sides = {"one fan": ["left"], "two fans": ["left", "right"]}
    assert fans_of_asset(sides, "one fan", "right") == (0, 0)
    assert fans_of_asset(sides, "two fans", "right") == (1, 1)
    assert fans_of_asset(sides, None, "right") == (0, 1)
    assert fans_of_asset({}, None, "left") == (0, 0)
