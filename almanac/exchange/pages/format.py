"""The model page as a file: what may be written where. docs/page-format.md explains it; page.schema.json is made from it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from almanac.core.parts.kinds import Kind, Serviceability
from almanac.exchange.pages.counts import ClipCount, DecoyCount, FastenerCount, HiddenCount
from almanac.exchange.pages.facts import Evidence, PageFact, Stated, Statements, Strict, When

Key = Annotated[str, Field(pattern=r"^\S(.*\S)?$", max_length=60, description="A short name without blanks at its ends, such as memory_a.")]
Name = Annotated[str, Field(min_length=1, max_length=200)]
Millimetres = Annotated[float, Field(ge=0, le=1000)]
Point = Annotated[list[Millimetres], Field(min_length=2, max_length=2, description="x, y in mm from the hinge-left corner of the plan.")]
Side = Literal["hinge", "front", "left", "right"]
Corner = Literal["hinge left corner", "hinge right corner", "front left corner", "front right corner"]
Start = Side | Corner | Literal["bay", "any side"]
StringRole = Literal["maker_model", "spare_code", "drawing", "revision", "date", "cable", "approval", "unknown"]
PlugKind = Literal["slide", "press_fit", "bail", "flip_latch", "tab", "screwed_plate", "antenna", "other", "unknown"]
Direction = Side | Literal["straight up"]
StatedHeld = Annotated[Serviceability | list[PageFact], Stated(Serviceability)]
StatedWords = Annotated[str | list[PageFact], Stated(str)]
StatedYes = Annotated[bool | list[PageFact], Stated(bool)]
StatedPlug = Annotated[PlugKind | list[PageFact], Stated(PlugKind)]
StatedRelease = Annotated[Direction | list[PageFact], Stated(Direction)]


class BoxEntry(Strict):
    """A rectangle on the plan, mm from its hinge-left corner."""

    x_mm: Millimetres
    y_mm: Millimetres
    width_mm: Annotated[float, Field(gt=0, le=1000)]
    depth_mm: Annotated[float, Field(gt=0, le=1000)]


class LookAlike(Strict):
    """A model this one is taken for, and the fact that tells them apart."""

    model: Name
    tell: Key


class Tell(Strict):
    """A fact that tells models apart: the question, whether the machine must be open to answer, and this model's answer."""

    ask: Name
    opened: bool = False
    value: Statements


class Identity(Strict):
    """How the machine is recognised."""

    label: Statements | None = None
    label_place: str | None = None
    looks_like: list[LookAlike] = []
    tells: dict[Key, Tell] = {}


class Option(Strict):
    """A choice the maker offers: every asset has one of the values, or unknown."""

    values: Annotated[list[str], Field(min_length=1)]
    read: str | None = Field(None, description="Where or how the value of a machine is read.")


class Plan(Strict):
    """The size of the opened base; x runs along the hinge edge, y away from it."""

    width_mm: Annotated[float, Field(gt=0, le=1000)]
    depth_mm: Annotated[float, Field(gt=0, le=1000)]
    seen: Literal["from below", "from above", "from behind"] = "from below"
    hinge_edge: str = "hinge edge"


class Spot(BoxEntry):
    """Where a part sits; the layer it lies in is told by what exposes it."""


class PositionEntry(Strict):
    """A place for one part."""

    key: Key
    label: Name
    kind: Kind
    serviceability: StatedHeld = Serviceability.UNKNOWN
    part_of: str | None = Field(None, description="The position of the assembly this part sits in.")
    ordered_unit: StatedWords | None = Field(None, description="What is ordered for it, where that is no position of this page.")
    orderable: StatedYes | None = Field(None, description="Whether it can be ordered alone; left out where not known.")
    state: Literal["present", "free", "not_fitted", "not_visible"] = "present"
    when: When | None = Field(None, description="The options a machine must have for this position to exist.")
    place: Spot | None = None
    takes: dict[Key, Statements] = Field({}, description="What the position asks of a part.")
    fitted: dict[Key, Statements] = Field({}, description="What is in it as delivered.")
    label_place: str | None = None
    strings: dict[Name, StringRole] = Field({}, description="What is written on the fitted part, each with its role.")
    attached: list[str] = Field([], description="What hangs on the old part.")
    included: list[str] = Field([], description="What the ordered unit brings along.")
    evidence: Evidence | None = None
    photos: list[str] = []


OneFigure = Annotated[float, Field(ge=0, le=600)]


class MinutesEntry(Strict):
    """Low, likely and high minutes."""

    low: Annotated[float, Field(ge=0, le=600)]
    likely: Annotated[float, Field(ge=0, le=600)]
    high: Annotated[float, Field(ge=0, le=600)]


class FastenersEntry(Strict):
    """Fasteners of one kind in one step."""

    group: Name
    count: FastenerCount
    bit: str | None = None
    thread: Annotated[str, Field(pattern=r"^M\d(\.\d)?x\d{1,2}(\.\d)?$", description="Such as M2.5x4.")] | None = None
    captive: bool | Literal["mostly"] | None = Field(None, description="mostly: which ones is to be looked at. Left out where not known.")
    kind: Literal["screw", "jack", "cam", "latch", "clip"] = "screw"
    hidden: str | None = Field(None, description="What covers it.")
    at: list[Point] = []
    decoys: DecoyCount = 0
    numbered: bool = False
    note: str | None = None


