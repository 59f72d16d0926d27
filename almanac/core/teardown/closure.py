"""The set of steps of least minutes that reaches some positions (handbook of the method, section 5)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import coo_matrix

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.teardown.operations import Teardown

Groups = tuple[tuple[str, ...], ...]
STEP_MINUTES = 1e-4
"""Weight of one step more, so that of two sets of equal minutes the shorter is taken."""


def weights_of(teardown: Teardown) -> dict[str, float]:
    """Mean minutes of each step, out and back, with the risk of a one-way step in minutes."""
    found = {}
    for step in teardown.operations.values():
        back = 0.0 if step.back.left_out else (step.back.minutes or step.minutes).mean
        found[step.id] = step.minutes.mean + back + (step.one_way.risk_minutes if step.one_way else 0.0)
    return found


DESTROYS_MINUTES = 1e4
"""Weight of a step that destroys something: it is taken only where there is no other way (rule U2)."""


def choice_weights(teardown: Teardown) -> dict[str, float]:
    """What the choice of a way is made by: minutes, and none of them worth destroying something."""
    destroying = {step.id for step in teardown.operations.values() if step.one_way and step.one_way.destroys}
    return {name: minutes + DESTROYS_MINUTES * (name in destroying) for name, minutes in weights_of(teardown).items()}


def cheapest_closure(teardown: Teardown, wanted: Groups, weights: Mapping[str, float] | None = None) -> frozenset[str]:
    """Steps of least total weight that hold one step of each wanted group and all they need first.

    Parameters
    ----------
    teardown : the graph · wanted : groups of alternative steps
    weights : by step, >= 0; minutes out and back unless given, far more for one that destroys something

    Returns
    -------
    frozenset of step ids

    Raises
    ------
    ContractError : a wanted group without steps, or a step nobody knows
    NoEstimate : the steps need one another in a circle, so there is no way in
    """
    for group in wanted:
        if not group:
            raise ContractError("wanted: a group of at least one step was wanted, got none")
    reached, groups = _reachable(teardown, wanted)
    if all(len(group) == 1 for group in (*wanted, *groups.values())) and not _circular(groups):
        return frozenset(reached)
    return _solve(sorted(reached), wanted, groups, weights or choice_weights(teardown))


def _reachable(teardown: Teardown, wanted: Groups) -> tuple[set[str], dict[tuple[str, int], tuple[str, ...]]]:
    """All steps that could matter, and the groups each needs."""
    waiting, seen = [name for group in wanted for name in group], set()
    groups: dict[tuple[str, int], tuple[str, ...]] = {}
    while waiting:
        name = waiting.pop()
        if name in seen:
            continue
        if name not in teardown.operations:
            raise ContractError(f"steps: one of the page was wanted, got {name!r}")
        seen.add(name)
        for place, group in enumerate(teardown.requirements(teardown.operations[name])):
            groups[name, place] = group
            waiting.extend(group)
    return seen, groups


def _circular(groups: Mapping[tuple[str, int], tuple[str, ...]]) -> bool:
    """Whether following the needs can come back to its start."""
    needs: dict[str, set[str]] = {}
    for (name, _), group in groups.items():
        needs.setdefault(name, set()).update(group)
    state: dict[str, int] = {}
    for start in needs:
        stack = [(start, iter(needs.get(start, ())))]
        if state.get(start):
            continue
        state[start] = 1
        while stack:
            name, rest = stack[-1]
            nearest = next(rest, None)
            if nearest is None:
                state[name] = 2
                stack.pop()
            elif state.get(nearest) == 1:
                return True
            elif not state.get(nearest):
                state[nearest] = 1
                stack.append((nearest, iter(needs.get(nearest, ()))))
    return False


class _Rows:
    """Rows of a constraint matrix, each `low <= sum` of entries."""

    def __init__(self) -> None:
        self.rows: list[int] = []
        self.columns: list[int] = []
        self.values: list[float] = []
        self.low: list[float] = []

    def add(self, entries: Sequence[tuple[int, float]], low: float) -> None:
        for column, value in entries:
            self.rows.append(len(self.low))
            self.columns.append(column)
            self.values.append(value)
        self.low.append(low)


def _solve(
    steps: list[str], wanted: Groups, groups: Mapping[tuple[str, int], tuple[str, ...]], weights: Mapping[str, float]
) -> frozenset[str]:
    """Integer programme: one binary a step; where the needs can run in circles also an order and the alternative leant on."""
    column = {name: place for place, name in enumerate(steps)}
    circular = _circular(groups)
    size, rows = len(steps), _Rows()
    for group in wanted:
        rows.add([(column[name], 1.0) for name in group], 1.0)
    links: list[tuple[str, str]] = []
    for (name, _), group in groups.items():
        if not circular:
            rows.add([*((column[other], 1.0) for other in group), (column[name], -1.0)], 0.0)
            continue
        first = 2 * size + len(links)
        links.extend((name, other) for other in group)
        rows.add([*((first + i, 1.0) for i in range(len(group))), (column[name], -1.0)], 0.0)
    for place, (name, other) in enumerate(links):
        link = 2 * size + place
        rows.add([(column[other], 1.0), (link, -1.0)], 0.0)
        # The step leant on comes earlier: order[name] >= order[other] + 1 where the link is used.
        rows.add([(size + column[name], 1.0), (size + column[other], -1.0), (link, -float(size + 1))], 1.0 - (size + 1))
    total = (2 * size if circular else size) + len(links)
    cost = np.zeros(total)
    cost[:size] = [weights[name] + STEP_MINUTES for name in steps]
    whole, high = np.ones(total), np.ones(total)
    if circular:
        whole[size : 2 * size], high[size : 2 * size] = 0.0, float(size)
    matrix = coo_matrix((rows.values, (rows.rows, rows.columns)), shape=(len(rows.low), total)).tocsr()
    limits, exact = LinearConstraint(matrix, np.array(rows.low), np.inf), {"mip_rel_gap": 0.0}
    answer = milp(cost, constraints=limits, integrality=whole, bounds=Bounds(0, high), options=exact)
    if answer.x is None:
        raise NoEstimate("the steps need one another in a circle: there is no way in")
    return frozenset(name for name in steps if answer.x[column[name]] > 0.5)
