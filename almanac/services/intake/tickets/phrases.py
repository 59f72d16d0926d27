"""The phrase tables that ship, from `phrases.toml` beside this file; they grow by what a person answers, which is kept by source."""

from __future__ import annotations

import tomllib
from enum import StrEnum
from functools import cache
from importlib.resources import files
from typing import TypeVar

from almanac.core.life.outcomes import Finding
from almanac.core.parts.kinds import Kind
from almanac.services.intake.columns import plain

Phrase = tuple[str, ...]
"""Words that stand one after the other."""


class Done(StrEnum):
    """What a ticket says was done."""

    REPLACED = "replaced"
    LOOKED = "looked"


@cache
def _tables() -> dict[str, dict[str, str]]:
    return tomllib.loads((files(__package__) / "phrases.toml").read_text(encoding="utf-8"))


Meaning = TypeVar("Meaning", Kind, Done, Finding)


def _table(name: str, of: type[Meaning]) -> tuple[tuple[Meaning, tuple[Phrase, ...]], ...]:
    return tuple((of(key), _phrases(text)) for key, text in _tables()[name].items())


def _phrases(text: str) -> tuple[Phrase, ...]:
    return tuple(tuple(plain(phrase).split()) for phrase in text.split(",") if phrase.strip())


@cache
def names() -> tuple[tuple[Kind, tuple[Phrase, ...]], ...]:
    """Names of kinds."""
    return _table("names", Kind)


@cache
def signs() -> tuple[tuple[Kind, tuple[Phrase, ...]], ...]:
    """What people complain of that tells a kind, where no part is named."""
    return _table("signs", Kind)


@cache
def done() -> tuple[tuple[Done, tuple[Phrase, ...]], ...]:
    """What was done, in the order of what counts."""
    return _table("done", Done)


@cache
def findings() -> tuple[tuple[Finding, tuple[Phrase, ...]], ...]:
    """What it may have been, in the order of what counts."""
    return _table("findings", Finding)


@cache
def not_ours() -> tuple[Phrase, ...]:
    """What tickets are about that concerns no part of a machine."""
    return _phrases(_tables()["others"]["not_ours"])


@cache
def merged() -> tuple[Phrase, ...]:
    """Words of a ticket that is another one's."""
    return _phrases(_tables()["others"]["merged"])
