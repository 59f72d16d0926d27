"""Spells in which parts age faster."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from almanac.core.demand import counts
from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.ageing import Spell, ageing_exposure, own_days
from almanac.core.demand.in_service import cumulative_exposure
from almanac.core.demand.law import DemandLaw, SideStream
from almanac.core.demand.life_tables import life_tables
from almanac.core.demand.wear_law import wear_law
from almanac.core.demand.wear_out import WearOut
from almanac.core.errors import ContractError
from almanac.core.life.nodes import KindNodes
from almanac.core.life.wear_nodes import WearNodes


def test_days_of_ageing_gather_faster_in_a_spell() -> None:
    own = own_days([Spell(10, 20, 2.0), Spell(15, 40, 1.5)], horizon_days=50)
    assert own[10] == 10
    assert own[15] == 20
    assert own[20] == 20 + 5 * 3
    assert own[50] == pytest.approx(35 + 20 * 1.5 + 10)
    assert own_days([], horizon_days=3).tolist() == [0, 1, 2, 3]
    assert own_days([Spell(-5, 2, 2.0)], horizon_days=4).tolist() == [0, 2, 4, 5, 6]


def test_exposure_in_days_of_ageing() -> None:
    service = cumulative_exposure([0, 0], [0, 5], [1, 1], rows=1, horizon_days=10)
    faster = ageing_exposure(service, own_days([Spell(5, 10, 2.0)], horizon_days=10))
    assert faster[0, 5] == service[0, 5]
    assert faster[0, 10] - faster[0, 5] == pytest.approx(2 * (service[0, 10] - service[0, 5]))


def constant() -> DemandLaw:
    return DemandLaw(
        nodes=KindNodes(np.ones(1), np.array([3.0]), np.array([40.0])),
        failures=np.array([6.0]),
        exposure_years=np.array([100.0]),
        in_service=cumulative_exposure([0], [0], [50], rows=1, horizon_days=400),
        side=(SideStream("damage", 2.5, 400.0),),
        dead_on_arrival=0.01,
        planned_swaps=np.zeros(401),
        planned_fittings=np.zeros(401),
    )


def aged(law: DemandLaw) -> DemandLaw:
    nodes = WearNodes(np.ones(1), np.array([2.5]), np.array([4.0]), np.array([160.0]), np.array([[120.0]]))
    kind = life_tables(nodes, np.array([6.0]), oldest_years=8.0, horizon_days=600)
    rows = age_groups(np.array([0]), np.array([2.0]), np.array([50.0]), np.array([0.0]), np.array([np.inf]))
    return wear_law(law, WearOut(kind, np.array([0]), rows), near_days=400)


@pytest.mark.parametrize("school", [constant, lambda: aged(constant())])
def test_a_spell_of_the_whole_year_is_a_longer_year_of_wear(school) -> None:  # type: ignore[no-untyped-def]
    calm = school()
    own = own_days([Spell(0, 400, 1.5)], horizon_days=400)
    hot = aged(replace(constant(), own_days=own)) if school is not constant else replace(constant(), own_days=own)
    assert hot.means(0, 200).wear_out == pytest.approx(calm.means(0, 300).wear_out, rel=1e-6)
    assert hot.means(0, 200).damage == pytest.approx(calm.means(0, 200).damage)  # what is dropped is dropped as often
    mean, _ = counts.mean_and_variance(hot.pmf([0], [200]))
    assert mean[0] == pytest.approx(hot.means(0, 200).total, rel=3e-3)


def test_a_spell_to_come_changes_nothing_before_it() -> None:
    calm, later = constant(), replace(constant(), own_days=own_days([Spell(200, 300, 3.0)], horizon_days=400))
    np.testing.assert_allclose(later.pmf([0], [200]), calm.pmf([0], [200]), atol=1e-12)
    assert later.means(200, 300).wear_out == pytest.approx(3 * calm.means(200, 300).wear_out)


def test_contracts() -> None:
    with pytest.raises(ContractError, match="factor"):
        own_days([Spell(0, 5, 0.0)], horizon_days=9)
    with pytest.raises(ContractError, match="until_day"):
        own_days([Spell(5, 4, 2.0)], horizon_days=9)
    with pytest.raises(ContractError, match="own"):
        ageing_exposure(np.zeros((1, 5)), np.zeros(4))
