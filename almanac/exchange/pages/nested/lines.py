"""Entries of a page written on one line: boxes, points, minutes, fasteners, plugs, lists and needs; and back."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from almanac.core.parts.proposals import fastener_entry
from almanac.core.teardown.shorthand import read_shorthand, write_shorthand
from almanac.core.teardown.written import fasteners_of
from almanac.exchange.pages.nested.statements import statement_line, statement_of

BOX = re.compile(r"^\s*(-?[\d.]+)[ ,]+(-?[\d.]+)[ ,]+([\d.]+)\s*[x×]\s*([\d.]+)\s*$")
AT = re.compile(r"@\s*([-\d.,\s]+)$")
HIDDEN = re.compile(r"\bunder\s+(.+)$")
NAMED = re.compile(r"\bas\s+(\S[^@]*?)\s*$")
DECOYS = re.compile(r",?\s*(\S+)\s+decoys?\b")
PLUG_KINDS = ("slide", "press_fit", "bail", "flip_latch", "tab", "screwed_plate", "antenna", "other", "unknown")
GRADED = ("kind", "release")
RELEASES = {"to hinge": "hinge", "to front": "front", "to left": "left", "to right": "right", "straight up": "straight up"}


class NotALine(ValueError):
    """What was written is none of the form: what was wanted."""


def number(text: str) -> int | float:
    """A figure, whole where it is."""
    value = float(text)
    return int(value) if value == int(value) else value


def box_of(text: str) -> dict[str, Any]:
    """ "20 16 78x24" : x, y, width and depth, mm.

    Raises
    ------
    NotALine
    """
    found = BOX.match(text)
    if not found:
        raise NotALine("x y widthxdepth in mm was wanted, such as 20 16 78x24")
    return dict(zip(("x_mm", "y_mm", "width_mm", "depth_mm"), (number(part) for part in found.groups()), strict=True))


def box_line(box: Mapping[str, Any]) -> str:
    return f"{box['x_mm']:g} {box['y_mm']:g} {box['width_mm']:g}x{box['depth_mm']:g}"


def points_of(text: str) -> list[list[Any]]:
    """ "10,8 312,8" : points, mm.

    Raises
    ------
    NotALine
    """
    points = []
    for pair in text.split():
        parts = pair.split(",")
        if len(parts) != 2 or not all(re.fullmatch(r"-?\d+(\.\d+)?", part) for part in parts):
            raise NotALine("points as x,y in mm were wanted, such as 10,8 312,8")
        points.append([number(part) for part in parts])
    return points


def points_line(points: Sequence[Sequence[Any]]) -> str:
    return " ".join(f"{x:g},{y:g}" for x, y in points)


def minutes_of(value: Any) -> Any:
    """ "2.5 3.5 6" : low, likely and high; one figure stays one; anything else is left for the format to judge."""
    if not isinstance(value, str):
        return value
    figures = re.split(r"[\s/-]+", value.removesuffix("min").strip())
    if not all(re.fullmatch(r"\d*\.?\d+", figure) for figure in figures) or len(figures) not in (1, 3):
        raise NotALine("one figure, or low likely high was wanted, such as 2.5 3.5 6")
    if len(figures) == 1:
        return number(figures[0])
    return dict(zip(("low", "likely", "high"), (number(figure) for figure in figures), strict=True))


def minutes_line(minutes: Any) -> Any:
    return f"{minutes['low']:g} {minutes['likely']:g} {minutes['high']:g}" if isinstance(minutes, Mapping) else minutes


BACK = re.compile(r"^(?P<text>.*?)\s*;\s*(?P<minutes>[\d.]+(?:\s+[\d.]+\s+[\d.]+)?)\s*min$", re.DOTALL)


def back_of(value: str) -> dict[str, Any]:
    """ "Close the clips first; 2 3 5 min" : words of the way back, and its minutes where they are another."""
    found = BACK.match(value)
    return {"text": found["text"], "minutes": minutes_of(found["minutes"])} if found else {"text": value}


def back_line(back: Mapping[str, Any]) -> str | None:
    """The same on one line; None where it says more."""
    if not isinstance(back.get("text"), str):
        return None
    line = f"{back['text']}; {minutes_line(back['minutes'])} min" if back.get("minutes") else back["text"]
    return line if back_of(line) == dict(back) else None


def list_of(value: Any) -> Any:
    """ "plastic pry, soft mat" : a list; a list stays one."""
    return [item.strip() for item in value.split(",") if item.strip()] if isinstance(value, str) else value


def list_line(items: Sequence[str]) -> Any:
    """One line where it reads back as it was."""
    line = ", ".join(items)
    return line if items and list_of(line) == list(items) else list(items)


def needs_of(value: Any) -> Any:
    """ "lid, small_pack_out | large_pack_out, tape_off?" : of those with a bar one is enough; one in doubt was only done first."""
    if not isinstance(value, str):
        return value
    return [_need(need) for need in list_of(value)]


def _need(need: str) -> Any:
    if "|" in need:
        return {"any": [name.strip() for name in need.split("|")]}
    return {"done": need.removesuffix("?").strip()} if need.endswith("?") else need


def needs_line(needs: Sequence[Any]) -> Any:
    line = ", ".join(need if isinstance(need, str) else f"{need['done']}?" if "done" in need else " | ".join(need["any"]) for need in needs)
    return line if needs_of(line) == list(needs) else list(needs)


def fasteners_from(value: Any) -> Any:
    """ "3x PH1 M2.5x8 loose @10,8 312,8 161,206; 1x PH1 M2.5x4 under the label as rim" : groups by semicolon.

    Raises
    ------
    NotALine : a group that is not understood whole
    """
    if not isinstance(value, str):
        return value
    return [_fastener(item.strip()) for item in value.split(";") if item.strip()]


def _fastener(text: str) -> dict[str, Any]:
    at, rest = AT.search(text), AT.sub("", text).strip()
    named, rest = NAMED.search(rest), NAMED.sub("", rest).strip()
    hidden, rest = HIDDEN.search(rest), HIDDEN.sub("", rest).strip()
    decoys, rest = DECOYS.search(rest), DECOYS.sub("", rest).strip()
    read = read_shorthand(rest)
    if len(read.groups) != 1 or read.unread or read.places != (None,):
        unread = f"; not understood: {', '.join(read.unread)}" if read.unread else ""
        raise NotALine(f"a group such as 3x PH1 M2.5x8 captive @10,8 was wanted, got {text!r}{unread}")
    entry = fastener_entry(read.groups[0])
    if named:
        entry["group"] = named[1].strip()
    if hidden:
        entry["hidden"] = hidden[1].strip()
    if decoys:
        entry["decoys"] = int(decoys[1]) if decoys[1].isdigit() else decoys[1]
    if at:
        entry["at"] = points_of(at[1])
    return entry


def fasteners_line(items: Sequence[Mapping[str, Any]]) -> Any:
    """One line where it reads back as it was, else the entries."""
    try:
        line = "; ".join(_fastener_line(item) for item in items)
        return line if items and fasteners_from(line) == [dict(item) for item in items] else [dict(item) for item in items]
    except NotALine:
        return [dict(item) for item in items]


def _fastener_line(item: Mapping[str, Any]) -> str:
    line = write_shorthand([replace(fasteners_of(item), hidden=None)])
    plain = fastener_entry(read_shorthand(line).groups[0])
    return " ".join(
        [
            line,
            *([f"{item['decoys']} decoys"] if item.get("decoys") else []),
            *([f"under {item['hidden']}"] if item.get("hidden") else []),
            *([f"as {item['group']}"] if plain["group"] != item["group"] else []),
            *([f"@{points_line(item['at'])}"] if item.get("at") else []),
        ]
    )


def plugs_from(value: Any) -> Any:
    """ "battery lead: slide to front @170,112; fan lead" : name, kind, release and place; nobody looked at one without a kind.

    Raises
    ------
    NotALine : words that are none of these
    """
    if isinstance(value, list):
        return [_graded(item) if isinstance(item, dict) else item for item in value]
    if not isinstance(value, str):
        return value
    return [_plug(item.strip()) for item in value.split(";") if item.strip()]


def _graded(plug: Mapping[str, Any]) -> dict[str, Any]:
    return {part: statement_of(said) if part in GRADED else said for part, said in plug.items()}


def _plug(text: str) -> dict[str, Any]:
    at, rest = AT.search(text), AT.sub("", text).strip()
    name, _, how = rest.partition(":")
    entry: dict[str, Any] = {"name": name.strip(), "kind": "unknown"}
    words = " ".join(how.split())
    for said, release in RELEASES.items():
        if words.endswith(said):
            entry["release"], words = release, words.removesuffix(said).strip(" ,")
    kind = words.replace(" ", "_")
    if kind and kind not in (*PLUG_KINDS, "?"):
        raise NotALine(f"a plug such as fan lead: press fit to left @236,76 was wanted; {words!r} is none of {', '.join(PLUG_KINDS)}")
    entry["kind"] = "unknown" if kind == "?" else kind or "unknown"
    return {**entry, "at": points_of(at[1])[0]} if at else entry


def plugs_line(plugs: Sequence[Mapping[str, Any]], evidence: Mapping[str, Any]) -> Any:
    """One line where it reads back as it was, else the entries; evidence : that holds where a statement says nothing."""
    if any(isinstance(plug.get(part), list) for plug in plugs for part in GRADED):
        return [
            {part: statement_line(value, evidence) if part in GRADED and isinstance(value, list) else value for part, value in plug.items()}
            for plug in plugs
        ]
    said = {release: words for words, release in RELEASES.items()}
    lines = []
    for plug in plugs:
        kind = [] if plug["kind"] == "unknown" else [plug["kind"].replace("_", " ")]
        how = " ".join([*kind, *([said[plug["release"]]] if plug.get("release") else [])])
        lines.append((f"{plug['name']}: {how}" if how else plug["name"]) + (f" @{points_line([plug['at']])}" if plug.get("at") else ""))
    line = "; ".join(lines)
    try:
        return line if plugs and plugs_from(line) == [dict(plug) for plug in plugs] else [dict(plug) for plug in plugs]
    except NotALine:
        return [dict(plug) for plug in plugs]
