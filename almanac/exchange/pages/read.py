"""From a page file to a stored page, with every fault at its line."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from almanac.core.parts.declared.understand import read_page_facts
from almanac.core.parts.fact_checks import fact_faults
from almanac.core.parts.faults import PageFault, Where, path_words
from almanac.core.parts.inheritance import whole_page
from almanac.core.teardown.checks import page_faults
from almanac.exchange.pages.facts import PLAIN, SAID
from almanac.exchange.pages.format import Page
from almanac.exchange.pages.nested.unfold import is_nested, unfold
from almanac.exchange.pages.words import EMPTY, sentence
from almanac.exchange.pages.yaml_tree import Tree, YamlFault, read_yaml

MOST_FAULTS = 200
MISSING = object()


@dataclass(frozen=True)
class FileFault:
    """One fault of a page file: its line, its path, what is wrong and the cure; `open` is missing rather than wrong."""

    line: int
    path: str
    message: str
    cure: str
    open: bool = False
    noted: bool = False

    def __str__(self) -> str:
        place = f" {self.path}:" if self.path else ""
        return f"line {self.line}:{place} {self.message}; {self.cure}"


@dataclass(frozen=True)
class PageFile:
    """What a file holds: the page as written (None where it does not follow the format), and its faults."""

    page: dict[str, Any] | None
    faults: list[FileFault]

    @property
    def sound(self) -> bool:
        return self.page is not None and not any(not fault.open for fault in self.faults)


def read_page(data: bytes, sibling: Mapping[str, Any] | None = None) -> PageFile:
    """Read a page file.

    Parameters
    ----------
    data : YAML in UTF-8 · sibling : the resolved page it inherits from, where it does

    Returns
    -------
    PageFile : every fault found, not only the first
    """
    try:
        tree = read_yaml(data)
    except YamlFault as fault:
        return PageFile(None, [FileFault(fault.line, "", fault.message, "correct the file and read it again")])
    given = tree.value
    flat = unfold(given) if isinstance(given, dict) and is_nested(given) else None
    if flat is not None and flat.faults:
        return PageFile(None, [_placed(fault, tree) for fault in flat.faults[:MOST_FAULTS]])
    page, noted = validate_page(flat.page if flat is not None else given)
    faults = [*noted, *(check_page(page, sibling) if page is not None else [])]
    if flat is not None:
        faults = [replace(fault, where=flat.place(fault.where)) for fault in faults]
    return PageFile(page, [_placed(fault, tree) for fault in faults])


def validate_page(given: Any) -> tuple[dict[str, Any] | None, list[PageFault]]:
    """A page document in its stored form with what was only written otherwise, or None with what breaks the format."""
    if not isinstance(given, dict):
        return None, [PageFault((), "a page is a mapping of names to entries", "begin with page_format: 2")]
    evidence = given.get("evidence")
    context = {"evidence": evidence if isinstance(evidence, dict) else None}
    try:
        page = Page.model_validate(given, context=context)
    except ValidationError as error:
        return None, [_format_fault(item, given) for item in error.errors(include_url=False)[:MOST_FAULTS]]
    stored, notes = read_page_facts(page.model_dump(mode="json", exclude_unset=True))
    return stored, [PageFault(where, note, "nothing to do: it is kept so", open=True, noted=True) for where, note in notes]


def check_page(page: Mapping[str, Any], sibling: Mapping[str, Any] | None = None) -> list[PageFault]:
    """What the format cannot see: values, names, circles, and what is missing. Places are those of the page as written."""
    if page.get("inherits") and sibling is None:
        missing = f"the page of {page['inherits']} is not at hand, so only the format was checked"
        return [PageFault(("inherits",), missing, "give the sibling's page too", True), *fact_faults(page)]
    whole = whole_page(page, sibling)
    return [_as_written(fault, whole, page) for fault in [*fact_faults(whole), *page_faults(whole)]]


def _as_written(fault: PageFault, whole: Mapping[str, Any], page: Mapping[str, Any]) -> PageFault:
    """The place of a fault of the resolved page in the page as written, or at `inherits` where it comes from the sibling."""
    if not page.get("inherits") or len(fault.where) < 2 or fault.where[0] not in ("positions", "operations"):
        return fault
    part, place = str(fault.where[0]), fault.where[1]
    name = "key" if part == "positions" else "id"
    wanted = whole[part][place][name]
    own = next((index for index, entry in enumerate(page.get(part) or []) if entry[name] == wanted), None)
    where: Where = ("inherits",) if own is None else (part, own, *fault.where[2:])
    return PageFault(where, fault.message, fault.cure, fault.open, fault.noted)


def _format_fault(item: ErrorDetails, given: Any) -> PageFault:
    where = _real_path(item["loc"], given)
    name = str(next((part for part in reversed(where) if isinstance(part, str)), "page"))
    got = item.get("input")
    shown = f", got {got!r}"[:60] if isinstance(got, str | int | float | bool) and item["type"] not in EMPTY else ""
    message, cure = sentence(item, name)
    return PageFault(where, f"{name}: {message}{shown}", cure)


def _real_path(loc: tuple[str | int, ...], given: Any) -> Where:
    """The part of a validator's path that exists in the file."""
    where: list[str | int] = []
    here: Any = given
    named = [part for part in loc if part not in (PLAIN, SAID)]
    for place, part in enumerate(named):
        inside = _inside(here, part)
        if inside is not MISSING:
            here = inside
        elif place < len(named) - 1 or not isinstance(here, dict):
            continue
        where.append(part)
    return tuple(where)


def _inside(here: Any, part: str | int) -> Any:
    if isinstance(here, dict):
        return here.get(part, MISSING)
    if isinstance(here, list) and isinstance(part, int) and part < len(here):
        return here[part]
    return MISSING


def _placed(fault: PageFault, tree: Tree) -> FileFault:
    return FileFault(tree.line(fault.where), path_words(fault.where), fault.message, fault.cure, fault.open, fault.noted)
