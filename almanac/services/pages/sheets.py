"""Printed sheets of a route: the route sheet and the screw mat at true scale."""

from __future__ import annotations

from almanac.core.teardown.aside import aside_words
from almanac.core.teardown.counts import NONE, Count
from almanac.core.teardown.doubts import step_doubts
from almanac.core.teardown.fasteners import TrayGroup
from almanac.core.teardown.mat import Mat
from almanac.core.teardown.minutes import Minutes
from almanac.core.teardown.operations import Fasteners, Operation, Plug
from almanac.core.teardown.route import Power
from almanac.core.teardown.sides import SIDES
from almanac.exchange.mats import MatSheet, mat_pdf
from almanac.exchange.sheets import RouteLine, RouteSheet, route_pdf
from almanac.services.pages.plan import PlannedRoute, mat_of

ONE = Count(1)
MENTIONED_MINUTES = 0.5
"""Fewer estimated minutes are not worth a word."""
KINDS = {"jack": ("jack screw", "jack screws"), "cam": ("cam", "cams"), "latch": ("latch", "latches"), "clip": ("clip", "clips")}


def fastener_words(item: Fasteners) -> str:
    """One group in words: 3 x PH1 M2.5x8, loose, under the label."""
    held = (
        "mostly captive"
        if item.mostly
        else "captive"
        if item.captive
        else "loose"
        if item.captive is False
        else "captive or loose not known"
    )
    one, many = KINDS.get(item.kind, (held, held))
    named = one in item.group or item.kind in item.group
    words = [f"{item.count.words} × {item.group}"] + ([] if named else [one if item.count == ONE else many])
    if item.hidden:
        words.append(f"under {item.hidden}")
    if item.decoys != NONE:
        words.append(f"{item.decoys.words} {'decoy' if item.decoys == ONE else 'decoys'} beside it stay")
    return ", ".join(words)


def route_sheet_pdf(planned: PlannedRoute) -> bytes:
    """The route to print and take to the bench."""
    labels = {key: place.label for key, place in planned.teardown.places.items()}
    route = planned.route
    cautions: dict[str, list[str]] = {}
    for caution in route.cautions:
        cautions.setdefault(caution.operation, []).append(caution.text)
    least = "at least " if route.ends else ""
    guessed = f", {route.estimated:.0f} of them estimated because nobody timed them" if route.estimated >= MENTIONED_MINUTES else ""
    sheet = RouteSheet(
        title=f"Route: {planned.page.name}",
        about=f"To {', '.join(labels[key] for key in route.targets)}. {least}{route.minutes_open.mean:.0f} min to open, "
        f"{least}{route.minutes_close.mean:.0f} min to close{guessed}. Revision {planned.page.number} of the page.",
        notes=_notes(planned, labels),
        kit=[
            ("Tools", ", ".join([*route.kit.tools, *_unsaid(route.kit.unsaid)]) or "none"),
            ("Aids", ", ".join(route.kit.aids) or "none"),
            ("Used up", ", ".join(route.kit.consumables) or "nothing"),
            ("Spares", ", ".join(route.kit.spares) or "none"),
        ],
        steps=[_line(step, planned, cautions.get(step.id, [])) for step in route.steps],
        back=[RouteLine(step.text, "", _minutes(step.minutes), "", [], list(step.cautions)) for step in route.reassembly.steps],
        tray=[(group.group, _tray(group, group.loose), str(group.captive), _tray(group, group.unknown)) for group in route.tray],
        leads=list(route.reassembly.leads),
    )
    return route_pdf(sheet)


def _minutes(minutes: Minutes) -> str:
    return f"about {minutes.mean:.1f}, estimated" if minutes.estimated else f"{minutes.mean:.1f}"


def _unsaid(steps: int) -> list[str]:
    return [f"and what {steps} step{'s' if steps > 1 else ''} of the page do{'' if steps > 1 else 'es'} not say"] if steps else []


def _tray(group: TrayGroup, number: int) -> str:
    return Count(number, group.least, group.about).words if number or not group.counted else str(number)


def _notes(planned: PlannedRoute, labels: dict[str, str]) -> list[str]:
    notes = [f"{labels[item.target]}: {item.unit.reason}; reached as {labels[item.reached]}" for item in planned.route.escalations]
    notes += [f"No way back after “{step.text}”: {step.one_way.reason}" for step in planned.route.one_way if step.one_way]
    notes += [f"Move over from the old {labels[key].lower()}: {', '.join(items)}" for key, items in planned.carries_over.items()]
    if planned.page.whole.get("unverified"):
        notes.append(f"This page is not verified: {planned.page.whole['unverified']}")
    notes += [words for _, words in planned.route.ends]
    notes += [f"This way takes for granted what nobody knows of the machine: {name.replace('_', ' ')}" for name in planned.route.depends]
    if planned.route.power is Power.UNKNOWN:
        notes.append("No step of this page cuts the power: stop and find out how before anything inside is touched")
    return notes


def _line(step: Operation, planned: PlannedRoute, cautions: list[str]) -> RouteLine:
    touched = [fastener_words(item) for item in step.fasteners] + [_plug_words(plug) for plug in step.plugs]
    touched += [*aside_words(step, planned.page.whole, planned.teardown), *step_doubts(step, planned.teardown)]
    marks = [word for word, on in (("power on", step.live), ("no way back", step.one_way), ("cuts the power", step.isolates)) if on]
    return RouteLine(step.text, step.tools.words, _minutes(step.minutes), ", ".join(marks), touched, cautions)


def _plug_words(plug: Plug) -> str:
    release = f", release towards the {plug.release}" if plug.release in SIDES else f", {plug.release}" if plug.release else ""
    return f"{plug.name}: {plug.kind.replace('_', ' ')}{release}"


def screw_mat_pdf(planned: PlannedRoute, *, paper: str) -> bytes:
    """The screw mat of a route at true scale.

    Raises
    ------
    Refused : the page has no plan size, or there is no such paper
    """
    mat: Mat = mat_of(planned.page, planned.route, paper=paper)
    plan = planned.page.whole["plan"]
    steps = [f"{number}. {step.text}" for number, step in enumerate(planned.route.steps, 1)]
    boxes = [(place.label, place.box) for place in planned.teardown.places.values() if place.box]
    return mat_pdf(
        MatSheet(planned.page.name, plan["width_mm"], plan["depth_mm"], plan.get("hinge_edge") or "hinge edge", mat, steps, boxes)
    )
