"""How parts of a kind die."""

from __future__ import annotations

from datetime import date

from almanac.web.schemas.base import Schema


class RateInterval(Schema):
    """Failures per unit and year with a 90% interval."""

    rate: float
    low: float
    high: float


class SurvivalPoint(Schema):
    """Survival just after an age in years; limits are null where survival is 0 or 1."""

    age: float
    at_risk: float
    survival: float
    low: float | None
    high: float | None


class CurvePoint(Schema):
    """The fitted life at an age in years: survival with its 90% band, and failures per unit and year."""

    age: float
    survival: float
    low: float
    high: float
    hazard: float


class ServedBar(Schema):
    """Units in service from an age in years on, half a year wide."""

    age: float
    units: float


class WaveBar(Schema):
    """Expected first failures of what is in service now, by quarter."""

    starts_on: date
    expected: float


class BesideRate(Schema):
    """Parts of a pool drawn for another reason than wear: how many so far, and how many a unit-year once it borrows from its kind."""

    seen: float
    rate: float


class PoolRatesView(Schema):
    """One pool: raw rate with exact limits (null without exposure), and the rate once it borrows from its kind.

    damage, suspicion : damaged parts, and good parts drawn on suspicion; null without exposure of the kind
    """

    part: str
    model: str
    duty: str
    air: str
    lot: date | None
    failures: float
    exposure_years: float
    units: int
    raw: float | None
    raw_low: float
    raw_high: float | None
    shrunk: RateInterval | None
    damage: BesideRate | None
    suspicion: BesideRate | None


class ClassPaceView(Schema):
    """How many times faster parts age in a class than in the ordinary one: 1, without limits, where no difference could be told."""

    factor: str
    of_class: str
    pace: float
    low: float | None
    high: float | None
    failures: float
    taken: bool
    reason: str


class PoolLivesQuery(Schema):
    """Which pool: a stock part in a model, at a duty, in some air; of a lot that is a pool of its own, the day it was made."""

    part: str
    model: str
    duty: str
    air: str
    lot: date | None = None


class LifeView(Schema):
    """One life: days of age it was under observation from and to, and what it adds to the rate beside that time."""

    tag: str
    site: str
    part: str
    fitted_on: date
    from_age: int
    exit_age: int
    age_span: int
    seen_good: int | None
    late: bool
    counted_as: str
    incident_id: int | None


class PoolLivesView(Schema):
    """Every life behind a pool's rate, and what they add up to. before : lives that ended before the day from which evidence counts"""

    kind: str
    exposure_years: float
    confirmed: int
    open: int
    left_out: int
    before: int
    lives: list[LifeView]


class GroupCurvePoint(Schema):
    age: float
    hazard: float


class GroupRatesView(Schema):
    """A stock part and the shape of its lives, with 90% limits. differs : what its kind has in common lies outside them"""

    part: str
    failures: float
    exposure_years: float
    shape: float
    low: float
    high: float
    differs: bool
    curve: list[GroupCurvePoint]


class KindRatesView(Schema):
    """A kind in the schools it takes, with the reason. wear_out : how much the wear-out school carries, 0 to 1"""

    kind: str
    school: str
    wear_out: float
    early_life: bool
    reason: str
    shape: float
    free_shape: float | None
    failures: float
    open_share: float
    open_findings: int
    found: float
    exposure_years: float
    overall: RateInterval | None
    survival: list[SurvivalPoint]
    shown_from: float
    curve: list[CurvePoint]
    served: list[ServedBar]
    wave: list[WaveBar]
    pools: list[PoolRatesView]
    groups: list[GroupRatesView]
    paces: list[ClassPaceView]
    left_out: int
    age_unknown: int


class KindRatesReply(Schema):
    """How parts of a kind die; null where none of it was ever seen in service."""

    kind: str
    rates: KindRatesView | None


class OddRowView(Schema):
    """A machine and a part in it; an empty part number where nothing of the kind is on record."""

    tag: str
    part: str
    kind: str
    day: date
    incident_id: int | None


class DataCheckView(Schema):
    """A kind of odd row: what it does to the rates, how many there are, and the first of them."""

    key: str
    title: str
    effect: str
    left_out: bool
    count: int
    rows: list[OddRowView]


class DataChecks(Schema):
    checks: list[DataCheckView]


class StartFields(Schema):
    """A belief of a kind. per_hundred : failures of 100 units a year, null where nobody knows · worth : failures it weighs as much as
    after_years, later_per_hundred : age from which on another rate holds, both or none
    """

    per_hundred: float | None
    worth: float | None
    after_years: float | None
    later_per_hundred: float | None


class StartView(Schema):
    """words : the belief in a sentence, null where nobody stated one · number : what an edit has to name"""

    fields: StartFields
    number: int
    words: str | None


class StartIn(Schema):
    fields: StartFields
    expected_number: int


class StartStated(Schema):
    number: int
