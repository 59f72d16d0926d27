"""The find field: what a tag, number, name or page could mean, also where it is misspelt."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from rapidfuzz import fuzz, process
from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS, KINDS
from almanac.store import catalog

MOST = 12
NEAR = 72
"""How alike two words are, of 100, for one to be meant by the other."""
SHORTEST = 3
PAGES = (
    ("Today", "/today", "what is due"),
    ("What if", "/outlook/what-if", "scenarios"),
    ("Rehearsal", "/outlook/rehearsal", "the plan played"),
    ("Money", "/outlook/money", "what the shelves buy"),
    ("Buying list", "/outlook", "what to order"),
    ("Line-up", "/models/line-up", "the fewest spares that fit"),
    ("Compare models", "/models/compare", "two models side by side"),
    ("Exceptions", "/bench?open=exceptions", "at the bench"),
    ("Approvals", "/bench?open=approvals", "at the bench"),
    ("Orders", "/stores/orders", "and drafts"),
    ("Repeat offenders", "/ledger/repeats", "in the ledger"),
    ("No-fault shares", "/ledger/shares", "in the ledger"),
    ("How well it has done", "/rates/calibration", "forecasts held against what came"),
    ("Data check", "/rates/data", "what the log lacks"),
    ("Machine reports", "/fleet/reports", "and keys for programs"),
    ("Register", "/fleet", "every machine"),
    ("Sites and suppliers", "/company", "for leads"),
    ("Work behind the pages", "/company/work", "for leads"),
    ("Import own data", "/import", "lists and files"),
    ("First day", "/first-day", "for leads"),
    ("Tour", "/tour", ""),
    ("Words", "/glossary", "what they mean here"),
)


class Meant(NamedTuple):
    """Something that could be meant. kind : part, asset, model, site, order, kind or page · key : by which it is opened"""

    kind: str
    key: str
    label: str
    detail: str


def find(session: Session, words: str) -> list[Meant]:
    """What some words could mean, exact matches first; where nothing carries them, what is spelt nearly so."""
    rows = [Meant(*row) for row in catalog.find(session, words)]
    named = [one for one in _named(session) if words.lower() in one.label.lower() or words.lower() == one.key.lower()]
    orders = [Meant("order", number, number, supplier) for number, supplier in catalog.find_orders(session, words)]
    exact = [one for one in (*named, *orders, *rows) if words.lower() in (one.label.lower(), one.key.lower())]
    found = list(dict.fromkeys([*exact, *rows, *orders, *named]))[:MOST]
    return found or _near(session, words)


def _named(session: Session) -> Iterator[Meant]:
    """What has a name and no number: sites, kinds, pages."""
    for site in catalog.sites(session):
        yield Meant("site", site.code, site.name, site.code)
    for spec in KINDS:
        if spec.kind in FORECAST_KINDS:
            yield Meant("kind", spec.kind.value, spec.name, "its rates")
    for name, path, about in PAGES:
        yield Meant("page", path, name, about)


def _near(session: Session, words: str) -> list[Meant]:
    """What is spelt nearly so; of machines and orders a near number is another one, so they are left out."""
    if len(words) < SHORTEST:
        return []
    known = [
        *_named(session),
        *(Meant("model", str(one.id), f"{one.maker} {one.name}", one.family) for one in catalog.models(session).values()),
    ]
    known += [Meant("part", part.number, part.number, part.name) for part in catalog.all_parts(session)]
    texts = {place: f"{one.label} {one.detail}" if one.kind == "part" else one.label for place, one in enumerate(known)}
    best = process.extract(words, texts, scorer=fuzz.WRatio, processor=str.lower, score_cutoff=NEAR, limit=MOST // 2)
    return [known[place]._replace(detail=f"spelt nearly so; {known[place].detail}".rstrip("; ")) for _, _, place in best]
