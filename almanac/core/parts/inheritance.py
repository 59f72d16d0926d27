"""A sibling's page taken over: only the differences are stated, and what is taken over is marked."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.parts.page_forms import current_form

OWN = ("page_format", "maker", "name", "family", "form", "unverified", "inherits", "removed", "identity", "notes", "photos", "claims")
"""Parts of a page that are never taken over."""
KEYED = {"positions": "key", "operations": "id"}


def whole_page(page: Mapping[str, Any], sibling: Mapping[str, Any] | None = None) -> Mapping[str, Any]:
    """A page as everything that is computed reads it: in the present form, with what it takes over.

    Parameters
    ----------
    page : as written, in any form · sibling : the whole page it inherits from, where it does

    Returns
    -------
    a page in the present form
    """
    own = own_page(page, sibling)
    return inherit(own, sibling) if sibling else own


def own_page(page: Mapping[str, Any], sibling: Mapping[str, Any] | None = None) -> Mapping[str, Any]:
    """A page as written, in the present form; what is left out because the sibling has it stays out."""
    return current_form(page, {step["id"] for step in (sibling or {}).get("operations") or []})


def inherit(page: Mapping[str, Any], sibling: Mapping[str, Any]) -> dict[str, Any]:
    """The whole page of a model that states only its differences.

    Entries of positions and operations are matched by key or id: what the own page writes replaces the sibling's field by field.

    Parameters
    ----------
    page : as written, with `inherits` · sibling : the sibling's whole page

    Returns
    -------
    dict : a new page; facts taken over carry `inherited_from`
    """
    name = f"{sibling['maker']} {sibling['name']}"
    whole = {key: _marked(value, name) for key, value in sibling.items() if key not in OWN}
    removed = page.get("removed") or {}
    whole["operations"] = [_without(step, removed) for step in whole.get("operations") or []]
    for part, key in KEYED.items():
        left_out = set(removed.get(part) or [])
        kept = [entry for entry in whole.get(part) or [] if entry[key] not in left_out]
        whole[part] = _merged_list(kept, page.get(part) or [], key)
    for part, value in page.items():
        if part in KEYED:
            continue
        whole[part] = _merged(whole.get(part), value) if part in ("options", "facts", "opening") else value
    if sibling.get("identity") and "label_place" in sibling["identity"]:
        identity = dict(whole.get("identity") or {})
        identity.setdefault("label_place", sibling["identity"]["label_place"])
        whole["identity"] = identity
    return whole


def _without(step: Mapping[str, Any], removed: Mapping[str, list[str]]) -> dict[str, Any]:
    """A step taken over, without the names of what this model has not."""
    positions, operations = set(removed.get("positions") or []), set(removed.get("operations") or [])
    kept = dict(step)
    for part in ("frees", "exposes"):
        if part in kept:
            kept[part] = [name for name in kept[part] if name not in positions]
    if "needs" in kept:
        kept["needs"] = [need for need in kept["needs"] if not _names(need) <= operations]
    return kept


def _names(need: Any) -> set[str]:
    if isinstance(need, str):
        return {need}
    return {need["done"]} if "done" in need else set(need["any"])


def _merged_list(kept: list[dict[str, Any]], own: list[Mapping[str, Any]], key: str) -> list[dict[str, Any]]:
    by_key = {entry[key]: dict(entry) for entry in own}
    known = {entry[key] for entry in kept}
    changed = [_merged(entry, by_key[entry[key]]) if entry[key] in by_key else entry for entry in kept]
    return [*changed, *(entry for entry in by_key.values() if entry[key] not in known)]


def _merged(old: Any, new: Any) -> Any:
    """Field by field where both are mappings, otherwise the new one."""
    if isinstance(old, dict) and isinstance(new, Mapping) and "value" not in new:
        return {**old, **{key: _merged(old.get(key), value) for key, value in new.items()}}
    return new


def _marked(value: Any, name: str) -> Any:
    """A copy whose facts and entries say where they come from."""
    if isinstance(value, list):
        return [_marked(item, name) for item in value]
    if not isinstance(value, dict):
        return value
    copy = {key: _marked(item, name) for key, item in value.items()}
    if "value" in copy and "grade" in copy:
        copy.setdefault("inherited_from", name)
    return copy
