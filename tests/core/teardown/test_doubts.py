"""What a step rests on that nobody here saw: hearsay, plugs nobody looked at, steps it was only done after (rule U3)."""

from __future__ import annotations

from typing import Any

import pytest

from almanac.core.parts.faults import Stake
from almanac.core.teardown.aside import aside_words
from almanac.core.teardown.cautions import cautions_before
from almanac.core.teardown.checks import page_faults
from almanac.core.teardown.doubts import spared_minutes, step_doubts
from almanac.core.teardown.route import plan_route
from almanac.core.teardown.written import teardown_of
from tests.core.teardown.pages import part, step

TOLD = {"grade": "told", "source": "supplier", "date": None}


def page(**drive: Any) -> dict[str, Any]:
    """A cover, a tape that was peeled off before the drive came out, and the drive."""
    return {
        "positions": [part("drive", "ssd")],
        "operations": [
            step("cover", layer="base cover", isolates=True, tool="PH1", exposes=["drive"]),
            step("tape", ["cover"], minutes=3, tool="hands"),
            step("out", drive.pop("needs", ["cover", {"done": "tape"}]), frees=["drive"], tool="PH0", **drive),
        ],
    }


def test_what_was_done_before_is_done_again_and_said_to_be_in_doubt() -> None:
    graph = teardown_of(page())
    assert [one.id for one in plan_route(graph, ["drive"]).steps] == ["cover", "tape", "out"]
    assert step_doubts(graph.operations["out"], graph) == ("so far done after “Do tape”: whether it has to be, nobody knows",)
    assert step_doubts(graph.operations["tape"], graph) == ()
    needed = teardown_of(page(needs=["cover", "tape"]))
    assert step_doubts(needed.operations["out"], needed) == ()


def test_what_looking_would_spare_is_counted_out_and_back() -> None:
    graph = teardown_of(page())
    assert spared_minutes(graph.operations["out"], "tape", graph) == pytest.approx(6.0)
    given = page(needs=["clip", {"done": "tape"}])
    given["operations"].insert(2, step("clip", ["tape"], tool="hands"))
    through = teardown_of(given)  # the way leads through it all the same
    assert spared_minutes(through.operations["out"], "tape", through) == 0.0
    assert teardown_of(page(needs=["tape", {"done": "tape"}])).operations["out"].only_done == ()
    (question,) = [fault for fault in page_faults(page()) if fault.where == ("operations", 2, "needs")]
    assert question.open
    assert question.cause.stake == Stake.MINUTES
    assert question.cause.size == pytest.approx(6.0)
    assert not [fault for fault in page_faults(page(needs=["cover", "tape"])) if fault.where[-1] == "needs"]


def test_a_need_in_doubt_is_checked_like_any() -> None:
    unknown = [fault.message for fault in page_faults(page(needs=["cover", {"done": "glue"}])) if not fault.open]
    assert unknown == ["no operation is called 'glue'"]


@pytest.mark.parametrize(
    ("plug", "told", "asked"),
    [
        ({"kind": "slide"}, ["slide the plug by its body, never by the wires"], 0),
        ({"kind": "unknown"}, ["how the lead goes, nobody wrote down: look for a bail, a latch or a tab before it moves"], 1),
        (
            {"kind": [{"value": "slide", **TOLD}]},
            ["slide the plug by its body, never by the wires", "lead: kind only told: look for a bail, a latch or a tab before it moves"],
            1,
        ),
        (
            {"kind": "other", "release": [{"value": "left", **TOLD}]},
            ["lead: direction only told: look for a bail, a latch or a tab before it moves"],
            1,
        ),
    ],
)
def test_a_plug_nobody_looked_at_is_cautioned_and_asked(plug: dict[str, Any], told: list[str], asked: int) -> None:
    given = page(plugs=[{"name": "lead", **plug}])
    assert [item.text for item in cautions_before(teardown_of(given).operations["out"])] == told
    found = [fault for fault in page_faults(given) if "plugs" in fault.where]
    assert len(found) == asked
    assert all(fault.cause.stake == Stake.RECORD for fault in found)


def test_how_the_power_is_cut_is_a_danger_while_nobody_looked() -> None:
    given = page()
    given["operations"][0]["plugs"] = [{"name": "pack", "kind": "unknown"}]
    (found,) = [fault for fault in page_faults(given) if "plugs" in fault.where]
    assert found.cause.stake == Stake.DANGER


def test_a_step_somebody_only_told_of_says_so() -> None:
    graph = teardown_of({**page(evidence=TOLD), "evidence": {"grade": "measured", "source": "bench", "date": None}})
    assert step_doubts(graph.operations["out"], graph)[0] == "rests on hearsay: only told (supplier)"
    assert step_doubts(graph.operations["cover"], graph) == ()
    whole = teardown_of({**page(), "evidence": {"grade": "assumed", "source": "", "date": None}})
    assert step_doubts(whole.operations["cover"], whole) == ("rests on hearsay: only assumed",)


def test_what_is_to_be_minded_is_said_in_words() -> None:
    given = page(keep_out=[{"x_mm": 1, "y_mm": 1, "width_mm": 2, "depth_mm": 2, "reason": "a lead lies beneath"}])
    given |= {
        "opening": {"start_edge": "left", "clip_rows": [{"side": "left", "clips": 5}]},
        "notes": [{"text": "An arrow names the length", "operation": "out"}, {"text": "Of the machine"}],
    }
    graph = teardown_of(given)
    words = {name: aside_words(one, given, graph) for name, one in graph.operations.items()}
    assert words == {
        "cover": ("left: start here, 5 clips",), "tape": (), "out": ("keep out: a lead lies beneath", "An arrow names the length"),
    }  # fmt: skip
