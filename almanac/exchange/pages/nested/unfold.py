"""From the second file form to the flat one that is checked and kept, with the place of every entry in the file."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from almanac.core.parts.faults import PageFault, Where
from almanac.core.parts.kinds import Kind, Serviceability
from almanac.exchange.pages.nested import lines
from almanac.exchange.pages.nested.statements import evidence_of, statement_of
from almanac.exchange.pages.nested.structure import flags_of, parts_beneath

KINDS = frozenset(kind.value for kind in Kind)
HELD = frozenset(held.value for held in Serviceability)
OF_STEP = frozenset(
    (
        *("tool", "aids", "uses", "consumables", "screws", "fasteners", "plugs", "minutes", "needs", "under", "shows", "exposes"),
        *("layer", "live", "isolates", "outside", "bare_board", "moves_sink", "optional", "one_way", "seal", "cautions"),
        *("lift_points", "keep_out", "back", "face", "also_frees"),
    )
)
"""What is said of the way out where a part and its removal are one entry; the rest is said of the part."""
RENAMED = {"uses": "consumables", "screws": "fasteners"}
LISTS = ("aids", "consumables", "attached", "included")
FACTS = ("takes", "fitted")
STATED = ("serviceability", "orderable", "ordered_unit")
"""Plain where the page's own evidence holds, statements where they are graded or sources differ."""


@dataclass
class Unfolded:
    """The flat page, where each of its entries stands in the file, and what could not be read."""

    page: dict[str, Any]
    places: dict[Where, Where] = field(default_factory=dict)
    faults: list[PageFault] = field(default_factory=list)

    def place(self, where: Where) -> Where:
        """Where an entry of the flat page stands in the file."""
        for length in range(len(where), 0, -1):
            if where[:length] in self.places:
                return (*self.places[where[:length]], *where[length:])
        return where


def is_nested(given: Mapping[str, Any]) -> bool:
    """Whether a file is written in the second form; a flat page of the second format is one as well."""
    return given.get("page_format") == 2


def unfold(given: Mapping[str, Any]) -> Unfolded:
    """A file of the second form as a flat page; a page that is flat already stays as it is but for its one-line entries.

    Parameters
    ----------
    given : as read

    Returns
    -------
    Unfolded : with a fault for every entry that cannot be read
    """
    walk = _Walk()
    page = {key: value for key, value in given.items() if key not in ("parts", "steps")}
    if "evidence" in page:
        page["evidence"] = evidence_of(page["evidence"])
    if isinstance(page.get("facts"), dict):
        page["facts"] = {name: statement_of(value) for name, value in page["facts"].items()}
    if isinstance(page.get("identity"), dict):
        page["identity"] = _identity(page["identity"])
    walk.flat(page)
    walk.list_of_parts(given.get("parts"), ("parts",))
    walk.steps_in(given.get("steps"), ("steps",), None)
    if "steps" in given or "parts" in given:
        page["positions"] = [*_listed(page.get("positions")), *walk.positions]
        page["operations"] = [*_listed(page.get("operations")), *walk.operations]
        walk.derive(page)
    found = Unfolded(page, {}, walk.faults)
    for part, places in (("positions", walk.at_positions), ("operations", walk.at_operations)):
        first = len(_listed(page.get(part))) - len(places)
        found.places.update({(part, first + number): place for number, place in enumerate(places)})
    return found


def _identity(identity: dict[str, Any]) -> dict[str, Any]:
    found = {**identity, **({"label": statement_of(identity["label"])} if "label" in identity else {})}
    if isinstance(found.get("tells"), dict):
        found["tells"] = {
            key: {**tell, "value": statement_of(tell["value"])} if isinstance(tell, dict) and "value" in tell else tell
            for key, tell in found["tells"].items()
        }
    return found


