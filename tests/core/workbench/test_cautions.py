"""The tool's own words stand before what can hurt, whoever wrote the page."""

from __future__ import annotations

from typing import Any

import pytest

from almanac.core.teardown.cautions import DISSOLVING, HEAT, HEATED, INSIDE, SOLVENT
from tests.core.teardown.pages import part, step
from tests.core.workbench.bench import plan_for


def said_of(kind: str, **more: Any) -> tuple[str, ...]:
    page = {"positions": [part("thing", kind)], "operations": [step("out", frees=["thing"], **more)]}
    return plan_for(page, "thing").steps[0].cautions


@pytest.mark.parametrize("kind", [kind.value for kind in INSIDE])
def test_a_part_that_can_hurt_is_said_before_it_is_reached(kind: str) -> None:
    assert INSIDE[next(own for own in INSIDE if own.value == kind)] in said_of(kind)
    assert not set(INSIDE.values()) & set(said_of("radio"))


def test_a_sink_that_moves_with_a_fan_is_hot_too() -> None:
    assert [words for words in said_of("fan", moves_sink=True) if "hot after work" in words] != []
    assert len([words for words in said_of("heat_sink", moves_sink=True) if "hot after work" in words]) == 1


@pytest.mark.parametrize("field", ["aids", "consumables"])
def test_heat_and_solvents_are_said_by_what_the_step_takes(field: str) -> None:
    for word in HEATED:
        assert HEAT in said_of("keyboard", **{field: [f"a {word} thing"]})
    for word in DISSOLVING:
        assert SOLVENT in said_of("keyboard", **{field: [f"some {word}"]})
    assert not {HEAT, SOLVENT} & set(said_of("keyboard", **{field: ["heat pad", "soft mat"]}))


def test_the_pages_own_words_come_first() -> None:
    assert said_of("display", cautions=["mind the left corner"])[0] == "mind the left corner"
