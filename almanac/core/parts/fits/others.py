"""Fans, radios and the parts that are only compared by their chassis (rules C1 to C4 and the survey of radios)."""

from __future__ import annotations

from collections.abc import Mapping

from almanac.core.parts.answers import Answer, Facts, all_of, known, no, unknown, yes


def _same(takes: Facts, part: Facts, key: str, name: str) -> Answer:
    place, given = known(takes, key), known(part, key)
    if place is None or given is None:
        return unknown(f"the {name} of the {'place' if place is None else 'part'} is not known", place, given)
    wanted = place.value if isinstance(place.value, list) else [place.value]
    if given.value not in wanted:
        return no(f"{name} {given.value}, the machine wants {' or '.join(map(str, wanted))}", place, given)
    return yes(f"{name} {given.value}", place, given)


def fit_fan(takes: Facts, fan: Facts) -> Answer:
    """Whether a fan goes where another sits: chassis, side, and what it comes with.

    Left and right are different parts until proven equal (rule C2). Alone or with its sink follows the unit ordered (C1).

    Parameters
    ----------
    takes : facts mount, side, ordered · fan : facts mount, side, with_heat_sink

    Returns
    -------
    Answer
    """
    answers = [_same(takes, fan, "mount", "chassis")]
    if known(takes, "side") is not None:
        answers.append(_same(takes, fan, "side", "side"))
    ordered, sink = known(takes, "ordered"), known(fan, "with_heat_sink")
    if ordered is None or sink is None:
        answers.append(unknown("whether it is ordered alone or with its heat sink is not known", ordered, sink))
    elif (ordered.value == "with sink") != bool(sink.value):
        answers.append(no(f"ordered {ordered.value}, this one comes {'with' if sink.value else 'without'} a heat sink", ordered, sink))
    else:
        answers.append(yes(f"ordered {ordered.value}", ordered, sink))
    return all_of(answers)


FAN_UNITS: dict[str, str] = {
    "alone": "the fan is ordered alone",
    "with sink": "the fan is ordered with its heat sink",
    "alone after tape": "the fan is ordered alone; its tape tears once and is replaced",
}


def fan_units(takes: Facts) -> tuple[str, ...]:
    """The units a fan may be ordered as; where it is unknown both are forecast and the range shown (rule C1).

    Parameters
    ----------
    takes : facts with `ordered`

    Returns
    -------
    tuple of str : one, or "alone" and "with sink"
    """
    ordered = known(takes, "ordered")
    return (str(ordered.value),) if ordered is not None and ordered.value in FAN_UNITS else ("alone", "with sink")


def fans_of_side(sides: list[str], side: str) -> int:
    """Units of exposure of a fan part in one machine: the fans of its side (rule C2)."""
    return sum(1 for fitted in sides if fitted == side)


def fans_of_asset(sides_by_option: Mapping[str, list[str]], option: str | None, side: str) -> tuple[int, int]:
    """Least and most fans of a side in one machine: its own option counts, not its model; unknown leaves a range (rule C3).

    Parameters
    ----------
    sides_by_option : sides of the fans of each option value · option : the machine's, None where not known · side : asked for

    Returns
    -------
    (least, most)
    """
    known_options = [option] if option is not None and option in sides_by_option else list(sides_by_option)
    counts = [fans_of_side(sides_by_option[value], side) for value in known_options]
    return min(counts, default=0), max(counts, default=0)


def sink_consumables(*, sink_moved: bool) -> tuple[str, ...]:
    """What the kit needs when a heat sink was moved (rule C4)."""
    return ("thermal paste", "wipes", "thermal pads") if sink_moved else ()


def fit_radio(takes: Facts, radio: Facts) -> Answer:
    """Whether a radio card can be exchanged: by form.

    Parameters
    ----------
    takes : facts form · radio : facts form

    Returns
    -------
    Answer
    """
    return _same(takes, radio, "form", "form")


def antenna_post(takes: Facts, colour: str) -> Answer:
    """Which post an antenna lead of a colour goes on; it differs by model and has no default.

    Parameters
    ----------
    takes : facts antennas, a mapping of colour to post

    Returns
    -------
    Answer : yes names the post
    """
    posts = known(takes, "antennas")
    if posts is None or colour not in posts.value:
        return unknown(f"the post of the {colour} lead is not recorded for this model: look before it comes off")
    return yes(f"{colour} on {posts.value[colour]}", posts)


def fit_by_chassis(takes: Facts, part: Facts) -> Answer:
    """Boards, keyboards, displays: the chassis must be the one the part is made for."""
    return _same(takes, part, "mount", "chassis")
