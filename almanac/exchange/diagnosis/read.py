"""Reading the knowledge of symptoms from YAML, with the place of what is wrong."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

from almanac.core.errors import ContractError
from almanac.core.triage.knowledge import Symptom, symptoms_of
from almanac.exchange.pages.yaml_tree import YamlFault, read_yaml

STANDARD = Path(__file__).parent / "standard.yaml"
FORMAT = 1


def standard_text() -> str:
    """The knowledge that ships with the application."""
    return STANDARD.read_text(encoding="utf-8")


@cache
def standard() -> tuple[Symptom, ...]:
    """The symptoms that ship with the application."""
    return read_knowledge(standard_text())


def read_knowledge(text: str) -> tuple[Symptom, ...]:
    """Symptoms of a knowledge file.

    Raises
    ------
    ContractError : naming the line or the place, what was wanted and what was got
    """
    try:
        tree = read_yaml(text.encode())
    except YamlFault as error:
        raise ContractError(f"line {error.line}, column {error.column}: {error.message}") from error
    document: Any = tree.value
    if not isinstance(document, dict) or document.get("diagnosis_format") != FORMAT:
        raise ContractError(f"diagnosis_format: {FORMAT} was wanted")
    try:
        return symptoms_of(document)
    except (TypeError, ValueError, AttributeError, KeyError) as error:
        if isinstance(error, ContractError):
            raise
        raise ContractError(f"an entry does not follow the format: {error}") from error
