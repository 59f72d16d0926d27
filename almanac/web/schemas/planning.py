"""Planning from the catalog: route, fits, memory, comparison, look-alikes, line-up."""

from __future__ import annotations

from decimal import Decimal
from typing import Literal

from pydantic import Field

from almanac.web.schemas.base import Schema
from almanac.web.schemas.models import MinutesView, VerdictName


class RouteQuery(Schema):
    """Comma-separated lists: positions to reach, `name:value` options, positions to take out themselves, optional steps."""

    to: str = Field(min_length=1, max_length=600)
    options: str = Field(default="", max_length=400)
    itself: str = Field(default="", max_length=400)
    include: str = Field(default="", max_length=400)
    pack_out: bool = False
    paper: Literal["A4", "Letter", "A3"] = "A4"


class RouteStep(Schema):
    id: str
    text: str
    tool: str
    face: str | None
    minutes: MinutesView
    live: bool
    isolates: bool
    one_way: str | None
    seal: bool | None
    optional: str | None
    touches: list[str]
    cautions: list[str]
    doubts: list[str]


class BackStepView(Schema):
    operation: str
    text: str
    minutes: MinutesView
    left_out: bool
    leads: list[str]
    cautions: list[str]


class TrayView(Schema):
    group: str
    loose: int
    captive: int
    unknown: int
    least: bool
    about: bool
    words: str


class EscalationView(Schema):
    target: str
    target_label: str
    reached: str
    reached_label: str
    reason: str
    takes_along: list[str]
    other_minutes: float | None


class OptionalView(Schema):
    id: str
    reason: str
    minutes: float


class NearView(Schema):
    position: str
    label: str
    more_now: float
    alone: float


class CarryView(Schema):
    position: str
    items: list[str]


class EndView(Schema):
    """A target the page does not lead to the end of, with what is known."""

    target: str
    words: str


class ShortWayView(Schema):
    """The way without cutting the power, which only a waiver of the bench allows."""

    steps: list[str]
    leaves_out: list[str]
    saves: float


class BitView(Schema):
    bit: str
    words: str


class RouteView(Schema):
    """The way in and back; minutes are "at least" where an end is not known."""

    targets: list[str]
    minutes_open: MinutesView
    minutes_close: MinutesView
    tool_changes: int
    turns: int
    tools_unsaid: int
    bits: list[BitView]
    bits_how: list[str]
    ends: list[EndView]
    depends: list[str]
    short: ShortWayView | None
    order_proven: bool
    power: Literal["cut", "outside", "unknown"]
    steps: list[RouteStep]
    back: list[BackStepView]
    tools: list[str]
    aids: list[str]
    consumables: list[str]
    spares: list[str]
    tray: list[TrayView]
    leads: list[str]
    escalations: list[EscalationView]
    optional: list[OptionalView]
    near: list[NearView]
    carries_over: list[CarryView]
    saved_minutes: float
    learnt_factor: float
    learnt_jobs: int


class FitVerdictView(Schema):
    part_number: str
    part_name: str
    verdict: VerdictName
    reason: str
    grade: str | None
    practice: str | None
    origin: str
    speed: str | None
    price: Decimal
    on_hand: int


class PositionFits(Schema):
    position: str
    label: str
    parts: list[FitVerdictView]
    beside: list[str]
    claims: list[str]


class MemoryIn(Schema):
    target_gb: int = Field(ge=1, le=4096)
    fitted: dict[str, int] = Field(default_factory=dict)


class MemoryChoiceView(Schema):
    slot: str
    label: str
    capacity_gb: int
    buy: str | None
    buy_name: str | None
    price: Decimal | None
    freed_gb: int


class MemorySlotView(Schema):
    key: str
    label: str
    fitted_gb: int
    maximum_gb: int | None


class MemorySheetView(Schema):
    soldered_gb: int
    maximum_gb: int | None
    tried_gb: int | None
    total_gb: int
    totals: list[int]
    target_gb: int
    reached_gb: int | None
    cost: Decimal
    choices: list[MemoryChoiceView]
    freed: list[int]
    verdict: VerdictName
    reason: str
    nearest_below: int | None
    nearest_above: int | None
    practice: list[str]
    slots: list[MemorySlotView]


class DriveIn(Schema):
    position: str = Field(max_length=60)
    part_number: str = Field(max_length=60)
    source_gb: float = Field(gt=0, le=100_000)
    used_gb: float = Field(ge=0, le=100_000)
    encrypted: bool | None = None
    failing: bool = False


class DriveSheetView(Schema):
    """How the data move to a new drive, and what is advised; the person decides."""

    verdict: FitVerdictView
    how: str
    reason: str
    minutes: float | None
    first: list[str]
    link_gb_s: float
    fresh: VerdictName
    advice: str
    beside: list[str]


class CompareQuery(Schema):
    models: str = Field(pattern=r"^\d+(,\d+)*$", max_length=60)


class ComparedRowView(Schema):
    group: str
    label: str
    values: list[str]
    differs: bool


class SharedPartView(Schema):
    part_number: str
    part_name: str
    models: list[int]


class ComparedModel(Schema):
    model_id: int
    name: str


class ComparisonView(Schema):
    models: list[ComparedModel]
    rows: list[ComparedRowView]
    shared: list[SharedPartView]


class IdentifyIn(Schema):
    models: list[str] = Field(min_length=1, max_length=10)
    answered: dict[str, str] = Field(default_factory=dict)


class AnswerChoice(Schema):
    value: str
    models: list[str]


class IdentifyView(Schema):
    """What is still possible, and the next question."""

    candidates: list[ComparedModel]
    key: str | None
    ask: str | None
    opened: bool
    gain_bits: float
    choices: list[AnswerChoice]


class ModelNeeds(Schema):
    """Places of one model with the part in each now."""

    model: str
    places: list[str]


class LineUpPart(Schema):
    part_number: str
    part_name: str
    level: int
    price: Decimal
    needs: int
    covers: list[ModelNeeds]


class LineUpKind(Schema):
    kind: str
    cost: Decimal
    cost_today: Decimal
    saved: Decimal
    kept: list[LineUpPart]
    dropped: list[str]


class LineUpView(Schema):
    """unsaid : needs of parts whose demand nobody can say"""

    kinds: list[LineUpKind]
    unsaid: list[ModelNeeds]
    holding_share: float
    line_cost: Decimal
