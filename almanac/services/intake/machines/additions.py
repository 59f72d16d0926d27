"""Sites and models that a machine list names and nobody has on record yet: what has to be known before they are."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from almanac.core.days import beyond_reason
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.columns import plain
from almanac.services.intake.machines.sentence import Sentence, positions_said
from almanac.services.intake.settled import Asks, Question, Settled
from almanac.services.words import count
from almanac.services.words import day as day_words
from almanac.store.models.catalog import FORMS

FORM_WORDS = {
    "all_in_one": ("all in one", "aio"),
    "mini_pc": ("mini pc", "mini", "micro", "tiny", "nettop", "kleinrechner"),
    "convertible": ("convertible", "2 in 1", "tablet", "detachable"),
    "workstation": ("workstation", "tower", "desktop", "arbeitsstation", "station de travail"),
    "notebook": ("notebook", "laptop", "portable", "ordinateur portable", "ultrabook"),
}
FORM_NAMES = {form: form.replace("_", "-").replace("mini-pc", "mini PC") for form in FORMS}


def form_told(*texts: str) -> str | None:
    """The form that a category or a model's name tells; None where none does. What has mains inside hangs on it, so nothing is guessed."""
    said = f" {' '.join(plain(text) for text in texts)} "
    return next((form for form, words in FORM_WORDS.items() if any(f" {word} " in said for word in words)), None)


@dataclass
class NewSite:
    """A site to be added. machines : of the list that stand there"""

    code: str
    spelt: Counter[str] = field(default_factory=Counter)
    lines: list[int] = field(default_factory=list)

    @property
    def name(self) -> str:
        """As most rows have it."""
        return self.spelt.most_common(1)[0][0]


@dataclass
class NewModel:
    """A model to be added. told : its form, where a word tells it"""

    key: str
    told: str | None
    spelt: Counter[tuple[str, str]] = field(default_factory=Counter)
    lines: list[int] = field(default_factory=list)

    @property
    def maker(self) -> str:
        """As most rows have it."""
        return self.spelt.most_common(1)[0][0][0]

    @property
    def name(self) -> str:
        """As most rows have it."""
        return self.spelt.most_common(1)[0][0][1]

    @property
    def title(self) -> str:
        """Maker and name."""
        return f"{self.maker} {self.name}".strip()


UNKNOWN_MAKER = "Maker not known"


class Additions:
    """What a list adds beside machines. taken : codes of sites on record"""

    def __init__(self, taken: Mapping[str, str], settled: Settled, *, has_depot: bool) -> None:
        self.taken, self.names, self.has_depot = set(taken), settled.names, has_depot
        self.sites: dict[str, NewSite] = {}
        self.models: dict[str, NewModel] = {}

    def site(self, line: int, text: str) -> str:
        """The code a new site gets."""
        key = plain(text)
        if key not in self.sites:
            self.sites[key] = NewSite(self._code(text))
        self.sites[key].lines.append(line)
        self.sites[key].spelt[text.strip()] += 1
        return self.sites[key].code

    def _code(self, text: str) -> str:
        letters = re.sub(r"[^A-Z0-9]", "", plain(text).upper()) or "SITE"
        tries = [letters[:3], letters[:4], *(f"{letters[:3]}{number}" for number in range(2, 1000))]
        used = self.taken | {site.code for site in self.sites.values()}
        return next(one for one in tries if one not in used)

    def model(self, line: int, maker: str, name: str, form: str) -> str:
        """A name for a new model until it has its number."""
        own = name.strip()
        if maker and plain(own).startswith(plain(maker)) and len(own) > len(maker):
            own = own[len(maker) :].strip()
        key = f"+{plain(f'{maker} {own}')}"
        if key not in self.models:
            self.models[key] = NewModel(key, form_told(form, name))
        self.models[key].lines.append(line)
        self.models[key].spelt[maker.strip() or UNKNOWN_MAKER, own] += 1
        return key

    def form_of(self, model: NewModel) -> str | None:
        """As a person said, else as its words tell."""
        said = self.names.get("form", {}).get(plain(model.title))
        return said if said in FORMS else model.told

    def sentence_of(self, model: NewModel) -> Sentence:
        """What it holds, as a person said; nothing is known without."""
        return positions_said(self.names.get("holds", {}).get(plain(model.title), ""))

    def began_on(self, site: NewSite) -> date | None:
        """The day its log began, as a person said."""
        said = self.names.get("log_began", {}).get(plain(site.name), "")
        try:
            day = date.fromisoformat(said)
        except ValueError:
            return None
        return None if beyond_reason(day) else day

    @property
    def depot(self) -> str | None:
        """Code of the new site that orders are delivered to; None where that is asked, or one on record is."""
        if self.has_depot or not self.sites:
            return None
        said = self.names.get("depot", {}).get("")
        codes = [site.code for site in self.sites.values()]
        return said if said in codes else codes[0] if len(codes) == 1 else None

    def questions(self, on: date) -> list[Question]:
        """What has to be said of them. on : the list's day, at which the log of a site begins where nobody kept one"""
        found = [
            Question(
                "log_began", site.name, len(site.lines), tuple(site.lines[:3]), on.isoformat(), Asks.DAY,
                about="since when is every repair written down at",
            )
            for site in self.sites.values() if self.began_on(site) is None
        ]  # fmt: skip
        if not self.has_depot and self.sites and self.depot is None:
            rows = sum(len(site.lines) for site in self.sites.values())
            largest = max(self.sites.values(), key=lambda site: len(site.lines))
            found.append(Question("depot", "", rows, (), largest.code, about="where are orders delivered to"))
        for model in self.models.values():
            if self.form_of(model) is None:
                found.append(Question("form", model.title, len(model.lines), tuple(model.lines[:3]), None, about="what is the model"))
            sentence = self.sentence_of(model)
            about = sentence.wrong or "what does it hold, such as 1 battery, 1 fan, 1 SSD, 2 memory slots:"
            if sentence.wrong or not sentence.positions:
                found.append(
                    Question(
                        "holds", model.title, len(model.lines), tuple(model.lines[:3]), None, Asks.WORDS, about=about,
                        optional=not sentence.wrong,
                    )
                )  # fmt: skip
        return found

    def changes(self) -> list[Change]:
        """Sites and models as they would be added, those first that machines need."""
        found = []
        for site in self.sites.values():
            began = self.began_on(site)
            if began is None or (not self.has_depot and self.depot is None):
                continue
            values = {"site": {"code": site.code, "name": site.name, "log_began_on": began, "is_depot": site.code == self.depot}}
            depot = "; orders are delivered there" if site.code == self.depot else ""
            words = f"site {site.name}, repairs written down since {day_words(began)}{depot}"
            found.append(Change(Group.NEW, site.code, site.lines[0], words, values=values))
        for model in self.models.values():
            form, sentence = self.form_of(model), self.sentence_of(model)
            if form is None or sentence.wrong:
                continue
            named = {"maker": model.maker, "name": model.name, "family": model.name, "form": form}
            values = {"model": {"key": model.key, **named, "positions": list(sentence.positions)}}
            holds = count(len(sentence.positions), "position") if sentence.positions else "what it holds is not said"
            words = f"model, {FORM_NAMES[form]}; {holds}"
            found.append(Change(Group.NEW, model.title, model.lines[0], words, values=values))
        return found
