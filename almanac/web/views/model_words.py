"""From what the catalog's services return to what the page view sends."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.errors import ContractError
from almanac.core.parts.answers import known, stated
from almanac.core.parts.claims import orderable_code
from almanac.core.parts.declared.facts import label_of
from almanac.core.parts.declared.words import in_order, plain_words, takes_words
from almanac.core.parts.escalation import OrderedUnit, ordered_unit
from almanac.core.parts.facts import STRENGTH
from almanac.core.parts.holding import held_as
from almanac.core.parts.kinds import Kind
from almanac.core.parts.questions import OpenQuestion
from almanac.core.parts.stated import field
from almanac.core.teardown.aside import aside_words, clips_of
from almanac.core.teardown.carried import carried_over
from almanac.core.teardown.cautions import cautions_before
from almanac.core.teardown.counts import NONE, read_count
from almanac.core.teardown.depth import opening_steps
from almanac.core.teardown.doubts import step_doubts
from almanac.core.teardown.fasteners import total_agrees
from almanac.core.teardown.lift import lift_foot, start_edge
from almanac.core.teardown.minutes import Minutes
from almanac.core.teardown.operations import Fasteners, Operation
from almanac.core.teardown.sides import SIDES, on_plan
from almanac.core.teardown.standing import standing_of
from almanac.services.pages.library import Library, ModelPage
from almanac.services.pages.read import FittedPart, PageReading, PositionRow
from almanac.services.pages.sheets import fastener_words
from almanac.web.schemas import models as schemas


def minutes_view(minutes: Minutes) -> schemas.MinutesView:
    return schemas.MinutesView(low=minutes.low, likely=minutes.likely, high=minutes.high, mean=minutes.mean, estimated=minutes.estimated)


def named_facts(facts: Mapping[str, Any], kind: str = "") -> list[schemas.NamedFacts]:
    """Facts by name, the statement that holds first."""
    return [_named(facts, name, Kind(kind) if kind else None) for name in in_order(facts)]


def _named(facts: Mapping[str, Any], name: str, kind: Kind | None) -> schemas.NamedFacts:
    latest_first = sorted(stated(facts, name), key=lambda item: item["date"] or "", reverse=True)
    statements = sorted(latest_first, key=lambda item: STRENGTH[item["grade"]])
    label = label_of(name, kind)
    return schemas.NamedFacts(name=name, label=label, statements=[_fact(item, name, kind) for item in statements])


def _when_words(when: Mapping[str, Any] | None) -> str | None:
    return ", ".join(f"{name} {' or '.join(value) if isinstance(value, list) else value}" for name, value in (when or {}).items()) or None


def _fact(item: Mapping[str, Any], name: str, kind: Kind | None) -> schemas.FactView:
    return schemas.FactView(
        value=plain_words(kind, name, item["value"]),
        grade=item["grade"],
        source=item["source"],
        date=item["date"],
        when=_when_words(item.get("when")),
        inherited_from=item.get("inherited_from"),
        photos=item.get("photos") or [],
    )


def page_view(reading: PageReading, library: Library) -> schemas.ModelPageView:
    """One model's page as the interface shows it."""
    page, whole = reading.page, reading.page.whole
    identity, standing = whole.get("identity") or {}, standing_of(page.teardown, page.depths, reading.own_share)
    sibling = library.named(page.own["inherits"]) if page.own.get("inherits") else None
    return schemas.ModelPageView(
        model_id=page.model_id,
        maker=page.head.maker,
        name=page.head.name,
        family=page.head.family,
        form=page.head.form,
        fleet=reading.fleet,
        number=page.number,
        draft=page.draft,
        latest_number=reading.latest_number,
        draft_number=reading.draft_number,
        unverified=whole.get("unverified"),
        inherits=page.own.get("inherits"),
        inherits_id=sibling.model_id if sibling else None,
        label=_named(identity, "label", None) if identity.get("label") else None,
        label_place=identity.get("label_place"),
        looks_like=[_look_alike(entry, identity, library) for entry in identity.get("looks_like") or []],
        own_share=reading.own_share,
        standing=standing.words,
        standing_level=standing.level,
        facts=named_facts(whole.get("facts") or {}),
        options=_options(reading),
        plan=_plan(whole),
        opening=_opening(whole, page),
        positions=[_position(row, page) for row in reading.positions],
        steps=[_step(step, page) for step in page.teardown.operations.values()],
        layers=[schemas.LayerView(name=layer.name, minutes=layer.minutes, positions=list(layer.positions)) for layer in page.chart],
        open_facts=[_question(question) for question in reading.open_facts],
        claims=[schemas.ClaimView(text=text, state=state) for text, state in reading.claims],
        notes=[note["text"] for note in whole.get("notes") or []],
        profile=_profile(page),
    )