class _Walk:
    """Goes down the steps and gathers positions, operations, their places, and what could not be read."""

    def __init__(self) -> None:
        self.positions: list[dict[str, Any]] = []
        self.operations: list[dict[str, Any]] = []
        self.at_positions: list[Where] = []
        self.at_operations: list[Where] = []
        self.faults: list[PageFault] = []
        self._shown: dict[str, list[str]] = {}
        self._above: dict[str, str | None] = {}
        self._inline: dict[str, str] = {}

    def flat(self, page: dict[str, Any]) -> None:
        """One-line entries of positions and operations written flat."""
        for part, read in (("positions", self._position), ("operations", self._operation)):
            if isinstance(page.get(part), list):
                page[part] = [read(entry, (part, n)) if isinstance(entry, dict) else entry for n, entry in enumerate(page[part])]

    def list_of_parts(self, given: Any, where: Where) -> None:
        """Parts that stand by themselves: fixed for good, seen only, or taken out by several steps."""
        for entry, key, head, here in self._entries(given, where):
            self._part(entry, key, head, here)

    def steps_in(self, given: Any, where: Where, above: str | None) -> None:
        """Steps of one level, each with those beneath it."""
        for entry, key, head, here in self._entries(given, where):
            is_part = _part_head(head) is not None
            if is_part:
                own = {name: value for name, value in entry.items() if name not in OF_STEP and name not in ("out", "step")}
                self._part(own, key, head, here)
                if "out" not in entry:
                    self._fault(here, f"{key}: how it comes out is missing", "add out: with what is done, or list it under parts")
                    continue
            name = str(entry.get("step") or f"{key}_out") if is_part else key
            text = entry.get("out") if is_part else head
            step: dict[str, Any] = {"id": name, "text": text}
            if is_part:
                step["frees"] = [key, *_names(entry.get("also_frees"))]
            if above is not None and "needs" not in entry:
                step["needs"] = [above]
            kept = OF_STEP if is_part else frozenset(entry) - {"step", "out"}
            written = {key: value for key, value in entry.items() if key in kept and key not in ("under", "shows", "also_frees")}
            step |= self._operation(written, here)
            if "shows" in entry:
                self._shown[name] = _names(entry["shows"])
            self.operations.append(step)
            self._above[name] = above
            if is_part:
                self._inline[name] = key
            self.at_operations.append(here)
            self.steps_in(entry.get("under"), (*here, "under"), name)

    def derive(self, page: dict[str, Any]) -> None:
        """What follows from the structure, where nothing else is written."""
        entries = [entry for entry in page["positions"] if isinstance(entry, dict)]
        order = [str(entry.get("key")) for entry in entries]
        kinds = {str(entry.get("key")): str(entry.get("kind")) for entry in entries}
        flags = flags_of([_plain(step) for step in page["operations"] if isinstance(step, dict)], kinds)
        beneath = parts_beneath(self.operations, self._above, self._inline)
        for step in self.operations:
            bare = {*beneath.get(step["id"], []), *self._shown.get(step["id"], [])}
            if bare and "exposes" not in step:
                unknown = [key for key in self._shown.get(step["id"], []) if key not in order]
                step["exposes"] = [*(key for key in order if key in bare), *unknown]
            for flag, on in flags.get(str(step["id"]), {}).items():
                if on and flag not in step:
                    step[flag] = True
                elif step.get(flag) is False:  # said because it would follow otherwise
                    del step[flag]

    def _entries(self, given: Any, where: Where) -> list[tuple[dict[str, Any], str, str, Where]]:
        """Entries of a list with the name and the words each begins with."""
        if given is None:
            return []
        if not isinstance(given, list):
            self._fault(where, "a list of entries was wanted", "begin each with a dash, its name and what it is")
            return []
        found = []
        for number, entry in enumerate(given):
            here: Where = (*where, number)
            first = next(iter(entry.items()), None) if isinstance(entry, dict) else None
            if first is None or not isinstance(first[1], str):
                self._fault(
                    here, "an entry begins with its name and, behind a colon, what it is", "such as  - base_cover: Lift the base cover"
                )
                continue
            key, head = first
            found.append(({name: value for name, value in entry.items() if name != key}, key, head, here))
        return found

    def _part(self, entry: dict[str, Any], key: str, head: str, where: Where) -> None:
        told = _part_head(head)
        if told is None:
            kinds = ", ".join(sorted(KINDS))
            self._fault(
                where,
                f"{key}: label; kind; how it is held was wanted, got {head!r}",
                f"such as Memory slot A; memory; socketed (of {kinds})",
            )
            return
        self.positions.append(self._position({"key": key, **told, **entry}, where))
        self.at_positions.append(where)

    def _position(self, entry: dict[str, Any], where: Where) -> dict[str, Any]:
        found = dict(entry)
        for name in LISTS:
            if name in found:
                found[name] = lines.list_of(found[name])
        if isinstance(found.get("place"), str):
            found["place"] = self._read(where, "place", lines.box_of, found["place"])
        for name in FACTS:
            if isinstance(found.get(name), dict):
                found[name] = {fact: statement_of(value) for fact, value in found[name].items()}
        found |= {name: statement_of(found[name]) for name in STATED if name in found}
        if "evidence" in found:
            found["evidence"] = evidence_of(found["evidence"])
        return found

    def _operation(self, entry: dict[str, Any], where: Where) -> dict[str, Any]:
        found = {RENAMED.get(name, name): value for name, value in entry.items()}
        readers: dict[str, Callable[[Any], Any]] = {
            "fasteners": lines.fasteners_from,
            "plugs": lines.plugs_from,
            "minutes": lines.minutes_of,
            "needs": lines.needs_of,
            "exposes": lines.list_of,
            "frees": lines.list_of,
            "evidence": evidence_of,
            **dict.fromkeys(LISTS, lines.list_of),
        }
        for name, read in readers.items():
            if name in found:
                found[name] = self._read(where, name, read, found[name])
        if isinstance(found.get("lift_points"), str):
            found["lift_points"] = self._read(where, "lift_points", lines.points_of, found["lift_points"])
        if isinstance(found.get("back"), str):
            found["back"] = self._read(where, "back", lines.back_of, found["back"])
        if isinstance(found.get("back"), dict):
            found["back"] = self._back(found["back"], where)
        return found

    def _back(self, back: dict[str, Any], where: Where) -> dict[str, Any]:
        found = dict(back)
        for name in ("before", "after"):
            if name in found:
                found[name] = lines.list_of(found[name])
        if "minutes" in found:
            found["minutes"] = self._read((*where, "back"), "minutes", lines.minutes_of, found["minutes"])
        return found

    def _read(self, where: Where, name: str, read: Callable[[Any], Any], value: Any) -> Any:
        try:
            return read(value)
        except lines.NotALine as fault:
            self._fault((*where, _written(name)), f"{_written(name)}: {fault}", "see docs/page-format.md")
            return None

    def _fault(self, where: Where, message: str, cure: str) -> None:
        self.faults.append(PageFault(where, message, cure))


