"""Model pages with their siblings' pages resolved, and what the core makes of each. A page and its siblings are read, never all."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.answers.question import Named
from almanac.core.parts.faults import PageFault
from almanac.core.parts.inheritance import own_page, whole_page
from almanac.core.teardown.depth import Depth, Layer
from almanac.core.teardown.operations import Teardown
from almanac.core.teardown.profile import Profile
from almanac.core.teardown.written import teardown_of
from almanac.services.answers.ask import ask
from almanac.services.errors import NotFound
from almanac.services.pages.profile import PageMade, PageProfile, inherited
from almanac.store import pages
from almanac.store.pages import PageHead

MOST_GENERATIONS = 4


@dataclass
class ModelPage:
    """One model with its page as written and whole. What the core computes of it is an answer, kept for whoever asks next."""

    session: Session
    head: PageHead
    written: Mapping[str, Any]
    siblings: tuple[Named, ...]

    @property
    def model_id(self) -> int:
        return self.head.model_id

    @property
    def name(self) -> str:
        return self.head.full_name

    @property
    def revision_id(self) -> int:
        return self.head.revision_id

    @property
    def number(self) -> int:
        return self.head.number

    @property
    def draft(self) -> bool:
        return self.head.draft

    @cached_property
    def sibling(self) -> Mapping[str, Any] | None:
        return inherited(self.siblings)

    @cached_property
    def own(self) -> Mapping[str, Any]:
        """The page as written, in the present form: what is edited, and what a file of it holds."""
        return own_page(self.written, self.sibling)

    @cached_property
    def whole(self) -> Mapping[str, Any]:
        return whole_page(self.written, self.sibling)

    @cached_property
    def teardown(self) -> Teardown:
        return teardown_of(self.whole)

    @cached_property
    def made(self) -> PageMade:
        return ask(self.session, PageProfile(Named(self.head.page_key, self.own), self.siblings))

    @property
    def depths(self) -> dict[str, Depth]:
        return self.made.depths

    @property
    def chart(self) -> tuple[Layer, ...]:
        return self.made.chart

    @property
    def step_layers(self) -> dict[str, str]:
        return self.made.step_layers

    @property
    def profile(self) -> Profile:
        return self.made.profile

    @property
    def faults(self) -> list[PageFault]:
        return self.made.faults

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


class Library:
    """The pages that hold, drafts only where there is no other; each read when it is asked for, once a library."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._heads: dict[int, PageHead] = {}
        self._named: dict[str, PageHead | None] = {}
        self._pages: dict[int, ModelPage] = {}
        self._all = False

    def get(self, model_id: int) -> ModelPage | None:
        """The page of a model; None where there is no such model, or it has no page."""
        if model_id not in self._pages:
            head = self._head(model_id)
            if head is None:
                return None
            self._resolve([head])
        return self._pages[model_id]

    def page(self, model_id: int) -> ModelPage:
        """The page of a model.

        Raises
        ------
        NotFound : there is no such model, or it has no page
        """
        found = self.get(model_id)
        if found is None:
            raise NotFound(f"there is no model {model_id} with a page")
        return found

    def named(self, name: str) -> ModelPage | None:
        """A page by maker and name, whatever the case."""
        head = self._head_named(name)
        return self.get(head.model_id) if head else None

    def heads(self) -> list[PageHead]:
        """Every model with its page's head: small rows, no page among them."""
        if not self._all:
            for head in pages.heads(self._session):
                self._keep(head)
            self._all = True
        return list(self._heads.values())

    @property
    def pages(self) -> dict[int, ModelPage]:
        """All pages by model: for what looks at all of them by its nature, such as the line-up."""
        self._resolve([head for head in self.heads() if head.model_id not in self._pages])
        return {head.model_id: self._pages[head.model_id] for head in self.heads()}

    def chain(self, head: PageHead) -> tuple[PageHead, ...]:
        """A page and the siblings it inherits from, nearest first. One that is missing, or comes again, ends it."""
        chain = [head]
        while len(chain) <= MOST_GENERATIONS:
            above = self._head_named(chain[-1].inherits) if chain[-1].inherits else None
            if above is None or above in chain:
                break
            chain.append(above)
        return tuple(chain)

    def _head(self, model_id: int) -> PageHead | None:
        if model_id not in self._heads and not self._all:
            for head in pages.heads(self._session, model_ids=[model_id]):
                self._keep(head)
        return self._heads.get(model_id)

    def _head_named(self, name: str) -> PageHead | None:
        wanted = str(name).lower()
        if wanted not in self._named:
            found = [] if self._all else pages.heads(self._session, name=wanted)
            self._named[wanted] = self._keep(found[0]) if found else None
        return self._named[wanted]

    def _keep(self, head: PageHead) -> PageHead:
        self._heads[head.model_id] = head
        self._named[head.full_name.lower()] = head
        return head

    def _resolve(self, heads: Sequence[PageHead]) -> None:
        """Read the pages of some models and of their siblings."""
        chains = {head.model_id: self.chain(head) for head in heads}
        documents = self.documents({one for chain in chains.values() for one in chain})
        for head in heads:
            own, *above = chains[head.model_id]
            siblings = tuple(Named(one.page_key, documents[one.revision_id]) for one in above)
            self._pages[head.model_id] = ModelPage(self._session, own, documents[own.revision_id], siblings)

    def documents(self, heads: set[PageHead]) -> dict[int, Mapping[str, Any]]:
        """Pages as written, by revision."""
        known = {page.head: page.written for page in self._pages.values() if page.head in heads}
        read = pages.documents(self._session, [head.revision_id for head in heads if head not in known])
        return {**read, **{head.revision_id: page for head, page in known.items()}}


def read_library(session: Session) -> Library:
    """The pages of the company as they are now."""
    return Library(session)