def _question(question: OpenQuestion) -> schemas.OpenFactView:
    return schemas.OpenFactView(
        where=question.where, text=question.text, cure=question.cure, stake=question.stake.name.lower(), worth=question.worth
    )


def _look_alike(entry: Mapping[str, Any], identity: Mapping[str, Any], library: Library) -> schemas.LookAlikeView:
    other = library.named(entry["model"])
    here = (identity.get("tells") or {}).get(entry["tell"])
    there = ((other.own.get("identity") or {}).get("tells") or {}).get(entry["tell"]) if other else None
    return schemas.LookAlikeView(
        model=entry["model"],
        model_id=other.model_id if other else None,
        ask=here["ask"] if here else None,
        here=_value(here),
        there=_value(there),
    )


def _value(tell: Mapping[str, Any] | None) -> str | None:
    found = known({"value": tell["value"]}, "value") if tell else None
    return str(found.value) if found else None


def _options(reading: PageReading) -> list[schemas.OptionView]:
    found = []
    for name, option in (reading.page.whole.get("options") or {}).items():
        counts = reading.options.get(name, {})
        agrees = reading.options_agree[name]
        found.append(
            schemas.OptionView(
                name=name,
                read=option.get("read"),
                values=[schemas.OptionValue(value=value, machines=counts.get(value, 0)) for value in option["values"]],
                unknown=max(reading.fleet - sum(counts.values()), 0),
                agrees=agrees.verdict.value,
                reason=agrees.reason,
            )
        )
    return found


def _plan(whole: Mapping[str, Any]) -> schemas.PlanView | None:
    plan = whole.get("plan")
    if not plan:
        return None
    return schemas.PlanView(
        width_mm=plan["width_mm"],
        depth_mm=plan["depth_mm"],
        seen=plan.get("seen") or "from below",
        hinge_edge=plan.get("hinge_edge") or "hinge edge",
    )


def _opening(whole: Mapping[str, Any], page: ModelPage) -> schemas.OpeningView:
    opening = whole.get("opening") or {}
    start = start_edge(opening)
    until_open = opening_steps(page.teardown)
    fasteners = [item for step in until_open for item in step.fasteners]
    counted = total_agrees(fasteners, opening.get("screws_counted")) if until_open else None
    return schemas.OpeningView(
        start=start.reason,
        known=start.verdict == "yes",
        hooks=opening.get("hooks"),
        clip_rows=[f"{read_count(row['clips']).words} at the {row['side']}" for row in opening.get("clip_rows") or []],
        feet=[
            schemas.FootView(
                name=foot["name"],
                hides=read_count(foot["hides"]).words if foot.get("hides") else None,
                unlike=bool(foot.get("unlike")),
                place=schemas.PointView(x_mm=foot["place"][0], y_mm=foot["place"][1]) if foot.get("place") else None,
                advice=lift_foot(foot).reason if foot.get("hides") else "nothing under it",
            )
            for foot in opening.get("feet") or []
        ],
        screws=counted.reason if counted else "no cover is described",
    )


def _position(row: PositionRow, page: ModelPage) -> schemas.PositionDetail:
    entry = row.entry
    takes = {name: fact.value for name in entry.get("takes") or {} if (fact := known(entry["takes"], name))}
    shown = {name: value for name, value in takes.items() if name not in ("mount", "plug", "pad")}
    unit = _ordered(entry["key"], page)
    box = entry.get("place")
    return schemas.PositionDetail(
        key=entry["key"],
        label=entry.get("label") or entry["key"],
        kind=entry["kind"],
        serviceability=held_as(entry).value,
        held_doubt=field(entry, "serviceability").doubt,
        state=entry.get("state") or "present",
        ordered_as=_ordered_words(unit, page, row),
        ordered_exact=unit.exact,
        takes=", ".join(takes_words(entry["kind"], shown)),
        facts=named_facts(entry.get("takes") or {}, entry["kind"]),
        fitted_facts=named_facts(entry.get("fitted") or {}, entry["kind"]),
        minutes=row.minutes,
        at_least=row.at_least,
        estimated=row.estimated,
        why_not=row.why_not,
        layer=row.layer,
        reached=row.reached,
        grade=row.grade.value if row.grade else None,
        place=schemas.BoxView(**box) if box else None,
        label_place=entry.get("label_place"),
        strings=[schemas.LabelString(text=text, role=role) for text, role in (entry.get("strings") or {}).items()],
        order_code=orderable_code(entry["strings"]).reason if entry.get("strings") else None,
        attached=entry.get("attached") or [],
        included=entry.get("included") or [],
        carries_over=list(carried_over(page.whole, page.teardown, entry["key"])),
        when=_when_words(entry.get("when")),
        fitted=[_fitted(part) for part in row.fitted],
        photos=entry.get("photos") or [],
    )


