"""From the flat page that is kept to the second file form: as short as it reads back."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from almanac.exchange.pages.format import OperationEntry, PositionEntry
from almanac.exchange.pages.nested import lines
from almanac.exchange.pages.nested.statements import evidence_line, statement_line
from almanac.exchange.pages.nested.structure import FLAGS, flags_of, parts_beneath
from almanac.exchange.pages.nested.unfold import FACTS, LISTS, OF_STEP, STATED

PART_ORDER = list(PositionEntry.model_fields)
STEP_ORDER = ["shows", *OperationEntry.model_fields]
OF_PART = ("key", "label", "kind", "serviceability")
SHORTER = {"consumables": "uses", "fasteners": "screws"}
SHARED = ("evidence", "photos", "when")
"""Said of the part where part and way out are one entry; a step that says them stands by itself."""


def fold(page: Mapping[str, Any]) -> dict[str, Any]:
    """A page in the second file form.

    A page that states only what differs from a sibling stays flat: what follows from its structure follows from the sibling's too.

    Parameters
    ----------
    page : a page document in its stored form

    Returns
    -------
    dict : read back it gives the page
    """
    found = {key: value for key, value in page.items() if key not in ("positions", "operations")}
    folding = _Folding(page)
    if isinstance(page.get("evidence"), Mapping):
        found["evidence"] = evidence_line(page["evidence"])
    if page.get("facts"):
        found["facts"] = {name: folding.fact(value) for name, value in page["facts"].items()}
    if page.get("identity"):
        found["identity"] = folding.identity(page["identity"])
    if page.get("inherits"):
        found |= {part: [short(entry) for entry in page[part]] for part, short in folding.flat() if page.get(part)}
        return found
    parts, steps = folding.tree()
    return {**found, **({"parts": parts} if parts else {}), **({"steps": steps} if steps else {})}


def arranged(page: Mapping[str, Any]) -> dict[str, Any]:
    """A page whose positions stand in the order they come out, so that each can be one entry with its way out."""
    if page.get("inherits"):
        return dict(page)
    outs = [step["frees"][0] for step in page.get("operations") or [] if len(step.get("frees") or []) == 1]
    order = {key: number for number, key in enumerate(outs)}
    positions = sorted(page.get("positions") or [], key=lambda entry: order.get(entry["key"], -1))
    place = {entry["key"]: number for number, entry in enumerate(positions)}
    operations = [
        {**step, "exposes": sorted(step["exposes"], key=lambda key: place.get(key, len(place)))} if step.get("exposes") else step
        for step in page.get("operations") or []
    ]
    return {**page, "positions": positions, "operations": operations}


class _Folding:
    """Shortens the entries of one page and hangs them into a tree."""

    def __init__(self, page: Mapping[str, Any]) -> None:
        self._page = page
        self._evidence = page.get("evidence") or {}
        self._positions: Sequence[Mapping[str, Any]] = page.get("positions") or []
        self._operations: Sequence[Mapping[str, Any]] = page.get("operations") or []
        self._flags = flags_of(self._operations, {entry["key"]: entry["kind"] for entry in self._positions})
        self._order = [entry["key"] for entry in self._positions]

    def fact(self, statements: Any) -> Any:
        """A fact on one line."""
        return statement_line(statements, self._evidence)

    def identity(self, identity: Mapping[str, Any]) -> dict[str, Any]:
        """The label and the tells with their facts on one line."""
        found = {**identity, **({"label": self.fact(identity["label"])} if identity.get("label") else {})}
        if identity.get("tells"):
            found["tells"] = {key: {**tell, "value": self.fact(tell["value"])} for key, tell in identity["tells"].items()}
        return found

    def flat(self) -> tuple[tuple[str, Any], ...]:
        """How entries are shortened that stay where they are."""
        return ("positions", self._position), ("operations", lambda step: self._step(step, None))

    def tree(self) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
        """Parts that stand by themselves, and the steps, each beneath the one it needs."""
        inline = self._inline()
        parts = [_named(entry, self._position(entry)) for entry in self._positions if entry["key"] not in inline.values()]
        roots: list[dict[str, Any]] = []
        by_key = {entry["key"]: entry for entry in self._positions}
        above = self._parents()
        beneath = parts_beneath(self._operations, above, inline)
        made: dict[str, dict[str, Any]] = {}
        for step in self._operations:
            over = above[step["id"]]
            made[step["id"]] = self._entry(step, by_key.get(inline.get(step["id"], "")), over, beneath.get(step["id"], []))
            (made[over].setdefault("under", []) if over is not None else roots).append(made[step["id"]])
        return parts, roots

    def _parents(self) -> dict[str, str | None]:
        """The step each one is written beneath: the only one it needs, where the order of the page allows it."""
        path: list[str] = []
        found: dict[str, str | None] = {}
        for step in self._operations:
            needs = step.get("needs") or []
            above = needs[0] if len(needs) == 1 and isinstance(needs[0], str) else None
            while path and path[-1] != above:
                path.pop()
            found[step["id"]] = path[-1] if path else None
            path.append(step["id"])
        return found

    def _inline(self) -> dict[str, str]:
        """Parts that are one entry with the step that takes them out: the last ones of the page's order, as far as both orders agree."""
        out_of: dict[str, list[str]] = {}
        for step in self._operations:
            for key in step.get("frees") or []:
                out_of.setdefault(key, []).append(step["id"])
        able = {
            step["id"]: step["frees"][0]
            for step in self._operations
            if step.get("frees") and len(out_of[step["frees"][0]]) == 1 and not any(name in step for name in SHARED)
        }
        named = {entry["key"]: entry for entry in self._positions}
        able = {name: key for name, key in able.items() if key in named and OF_STEP.isdisjoint(named[key])}
        place = {name: number for number, name in enumerate(able)}
        step_of = {key: name for name, key in able.items()}
        found: dict[str, str] = {}
        before = len(place)
        for key in reversed(self._order):
            name = step_of.get(key)
            if name is None or place[name] >= before:
                break
            found[name], before = key, place[name]
        return found

    def _entry(self, step: Mapping[str, Any], part: Mapping[str, Any] | None, above: str | None, beneath: Sequence[str]) -> dict[str, Any]:
        """One step, with the part it takes out where they are one entry."""
        short = self._step(step, beneath)
        if above is not None:
            short.pop("needs", None)
        if part is None:
            return {step["id"]: step["text"], **{key: value for key, value in short.items() if key not in ("id", "text")}}
        also = (step.get("frees") or [])[1:]
        own = _named(part, self._position(part))
        named = {} if step["id"] == f"{part['key']}_out" else {"step": step["id"]}
        rest = {key: value for key, value in short.items() if key not in ("id", "text", "frees")}
        return {**own, "out": step["text"], **named, **({"also_frees": lines.list_line(also)} if also else {}), **rest}

    def _position(self, entry: Mapping[str, Any]) -> dict[str, Any]:
        found = dict(entry)
        for name in LISTS:
            if found.get(name):
                found[name] = lines.list_line(found[name])
        if found.get("place"):
            found["place"] = lines.box_line(found["place"])
        for name in FACTS:
            if found.get(name):
                found[name] = {fact: self.fact(value) for fact, value in found[name].items()}
        found |= {name: self.fact(found[name]) for name in STATED if isinstance(found.get(name), list)}
        if found.get("evidence"):
            found["evidence"] = evidence_line(found["evidence"])
        return {name: found[name] for name in sorted(found, key=PART_ORDER.index) if found[name] != []}

    def _step(self, step: Mapping[str, Any], beneath: Sequence[str] | None) -> dict[str, Any]:
        """A step on short lines; beneath : parts written beneath it, None where nothing follows from the structure."""
        found = dict(step)
        writers: dict[str, Callable[[Any], Any]] = {
            "fasteners": lines.fasteners_line,
            "plugs": lambda plugs: lines.plugs_line(plugs, self._evidence),
            "minutes": lines.minutes_line,
            "needs": lines.needs_line,
            "evidence": evidence_line,
            "frees": lines.list_line,
            "exposes": lines.list_line,
            **dict.fromkeys(LISTS, lines.list_line),
        }
        for name, write in writers.items():
            if found.get(name):
                found[name] = write(found[name])
        if found.get("lift_points"):
            found["lift_points"] = lines.points_line(found["lift_points"])
        if found.get("back"):
            found["back"] = _back(found["back"])
        if beneath is not None:
            self._derived(step, found, beneath)
        if step.get("tool") and step["tool"] == tool_of(step):
            found.pop("tool")
        kept = {name: value for name, value in found.items() if value != [] or name == "exposes"}
        return {SHORTER.get(name, name): kept[name] for name in sorted(kept, key=STEP_ORDER.index)}

    def _derived(self, step: Mapping[str, Any], found: dict[str, Any], beneath: Sequence[str]) -> None:
        """Leave out what follows from where the step stands, and say what does not follow."""
        flags = self._flags[step["id"]]
        for name in [name for name, value in found.items() if value is False and not flags.get(name)]:
            found.pop(name)  # off is as good as left out, where nothing turns it on
        for flag in FLAGS:
            if flags[flag] and step.get(flag) is True:
                found.pop(flag)
            elif flags[flag] and not step.get(flag):
                found[flag] = False
        exposes = step.get("exposes")
        more = [key for key in exposes or [] if key not in beneath]
        if exposes and exposes == [key for key in self._order if key in {*beneath, *more}] and set(beneath) <= set(exposes):
            found.pop("exposes")
            if more:
                found["shows"] = lines.list_line(more)
        elif beneath and not exposes:
            found["exposes"] = []


def tool_of(step: Mapping[str, Any]) -> str:
    """What the fasteners of a step ask for: its tool, where none is written."""
    return " + ".join(dict.fromkeys(item["bit"] for item in step.get("fasteners") or [] if item.get("bit")))


def _named(entry: Mapping[str, Any], short: dict[str, Any]) -> dict[str, Any]:
    """A position with its label, kind and how it is held as its head."""
    plain = isinstance(entry.get("serviceability"), str)
    head = f"{entry['label']}; {entry['kind']}" + (f"; {entry['serviceability']}" if plain else "")
    return {
        entry["key"]: head.replace("_", " ") if "_" in head and "_" not in entry["label"] else head,
        **{k: v for k, v in short.items() if k not in OF_PART or (k == "serviceability" and not plain)},
    }


def _back(back: Mapping[str, Any]) -> Any:
    found = dict(back)
    for name in ("before", "after"):
        if found.get(name):
            found[name] = lines.list_line(found[name])
    if found.get("minutes"):
        found["minutes"] = lines.minutes_line(found["minutes"])
    return lines.back_line(back) or found
