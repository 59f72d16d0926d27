"""Printed sheets of a route: the route sheet and the screw mat at true scale."""

from __future__ import annotations

from almanac.core.teardown.mat import Mat
from almanac.core.teardown.operations import Fasteners, Operation, Plug
from almanac.core.teardown.route import Power
from almanac.core.teardown.sides import SIDES
from almanac.exchange.mats import MatSheet, mat_pdf
from almanac.exchange.sheets import RouteLine, RouteSheet, route_pdf
from almanac.services.pages.plan import PlannedRoute, mat_of

KINDS = {"jack": ("jack screw", "jack screws"), "cam": ("cam", "cams"), "latch": ("latch", "latches"), "clip": ("clip", "clips")}


def fastener_words(item: Fasteners) -> str:
    """One group in words: 3 x PH1 M2.5x8, loose, under the label."""
    held = "captive" if item.captive else "loose" if item.captive is False else "captive or loose not known"
    one, many = KINDS.get(item.kind, (held, held))
    named = one in item.group or item.kind in item.group
    words = [f"{item.count} × {item.group}"] + ([] if named else [one if item.count == 1 else many])
    if item.hidden:
        words.append(f"under {item.hidden}")
    if item.decoys:
        words.append(f"{item.decoys} decoys beside it stay")
    return ", ".join(words)


def route_sheet_pdf(planned: PlannedRoute) -> bytes:
    """The route to print and take to the bench."""
    labels = {key: place.label for key, place in planned.teardown.places.items()}
    route = planned.route
    cautions: dict[str, list[str]] = {}
    for caution in route.cautions:
        cautions.setdefault(caution.operation, []).append(caution.text)
    sheet = RouteSheet(
        title=f"Route: {planned.page.name}",
        about=f"To {', '.join(labels[key] for key in route.targets)}. {route.minutes_open.mean:.0f} min to open, "
        f"{route.minutes_close.mean:.0f} min to close. Revision {planned.page.number} of the page.",
        notes=_notes(planned, labels),
        kit=[
            ("Tools", ", ".join(route.kit.tools) or "none"),
            ("Aids", ", ".join(route.kit.aids) or "none"),
            ("Used up", ", ".join(route.kit.consumables) or "nothing"),
            ("Spares", ", ".join(route.kit.spares) or "none"),
        ],
        steps=[_line(step, cautions.get(step.id, [])) for step in route.steps],
        back=[
            RouteLine(step.text, "", f"{step.minutes.mean:.1f}", "", [f"plug back {lead}" for lead in step.leads], [])
            for step in route.reassembly.steps
        ],
        tray=[(group.group, str(group.loose), str(group.captive), str(group.unknown)) for group in route.tray],
        leads=list(route.reassembly.leads),
    )
    return route_pdf(sheet)


def _notes(planned: PlannedRoute, labels: dict[str, str]) -> list[str]:
    notes = [f"{labels[item.target]}: {item.unit.reason}; reached as {labels[item.reached]}" for item in planned.route.escalations]
    notes += [f"No way back after “{step.text}”: {step.one_way.reason}" for step in planned.route.one_way if step.one_way]
    notes += [f"Move over from the old {labels[key].lower()}: {', '.join(items)}" for key, items in planned.carries_over.items()]
    if planned.page.whole.get("unverified"):
        notes.append(f"This page is not verified: {planned.page.whole['unverified']}")
    if planned.route.power is Power.UNKNOWN:
        notes.append("No step of this page cuts the power: stop and find out how before anything inside is touched")
    return notes


def _line(step: Operation, cautions: list[str]) -> RouteLine:
    touched = [fastener_words(item) for item in step.fasteners] + [_plug_words(plug) for plug in step.plugs]
    marks = [word for word, on in (("power on", step.live), ("no way back", step.one_way), ("cuts the power", step.isolates)) if on]
    return RouteLine(step.text, step.tool or "hands", f"{step.minutes.mean:.1f}", ", ".join(marks), touched, cautions)


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
