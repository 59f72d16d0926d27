"""Which school a kind takes: one constant yearly rate, or wear-out by age, and why."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core import checks

PASSES = 3.841
"""Upper 5% point of chi-square with one degree of freedom."""
FEWEST = 8
CHOICES = ("auto", "constant", "wear-out")
"""What a company may set for a kind; auto leaves it to the test."""


@dataclass(frozen=True)
class School:
    """The school taken, whether the shape says early life, and the reason in words."""

    name: str
    early_life: bool
    reason: str


def choose_school(failures: float, *, shape: float | None, gain: float | None) -> School:
    """Wear-out where twice the log-likelihood gained over a shape of 1 passes 3.841 and there are eight failures; else constant.

    Parameters
    ----------
    failures : D of the kind, >= 0 · shape : fitted, None where there is none · gain : loglik(shape) - loglik(1), None likewise

    Returns
    -------
    School

    Raises
    ------
    ContractError : failures below 0

    References
    ----------
    Meeker & Escobar (1998), Statistical Methods for Reliability Data, section 8.3 (likelihood ratio).
    """
    count = checks.number("failures", failures, low=0.0)
    if shape is None or gain is None:
        return School("constant", early_life=False, reason="no shape could be estimated: one constant rate")
    if count < FEWEST:
        seen = "1 failure" if count == 1 else f"{count:g} failures"
        return School("constant", early_life=False, reason=f"{seen}, fewer than {FEWEST}: too few to tell a shape from 1")
    doubled = f"twice the gain in log-likelihood is {2 * gain:.2f}"
    if 2 * gain < PASSES:
        return School("constant", early_life=False, reason=f"{doubled}, below {PASSES}: a constant rate will do")
    what = "failures come early in life" if shape < 1 else "failures come with age"
    return School("wear-out", early_life=shape < 1, reason=f"shape {shape:.2f}, {doubled}, past {PASSES}: {what}")
