"""What the machine reports against plan, and what jobs teach about minutes."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.parts.kinds import Verdict
from almanac.core.workbench.acceptance import Planned, compare, drive_accepted, memory_accepted, pack_accepted
from almanac.core.workbench.minutes import learnt_minutes
from almanac.core.workbench.reported import Reported, report_of


@pytest.mark.parametrize(
    ("report", "verdict"),
    [
        (Reported(memory_gb=31.6, usable_gb=31.4), Verdict.YES),
        (Reported(memory_gb=32.4), Verdict.YES),
        (Reported(memory_gb=32.5), Verdict.NO),
        (Reported(memory_gb=16), Verdict.NO),
        (Reported(memory_gb=32, usable_gb=27.1), Verdict.UNKNOWN),
        (Reported(memory_gb=32, usable_gb=27.2), Verdict.YES),
        (Reported(memory_gb=32, memory_prompts=1), Verdict.YES),
        (Reported(memory_gb=32, memory_prompts=2), Verdict.NO),
        (Reported(), Verdict.UNKNOWN),
    ],
)
def test_memory_is_accepted_within_half_a_gigabyte(report: Reported, verdict: Verdict) -> None:
    assert memory_accepted(32, report).verdict == verdict


def test_drives_are_matched_by_size_and_a_wrong_bus_is_not_seen() -> None:
    assert drive_accepted(512, 512.1).verdict == Verdict.YES
    assert drive_accepted(512, 500).verdict == Verdict.NO
    assert "not detected" in drive_accepted(512, None).reason
    found = compare(Planned(drives_gb=(256, 1000)), Reported(drives_gb=(1000.2, 256.1)))
    assert [item.answer.verdict for item in found] == [Verdict.YES, Verdict.YES]
    assert [item.answer.verdict for item in compare(Planned(drives_gb=(256, 1000)), Reported(drives_gb=(256,)))] == [
        Verdict.NO, Verdict.NO,
    ]  # fmt: skip


def test_packs_are_accepted_within_five_per_cent_once_charging_is_seen() -> None:
    assert pack_accepted(60, Reported(pack_design_wh=58, charging=True)).verdict == Verdict.YES
    assert pack_accepted(60, Reported(pack_design_wh=58)).verdict == Verdict.UNKNOWN
    assert pack_accepted(60, Reported(pack_design_wh=58, charging=False)).verdict == Verdict.NO
    assert pack_accepted(60, Reported(pack_design_wh=56.9, charging=True)).verdict == Verdict.NO


def test_every_planned_fan_has_to_turn() -> None:
    (one,) = compare(Planned(fans=2), Reported(fans_rpm=(2400, 0)))
    assert one.answer.reason == "1 of 2 turning: is its plug seated?"
    assert compare(Planned(), Reported(memory_gb=8)) == []


def test_a_report_survives_the_journal() -> None:
    assert report_of({"memory_gb": 16.0, "drives_gb": [512.0], "source": "machine"}) == Reported(memory_gb=16.0, drives_gb=(512.0,))


def test_minutes_are_shrunk_to_the_plan_with_the_weight_of_five_jobs() -> None:
    assert learnt_minutes([], []).factor == 1
    assert learnt_minutes([20] * 5, [30] * 5).factor == pytest.approx((5 * 1.5 + 5) / 10)
    with pytest.raises(ContractError):
        learnt_minutes([20], [20, 30])


@given(st.lists(st.floats(1, 500), min_size=1, max_size=60), st.floats(0.2, 5))
def test_the_factor_lies_between_one_and_what_the_jobs_say(planned: list[float], ratio: float) -> None:
    learnt = learnt_minutes(planned, [ratio * value for value in planned])
    assert min(1, ratio) - 1e-9 <= learnt.factor <= max(1, ratio) + 1e-9