class PlugEntry(Strict):
    """A lead taken off."""

    name: Name
    kind: StatedPlug = Field("unknown", description="unknown where nobody looked.")
    release: StatedRelease | None = Field(None, description="As the user sits before the machine.")
    at: Point | None = None
    photos: list[str] = []


class KeepOut(BoxEntry):
    """Where no lever goes, and why."""

    reason: str


class OneWayEntry(Strict):
    """A step that cannot be undone."""

    reason: Name
    destroys: str | None = None
    skill: str | None = None
    risk_minutes: Annotated[float, Field(ge=0, le=600)] = 0


class AnyOf(Strict):
    """One of these steps is enough."""

    any: Annotated[list[Key], Field(min_length=1)]


class DoneBefore(Strict):
    """This step came first when it was done; whether it has to, nobody knows."""

    done: Key


class BackEntry(Strict):
    """What differs on the way back."""

    text: str | None = None
    minutes: MinutesEntry | OneFigure | None = None
    before: list[Key] = []
    after: list[Key] = []
    left_out: bool = False


class OperationEntry(Strict):
    """One step of taking the machine apart."""

    id: Key
    text: Name
    needs: list[Key | AnyOf | DoneBefore] = []
    frees: list[Key] = []
    exposes: list[Key] = []
    face: str | None = Field(None, description="Which side of the machine is up, such as base, lid or back; left out where any is.")
    layer: str | None = Field(None, description="The name of the layer that is off once this is done, such as base cover.")
    tool: str | None = Field(None, description="PH1, JIS0 + JIS1, PH0? where unsure, hands; left out where nobody said.")
    aids: list[str] = []
    consumables: list[str] = []
    fasteners: list[FastenersEntry] = []
    plugs: list[PlugEntry] = []
    lift_points: list[Point] = []
    keep_out: list[KeepOut] = []
    minutes: MinutesEntry | OneFigure | None = Field(None, description="Low, likely and high, or one figure; left out, they are estimated.")
    live: bool = Field(False, description="Done before the power can be cut.")
    isolates: bool = Field(False, description="Cuts the power.")
    outside: bool = Field(False, description="Nothing inside is reached.")
    bare_board: bool = False
    moves_sink: bool = False
    optional: str | None = Field(None, description="What this step would be good for where the route does without.")
    one_way: OneWayEntry | None = None
    seal: bool | None = Field(False, description="true breaks a seal, null where not known.")
    cautions: list[Name] = []
    back: BackEntry | None = None
    when: When | None = None
    evidence: Evidence | None = None
    photos: list[str] = []


class ClipRow(Strict):
    """Clips along a side."""

    side: Side | Literal["centre"]
    clips: ClipCount


class Foot(Strict):
    """A foot of the base and what hides under it."""

    name: Name
    place: Point | None = None
    hides: HiddenCount = 0
    corners_only: bool = False
    verified: bool = False
    unlike: bool = Field(False, description="Not interchangeable with the other feet.")


class Opening(Strict):
    """How the cover comes off."""

    start_edge: Start | None = Field(None, description="An edge, a corner, through a bay, or any side.")
    start_reason: str | None = None
    pry_order: list[Side] = Field([], description="The sides in the order they are pried, the first one left out where it is the start.")
    clip_rows: list[ClipRow] = []
    hooks: Side | None = Field(None, description="The side the hooks slide towards.")
    depth_limit_mm: Annotated[float, Field(gt=0, le=60)] | None = None
    feet: list[Foot] = []
    screws_counted: Annotated[int, Field(ge=0, le=200)] | None = None
    largest_hinge_angle: Annotated[float, Field(ge=0, le=360)] | None = None
    evidence: Evidence | None = None


class Claim(Strict):
    """Something said of several variants, and those it was seen true of."""

    text: Name
    variants: Annotated[list[str], Field(min_length=1)]
    verified: list[str] = []


class Note(Strict):
    """Something written down, linked to the step or position it concerns."""

    text: Name
    operation: Key | None = None
    position: Key | None = None


class Removed(Strict):
    """What a sibling's page has and this one has not."""

    positions: list[Key] = []
    operations: list[Key] = []


class Page(Strict):
    """The page of one model."""

    page_format: Literal[1, 2]
    maker: Name
    name: Name
    family: Name
    form: Literal["notebook", "convertible", "all_in_one", "mini_pc", "workstation"]
    unverified: str | None = Field(None, description="Why the page is not to be relied on yet, such as: nobody has opened one.")
    inherits: str | None = Field(None, description="Maker and name of the sibling whose page this one states only the differences to.")
    removed: Removed | None = None
    evidence: Evidence | None = Field(None, description="What holds for every fact that does not say otherwise.")
    identity: Identity = Identity()
    options: dict[Key, Option] = {}
    facts: dict[Key, Statements] = Field({}, description="Of the whole machine, such as memory_maximum_gb and memory_tried_gb.")
    plan: Plan | None = None
    opening: Opening = Opening()
    positions: Annotated[list[PositionEntry], Field(max_length=200)] = []
    operations: Annotated[list[OperationEntry], Field(max_length=300)] = []
    claims: list[Claim] = []
    notes: list[Note] = []
    photos: list[str] = []
