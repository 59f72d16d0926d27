"""Facts that are so only where a machine has an option: memory on the board by variant, the voltage of one of two packs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from almanac.core.parts.declared.facts import Subject
from almanac.core.parts.facts import Fact, prevailing

PARTS = (Subject.PLACE.value, Subject.PART.value)


def whatever_the_variant(statements: Sequence[Fact]) -> Fact | None:
    """The statement that holds of every variant: None where variants differ, or where some of them alone are spoken of.

    Parameters
    ----------
    statements : of one fact, at least one
    """
    plain = [one for one in statements if not one.get("when")]
    if not plain:
        return None
    holds = prevailing(plain)
    return holds if all(one["value"] == holds["value"] for one in statements if one.get("when")) else None


def of_variant(page: Mapping[str, Any], options: Mapping[str, str]) -> Mapping[str, Any]:
    """A page as it is of a machine: what is stated of its variant holds, what is stated of others is left out.

    Parameters
    ----------
    page : whole page in its stored form; it is not changed · options : those that are known of the machine
    """
    if not options:
        return page
    positions = [
        {**entry, **{part: _facts(entry[part], options) for part in PARTS if part in entry}} for entry in page.get("positions") or []
    ]
    return {**page, "facts": _facts(page.get("facts") or {}, options), "positions": positions}


def _facts(facts: Mapping[str, Any], options: Mapping[str, str]) -> dict[str, Any]:
    found = {name: _of_machine(said, options) if isinstance(said, list) else said for name, said in facts.items()}
    return {name: said for name, said in found.items() if said}


def _of_machine(statements: Sequence[Fact], options: Mapping[str, str]) -> list[Fact]:
    here = [one for one in statements if (when := one.get("when")) and _is(when, options)]
    if here:  # what is said of this variant in particular holds over what is said of all
        return [_without_condition(one) for one in here]
    return [one for one in statements if not (when := one.get("when")) or not _is_other(when, options)]


def _without_condition(one: Fact) -> Fact:
    plain: Any = {name: value for name, value in one.items() if name != "when"}
    return plain  # type: ignore[no-any-return]


def _is(when: Mapping[str, Any], options: Mapping[str, str]) -> bool:
    return all(options.get(name) in _values(value) for name, value in when.items())


def _is_other(when: Mapping[str, Any], options: Mapping[str, str]) -> bool:
    return any(name in options and options[name] not in _values(value) for name, value in when.items())


def _values(value: object) -> Sequence[object]:
    return value if isinstance(value, list) else [value]


def conditions(page: Mapping[str, Any]) -> Iterator[tuple[tuple[str | int, ...], Mapping[str, Any]]]:
    """Every condition a fact of a page has, with the place of the statement."""
    groups: list[tuple[tuple[str | int, ...], Mapping[str, Any]]] = [(("facts",), page.get("facts") or {})]
    for place, entry in enumerate(page.get("positions") or []):
        groups += [(("positions", place, part), entry.get(part) or {}) for part in PARTS]
    for where, facts in groups:
        for name, said in facts.items():
            for at, one in enumerate(said if isinstance(said, list) else []):
                if one.get("when"):
                    yield (*where, name, at, "when"), one["when"]
