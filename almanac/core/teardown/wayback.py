"""The words of a step of the way back, made of what it opened: parts, covers, leads, fasteners (never "in reverse")."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from almanac.core.teardown.fasteners import closing_order
from almanac.core.teardown.operations import Fasteners, Operation, Plug

PLUG_BACK = {
    "press_fit": "push the {name} in, straight, by its body",
    "slide": "slide the {name} in by its body, never by the wires",
    "bail": "slide the {name} in, then swing its bail back over",
    "flip_latch": "lay the {name} in to its mark, straight, then press the latch down",
    "tab": "push the {name} in, in line with its socket",
    "screwed_plate": "set the {name} on, then fasten its plate",
    "antenna": "press the {name} straight down on its own post until it clicks",
}
OTHER_BACK = "plug the {name} back as it was"
VERBS = {"clip": "close", "jack": "drive", "cam": "turn", "latch": "engage"}
NAMES = {"jack": "jack screws", "cam": "cams", "latch": "latches", "clip": "clips"}


def way_back(step: Operation, labels: Mapping[str, str] | None = None) -> str:
    """What to do to undo a step, where its page has no words for it.

    A cover's leads go on before it closes, a part's after it is held. What was destroyed does not go back: a new one does.

    Parameters
    ----------
    step : of the way in · labels : of positions by key

    Returns
    -------
    str : one sentence
    """
    if step.back.text:
        return step.back.text
    if step.back.left_out:
        return f"Not put back: {step.text}"
    leads = [PLUG_BACK.get(plug.kind, OTHER_BACK).format(name=_named(plug)) for plug in step.plugs]
    held = _held(step.fasteners)
    parts = [*leads, *_laid(step, labels or {}), *held] if step.layer else [*_laid(step, labels or {}), *held, *leads]
    if not parts:
        return f"How this goes back is not described; it came off so: {step.text}"
    words = joined(parts, ", then ")
    return words[0].upper() + words[1:]


def _laid(step: Operation, labels: Mapping[str, str]) -> list[str]:
    """The cover or the parts set back in."""
    if step.one_way and step.one_way.destroys:
        return [f"fit the new {labels.get(step.one_way.destroys, step.one_way.destroys).lower()}: what was destroyed does not go back"]
    if step.layer:
        return [f"set the {step.layer} back on"]
    names = [labels.get(key, key.replace("_", " ")).lower() for key in step.frees]
    return [f"set the {joined(names, ' and the ')} in"] if names else []


def _held(fasteners: Iterable[Fasteners]) -> list[str]:
    """Clips first, then jack screws, then the rest (rule F5); equal verbs in one clause."""
    by_verb: dict[str, list[str]] = {}
    for item in closing_order(fasteners):
        verb = VERBS.get(item.kind) or ("tighten" if item.captive else "drive")
        by_verb.setdefault(verb, []).append(_counted(item))
    return [f"{verb} {joined(words, ' and ')}" for verb, words in by_verb.items()]


def _counted(item: Fasteners) -> str:
    """3 x PH1 M2.5x8; of a number nobody knows, all that came out."""
    named = NAMES.get(item.kind, "captive screws" if item.captive else "screws")
    what = item.group if item.kind == "screw" and item.group != "screw" else named
    printed = ", in the printed order, in turns" if item.numbered else ""
    if item.count.exact:
        return f"{item.count.number} x {what}{printed}" if item.kind == "screw" else f"{item.count.number} {what}{printed}"
    return f"all {what} that came out ({item.count.words}){printed}"


def _named(plug: Plug) -> str:
    words = plug.name
    return words if any(words.endswith(end) for end in ("lead", "plug", "ribbon", "cable", "connector")) else f"{words} lead"


def joined(parts: Sequence[str], last: str) -> str:
    """a, b, then c."""
    return parts[0] if len(parts) == 1 else ", ".join(parts[:-1]) + last + parts[-1] if parts else ""
