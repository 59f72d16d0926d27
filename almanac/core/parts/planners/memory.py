"""The memory planner: what totals a machine can reach and the cheapest way to one of them (rules M5, M6, M8, M10)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

from almanac.core.errors import ContractError
from almanac.core.parts.kinds import Grade, Verdict


@dataclass(frozen=True)
class MemorySlot:
    """A slot: the largest module documented for it (None: no document), and the size in it now (0: free)."""

    key: str
    maximum_gb: int | None
    fitted_gb: int = 0


@dataclass(frozen=True)
class MemoryOffer:
    """A module on the market or shelf that fits: size, price of one, and the practice risk of its verdict."""

    part: str
    capacity_gb: int
    price: float
    practice: str | None = None


@dataclass(frozen=True)
class MemoryChoice:
    """What goes into a slot: the module there now, none, or one bought."""

    slot: str
    capacity_gb: int
    buy: MemoryOffer | None
    freed_gb: int


@dataclass(frozen=True)
class MemoryPlan:
    """The planner's sheet.

    totals : every reachable total, GB · total_gb : now · target_gb : asked · reached_gb : what the purchase gives, None if refused
    cost : of the modules to buy · choices : per slot · freed : sizes that leave the machine, for harvested stock
    verdict, reason : yes, no (unreachable), unknown (untested beyond any document) · nearest_below, nearest_above : GB or None
    practice : risks that do not refuse
    """

    totals: tuple[int, ...]
    total_gb: int
    target_gb: int
    reached_gb: int | None
    cost: float
    choices: tuple[MemoryChoice, ...]
    freed: tuple[int, ...]
    verdict: Verdict
    reason: str
    nearest_below: int | None
    nearest_above: int | None
    practice: tuple[str, ...]


def reachable_totals(slots: Sequence[MemorySlot], sizes_gb: Sequence[int], *, soldered_gb: int, maximum_gb: int | None) -> tuple[int, ...]:
    """Soldered + sums of allowed sizes, capped by the documented maximum (rule M5).

    Parameters
    ----------
    slots : any number · sizes_gb : sizes of one module, > 0 · soldered_gb : >= 0 · maximum_gb : of the machine, None without a document

    Returns
    -------
    tuple of int : GB, ascending; never 0

    Raises
    ------
    ContractError : a size that is not positive, or a negative soldered size
    """
    if soldered_gb < 0 or any(size <= 0 for size in sizes_gb):
        raise ContractError(f"sizes: positive sizes were wanted, got {list(sizes_gb)} and {soldered_gb} soldered")
    totals = {soldered_gb}
    for slot in slots:
        fitting = [0, *(size for size in sizes_gb if slot.maximum_gb is None or size <= slot.maximum_gb)]
        totals = {total + size for total in totals for size in fitting}
    return tuple(sorted(total for total in totals if total > 0 and (maximum_gb is None or total <= maximum_gb)))


def plan_memory(
    slots: Sequence[MemorySlot],
    offers: Sequence[MemoryOffer],
    *,
    soldered_gb: int,
    maximum_gb: int | None,
    sizes_gb: Sequence[int],
    target_gb: int,
) -> MemoryPlan:
    """The cheapest purchase that gives the target; where two cost the same, the one that frees fewer modules.

    Parameters
    ----------
    slots, offers : as above; offers must fit every slot they are offered for
    soldered_gb, maximum_gb, sizes_gb : as in reachable_totals · target_gb : wanted total, > 0

    Returns
    -------
    MemoryPlan

    Raises
    ------
    ContractError : a target or size that is not positive
    """
    if target_gb <= 0:
        raise ContractError(f"target_gb: a size above 0 was wanted, got {target_gb}")
    totals = reachable_totals(slots, sizes_gb, soldered_gb=soldered_gb, maximum_gb=maximum_gb)
    now = soldered_gb + sum(slot.fitted_gb for slot in slots)
    below = max((total for total in totals if total < target_gb), default=None)
    above = min((total for total in totals if total > target_gb), default=None)
    found = _cheapest(slots, offers, target_gb - soldered_gb) if target_gb in totals else None
    verdict, reason = _judge(target_gb, totals, maximum_gb, (below, above), bought=found is not None, slots=slots)
    choices = found or ()
    freed = tuple(sorted(choice.freed_gb for choice in choices if choice.freed_gb))
    return MemoryPlan(
        totals=totals,
        total_gb=now,
        target_gb=target_gb,
        reached_gb=target_gb if found is not None else None,
        cost=sum(choice.buy.price for choice in choices if choice.buy),
        choices=choices,
        freed=freed,
        verdict=verdict,
        reason=reason,
        nearest_below=below,
        nearest_above=above,
        practice=_practice(choices),
    )


def _cheapest(slots: Sequence[MemorySlot], offers: Sequence[MemoryOffer], wanted_gb: int) -> tuple[MemoryChoice, ...] | None:
    options = [_options(slot, offers) for slot in slots]
    fitting = [combination for combination in product(*options) if sum(choice.capacity_gb for choice in combination) == wanted_gb]
    return min(fitting, key=_effort, default=None)


def _options(slot: MemorySlot, offers: Sequence[MemoryOffer]) -> list[MemoryChoice]:
    stay = MemoryChoice(slot.key, slot.fitted_gb, None, 0)
    empty = [MemoryChoice(slot.key, 0, None, slot.fitted_gb)] if slot.fitted_gb else []
    bought = [
        MemoryChoice(slot.key, offer.capacity_gb, offer, slot.fitted_gb)
        for offer in offers
        if slot.maximum_gb is None or offer.capacity_gb <= slot.maximum_gb
    ]
    return [stay, *empty, *bought]


def _effort(choices: Sequence[MemoryChoice]) -> tuple[float, int, int, int]:
    """Money first, then modules touched, then evenness of the pair, then modules of more than one kind."""
    sizes = [choice.capacity_gb for choice in choices]
    uneven = max(sizes) - min(sizes) if sizes else 0
    cost = sum(choice.buy.price for choice in choices if choice.buy)
    return cost, sum(1 for choice in choices if choice.freed_gb), uneven, len({choice.buy.part for choice in choices if choice.buy})


def _judge(
    target: int,
    totals: Sequence[int],
    maximum: int | None,
    nearest: tuple[int | None, int | None],
    *,
    bought: bool,
    slots: Sequence[MemorySlot],
) -> tuple[Verdict, str]:
    if target not in totals:
        near = " or ".join(f"{total} GB" for total in nearest if total is not None)
        limit = f"above the documented maximum of {maximum} GB" if maximum is not None and target > maximum else "no sum of allowed sizes"
        return Verdict.NO, f"{target} GB is unreachable: {limit}" + (f"; nearest {near}" if near else "")
    if not bought:
        return Verdict.NO, f"{target} GB is reachable, but no module in the catalogue makes it up"
    if maximum is None and any(slot.maximum_gb is None for slot in slots):
        return Verdict.UNKNOWN, f"{target} GB is untested: no maximum is documented for this model"
    return Verdict.YES, f"{target} GB is within what the model takes"


def _practice(choices: Sequence[MemoryChoice]) -> tuple[str, ...]:
    risks = [choice.buy.practice for choice in choices if choice.buy and choice.buy.practice]
    bought, kept = [choice for choice in choices if choice.buy], [choice for choice in choices if not choice.buy and choice.capacity_gb]
    if bought and kept:
        risks.append("a bought module beside one that stays: a matched pair of one grade is the safer practice")
    sizes = [choice.capacity_gb for choice in choices if choice.capacity_gb]
    if len(sizes) == 2 and sizes[0] != sizes[1]:
        risks.append(f"{2 * min(sizes)} GB run on two channels, the rest on one")
    return tuple(dict.fromkeys(risks))


def freed_by_pair(*, upgrade: bool) -> int:
    """Good modules freed when a pair is replaced: one after one bad module, two in an upgrade (rule M8).

    A pair replaced for one bad module is one failure event.
    """
    return 2 if upgrade else 1


@dataclass(frozen=True)
class StatedMaximum:
    """What the document says and what somebody tried; the two are never merged."""

    documented_gb: int | None
    tried_gb: int | None
    tried_grade: Grade | None = None
