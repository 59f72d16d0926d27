"""What the core makes of a page: how deep everything lies, the layers, the serviceability profile, the faults."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from almanac.core.answers.question import Named, Question
from almanac.core.parts.faults import PageFault
from almanac.core.parts.inheritance import whole_page
from almanac.core.teardown.depth import Depth, Layer, all_depths, depth_chart, layers_of_steps
from almanac.core.teardown.profile import Profile, profile_of
from almanac.core.teardown.written import teardown_of
from almanac.exchange.pages.read import check_page


def inherited(siblings: Sequence[Named]) -> Mapping[str, Any] | None:
    """The whole page that the nearest sibling stands for; None where there is none."""
    found: Mapping[str, Any] | None = None
    for one in reversed(siblings):
        found = whole_page(one.content, found)
    return found


@dataclass(frozen=True)
class PageMade:
    """All that is computed of a page and of nothing else."""

    depths: dict[str, Depth]
    chart: tuple[Layer, ...]
    step_layers: dict[str, str]
    profile: Profile
    faults: list[PageFault]


@dataclass(frozen=True)
class PageProfile(Question[PageMade]):
    """A page as written, and the siblings it inherits from, nearest first."""

    NAME: ClassVar[str] = "page profile"
    VERSION: ClassVar[int] = 3
    own: Named
    siblings: tuple[Named, ...] = ()

    def compute(self) -> PageMade:
        sibling = inherited(self.siblings)
        whole = whole_page(self.own.content, sibling)
        teardown = teardown_of(whole)
        depths = all_depths(teardown)
        return PageMade(
            depths=depths,
            chart=depth_chart(teardown, depths),
            step_layers=layers_of_steps(teardown),
            profile=profile_of(teardown, depths),
            faults=check_page(self.own.content, sibling),
        )