def _ordered(key: str, page: ModelPage) -> OrderedUnit:
    try:
        return ordered_unit(key, {name: place.as_held for name, place in page.teardown.places.items()})
    except ContractError as error:
        return OrderedUnit((key,), str(error), ())


def _ordered_words(unit: OrderedUnit, page: ModelPage, row: PositionRow) -> str:
    if unit.units == (row.entry["key"],):
        return ", ".join(part.part.number for part in row.fitted) or "itself"
    labels = [page.teardown.places[key].label if key in page.teardown.places else key for key in unit.units]
    return " or ".join(labels).lower()


def _fitted(part: FittedPart) -> schemas.FittedView:
    return schemas.FittedView(
        part_number=part.part.number,
        part_name=part.part.name,
        units=part.units,
        on_hand=part.on_hand,
    )


def fasteners_view(item: Fasteners) -> schemas.FastenersView:
    return schemas.FastenersView(
        group=item.group,
        count=item.count.number,
        exact=item.count.exact,
        bit=item.bit,
        thread=item.thread,
        captive=item.captive,
        kind=item.kind,
        hidden=item.hidden,
        mostly=item.mostly,
        decoys=item.decoys.words if item.decoys != NONE else None,
        numbered=item.numbered,
        at=[schemas.PointView(x_mm=x, y_mm=y) for x, y in item.at],
        words=fastener_words(item),
    )


def _clips(step: Operation, page: ModelPage, seen: str) -> list[schemas.ClipSideView]:
    """Where the clips of the cover are, as its plan lies."""
    return [
        schemas.ClipSideView(side=one.side, at=on_plan(one.side, seen), words=one.words)
        for one in clips_of(step, page.whole, page.teardown)
    ]


def _step(step: Operation, page: ModelPage) -> schemas.StepView:
    seen = str((page.whole.get("plan") or {}).get("seen") or "from below")
    written: Mapping[str, Any] = next((entry for entry in page.whole.get("operations") or [] if entry["id"] == step.id), {})
    return schemas.StepView(
        id=step.id,
        text=step.text,
        tool=step.tools.words,
        face=step.face,
        under=page.step_layers[step.id],
        layer=step.layer,
        frees=list(step.frees),
        exposes=list(step.exposes),
        minutes=minutes_view(step.minutes),
        live=step.live,
        isolates=step.isolates,
        one_way=step.one_way.reason if step.one_way else None,
        seal=step.seal,
        optional=step.optional,
        fasteners=[fasteners_view(item) for item in step.fasteners],
        plugs=[
            schemas.PlugView(
                name=plug.name,
                kind=plug.kind,
                release=plug.release,
                release_at=on_plan(plug.release, seen) if plug.release in SIDES else None,
                at=schemas.PointView(x_mm=plug.at[0], y_mm=plug.at[1]) if plug.at else None,
            )
            for plug in step.plugs
        ],
        lift_points=[schemas.PointView(x_mm=x, y_mm=y) for x, y in step.lift_points],
        keep_out=[schemas.KeepOutView.model_validate(box) for box in written.get("keep_out") or []],
        clips=_clips(step, page, seen),
        aside=list(aside_words(step, page.whole, page.teardown)),
        doubts=list(step_doubts(step, page.teardown)),
        cautions=[caution.text for caution in cautions_before(step)],
        photos=_photos(step.id, page),
    )


def _photos(step_id: str, page: ModelPage) -> list[str]:
    """Pictures of a step and of its plugs."""
    entry: Mapping[str, Any] = next((item for item in page.whole.get("operations") or [] if item["id"] == step_id), {})
    plugs = [photo for plug in entry.get("plugs") or [] for photo in plug.get("photos") or []]
    return [*(entry.get("photos") or []), *plugs]


def _profile(page: ModelPage) -> schemas.ProfileView:
    profile = page.profile
    return schemas.ProfileView(
        access=[schemas.AccessView(kind=item.kind.value, words=item.words) for item in profile.access],
        soldered=[page.teardown.places[key].label for key in profile.soldered],
        escalated=[page.teardown.places[key].label for key in profile.escalated],
        screws=profile.screws_words,
        one_way=[page.teardown.operations[name].text for name in profile.one_way],
    )
