"""All model pages of the company, siblings' pages resolved, and what the core makes of each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from threading import Lock
from typing import Any

from cachetools import LRUCache
from sqlalchemy.orm import Session

from almanac.core.parts.faults import PageFault
from almanac.core.parts.inheritance import inherit
from almanac.core.teardown.depth import Depth, Layer, all_depths, depth_chart, layers_of_steps
from almanac.core.teardown.operations import Teardown, teardown_of
from almanac.core.teardown.profile import Profile, profile_of
from almanac.exchange.pages.read import check_page
from almanac.services.errors import NotFound
from almanac.store import catalog, pages
from almanac.store.models import DeviceModel, ModelRevision

KEPT: LRUCache[tuple[int, ...], ModelPage] = LRUCache(maxsize=600)
LOCK = Lock()
MOST_GENERATIONS = 4


@dataclass
class ModelPage:
    """One model with its page as written and whole. What the core computes of it is computed once a revision."""

    model_id: int
    name: str
    revision_id: int
    number: int
    draft: bool
    own: Mapping[str, Any]
    whole: Mapping[str, Any]
    sibling: Mapping[str, Any] | None

    @cached_property
    def teardown(self) -> Teardown:
        return teardown_of(self.whole)

    @cached_property
    def depths(self) -> dict[str, Depth]:
        return all_depths(self.teardown)

    @cached_property
    def chart(self) -> tuple[Layer, ...]:
        return depth_chart(self.teardown, self.depths)

    @cached_property
    def step_layers(self) -> dict[str, str]:
        return layers_of_steps(self.teardown)

    @cached_property
    def profile(self) -> Profile:
        return profile_of(self.teardown, self.depths)

    @cached_property
    def faults(self) -> list[PageFault]:
        return check_page(self.own, self.sibling)

    def position(self, key: str) -> Mapping[str, Any]:
        """One position of the page.

        Raises
        ------
        NotFound : the page has no such position
        """
        for entry in self.whole.get("positions") or []:
            if entry["key"] == key:
                return dict(entry)
        raise NotFound(f"{self.name} has no position {key}")


@dataclass
class Library:
    """Pages by model id, and the models themselves."""

    models: dict[int, DeviceModel]
    pages: dict[int, ModelPage]

    def page(self, model_id: int) -> ModelPage:
        """The page of a model.

        Raises
        ------
        NotFound : there is no such model, or it has no page
        """
        if model_id not in self.pages:
            raise NotFound(f"there is no model {model_id} with a page")
        return self.pages[model_id]

    def named(self, name: str) -> ModelPage | None:
        """A page by maker and name, whatever the case."""
        wanted = name.lower()
        return next((page for page in self.pages.values() if page.name.lower() == wanted), None)


def read_library(session: Session) -> Library:
    """Every model's page that holds, drafts only where there is no other."""
    models = catalog.models(session)
    return assemble(models, {row.model_id: row for row in pages.current_revisions(session)})


def assemble(models: dict[int, DeviceModel], revisions: dict[int, ModelRevision]) -> Library:
    """Resolve the siblings. A page whose sibling is missing or inherits in a circle stands alone."""
    by_name = {f"{model.maker} {model.name}".lower(): identifier for identifier, model in models.items()}
    found: dict[int, ModelPage] = {}
    for identifier in revisions:
        chain = _chain(identifier, revisions, by_name)
        found[identifier] = _resolved(chain, models, revisions)
    return Library(models, found)


def _chain(identifier: int, revisions: Mapping[int, ModelRevision], by_name: Mapping[str, int]) -> tuple[int, ...]:
    """A model and the siblings it inherits from, nearest first."""
    chain = [identifier]
    while len(chain) <= MOST_GENERATIONS:
        above = revisions[chain[-1]].page.get("inherits")
        sibling = by_name.get(str(above).lower()) if above else None
        if sibling is None or sibling in chain or sibling not in revisions:
            break
        chain.append(sibling)
    return tuple(chain)


def _resolved(chain: tuple[int, ...], models: Mapping[int, DeviceModel], revisions: Mapping[int, ModelRevision]) -> ModelPage:
    key = tuple(revisions[model].id for model in chain)
    with LOCK:
        known = KEPT.get(key)
    row, model = revisions[chain[0]], models[chain[0]]
    if known is not None and known.number == row.number and known.draft == row.draft:
        return known
    sibling = None
    for ancestor in reversed(chain[1:]):
        page = revisions[ancestor].page
        sibling = inherit(page, sibling) if sibling else page
    whole = inherit(row.page, sibling) if sibling else row.page
    made = ModelPage(chain[0], f"{model.maker} {model.name}", row.id, row.number, row.draft, row.page, whole, sibling)
    with LOCK:
        KEPT[key] = made
    return made