def _listed(value: Any) -> list[Any]:
    return value if isinstance(value, list) else []


def _names(value: Any) -> list[str]:
    """Names of a line or a list; anything else names nothing, and the format says so."""
    return [item for item in _listed(lines.list_of(value)) if isinstance(item, str)]


def _plain(step: Mapping[str, Any]) -> dict[str, Any]:
    """A step as its flags are derived from: what does not follow the format is left out."""
    return {**step, "id": str(step.get("id")), "needs": _listed(step.get("needs")), "frees": _names(step.get("frees"))}


def _written(name: str) -> str:
    return {"fasteners": "screws", "consumables": "uses"}.get(name, name)


def _part_head(head: str) -> dict[str, Any] | None:
    """ "Memory slot A; memory; socketed" : label, kind and how it is held; None where it is no part."""
    pieces = [piece.strip() for piece in head.rsplit(";", 2)]
    if len(pieces) == 3 and pieces[1].replace(" ", "_") in KINDS and pieces[2].replace(" ", "_") in HELD:
        return {"label": pieces[0], "kind": pieces[1].replace(" ", "_"), "serviceability": pieces[2].replace(" ", "_")}
    label, _, kind = (piece.strip() for piece in head.rpartition(";"))
    return {"label": label, "kind": kind.replace(" ", "_")} if label and kind.replace(" ", "_") in KINDS else None
