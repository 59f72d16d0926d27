"""The catalog: the index and one model's page."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from almanac.core.stock.shelf import Risk
from almanac.web.schemas.base import Schema

VerdictName = Literal["yes", "no", "unknown"]


class ModelsQuery(Schema):
    q: str | None = Field(default=None, max_length=120)


class ModelRow(Schema):
    """One model in the index; `reasons` are the statements of its page that answer the words."""

    model_id: int
    maker: str
    name: str
    family: str
    form: str
    fleet: int
    open_facts: int
    unverified: str | None
    draft: bool
    takes: list[str]
    deepest_minutes: float
    reasons: list[str]


class ModelIndex(Schema):
    models: list[ModelRow]
    words: str


class FactView(Schema):
    """One statement with its evidence."""

    value: str
    grade: str
    source: str
    date: str | None
    when: str | None = None
    inherited_from: str | None
    photos: list[str]


class NamedFacts(Schema):
    """A fact by name; several statements where sources differ, the one that holds first."""

    name: str
    label: str
    statements: list[FactView]


class BoxView(Schema):
    x_mm: float
    y_mm: float
    width_mm: float
    depth_mm: float


class PointView(Schema):
    x_mm: float
    y_mm: float


class MinutesView(Schema):
    low: float
    likely: float
    high: float
    mean: float
    estimated: float


class FastenersView(Schema):
    group: str
    count: int
    exact: bool
    bit: str | None
    thread: str | None
    captive: bool | None
    kind: str
    hidden: str | None
    mostly: bool
    decoys: str | None
    numbered: bool
    at: list[PointView]
    words: str


class KeepOutView(BoxView):
    """Where no lever goes, and why."""

    reason: str


class ClipSideView(Schema):
    """Clips along a side of the cover, and the edge of the plan it lies at: top, bottom, left, right or centre."""

    side: str
    at: str
    words: str


class PlugView(Schema):
    name: str
    kind: str
    release: str | None
    release_at: str | None
    at: PointView | None


class StepView(Schema):
    """One operation of the page; `under` is the layer that must be off before it."""

    id: str
    text: str
    tool: str
    face: str | None
    under: str
    layer: str | None
    frees: list[str]
    exposes: list[str]
    minutes: MinutesView
    live: bool
    isolates: bool
    one_way: str | None
    seal: bool | None
    optional: str | None
    fasteners: list[FastenersView]
    plugs: list[PlugView]
    lift_points: list[PointView]
    keep_out: list[KeepOutView]
    clips: list[ClipSideView]
    aside: list[str]
    doubts: list[str]
    cautions: list[str]
    photos: list[str]


class FittedView(Schema):
    """A part in service in a position, with its stock."""

    part_number: str
    part_name: str
    units: int
    on_hand: int


class PartRateView(Schema):
    """Yearly failure rate of a fitted part with its interval, and how its shelf stands."""

    part_number: str
    rate: float | None
    low: float | None
    high: float | None
    risk: Risk | None


class ModelRates(Schema):
    parts: list[PartRateView]


class LabelString(Schema):
    """One string of a label and its role."""

    text: str
    role: str


class PositionDetail(Schema):
    key: str
    label: str
    kind: str
    serviceability: str
    held_doubt: str
    state: str
    ordered_as: str
    ordered_exact: bool
    takes: str
    facts: list[NamedFacts]
    fitted_facts: list[NamedFacts]
    minutes: float | None
    at_least: bool
    estimated: float
    why_not: str | None
    layer: str
    reached: str
    grade: str | None
    place: BoxView | None
    label_place: str | None
    strings: list[LabelString]
    order_code: str | None
    attached: list[str]
    included: list[str]
    carries_over: list[str]
    when: str | None
    fitted: list[FittedView]
    photos: list[str]


class LayerView(Schema):
    name: str
    minutes: float
    positions: list[str]


class OptionValue(Schema):
    value: str
    machines: int


class OptionView(Schema):
    """An option of the model: values with machines in the fleet, machines nobody looked at, and whether they add up."""

    name: str
    read: str | None
    values: list[OptionValue]
    unknown: int
    agrees: VerdictName
    reason: str


class LookAlikeView(Schema):
    model: str
    model_id: int | None
    ask: str | None
    here: str | None
    there: str | None


class OpenFactView(Schema):
    """Something to settle; `stake` is what the answer changes: danger, decision, minutes or record."""

    where: str
    text: str
    cure: str
    stake: Literal["danger", "decision", "minutes", "record"]
    worth: str


class AccessView(Schema):
    kind: str
    words: str


class ProfileView(Schema):
    access: list[AccessView]
    soldered: list[str]
    escalated: list[str]
    screws: str
    one_way: list[str]


class PlanView(Schema):
    width_mm: float
    depth_mm: float
    seen: str
    hinge_edge: str


class FootView(Schema):
    name: str
    hides: str | None
    unlike: bool
    place: PointView | None
    advice: str


class OpeningView(Schema):
    """How the cover comes off."""

    start: str
    known: bool
    hooks: str | None
    clip_rows: list[str]
    feet: list[FootView]
    screws: str


class ClaimView(Schema):
    text: str
    state: str


class ModelPageView(Schema):
    """One model's page."""

    model_id: int
    maker: str
    name: str
    family: str
    form: str
    fleet: int
    number: int
    draft: bool
    latest_number: int
    draft_number: int | None
    unverified: str | None
    inherits: str | None
    inherits_id: int | None
    label: NamedFacts | None
    label_place: str | None
    looks_like: list[LookAlikeView]
    own_share: float | None
    standing: str
    standing_level: Literal["Well known", "Mostly known", "Half known"]
    facts: list[NamedFacts]
    options: list[OptionView]
    plan: PlanView | None
    opening: OpeningView
    positions: list[PositionDetail]
    steps: list[StepView]
    layers: list[LayerView]
    open_facts: list[OpenFactView]
    claims: list[ClaimView]
    notes: list[str]
    profile: ProfileView
