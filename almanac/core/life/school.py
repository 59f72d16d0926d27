"""Which school a kind takes: one constant yearly rate, or wear-out by age, and why."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core import checks

PASSES = 3.841
"""Upper 5% point of chi-square with one degree of freedom."""
FEWEST = 8
CHOICES = ("auto", "constant", "wear-out")
"""What a company may set for a kind; auto averages both by what the log says for each."""
NEGLIGIBLE = 0.02
"""A school that carries less is left out of the average."""


@dataclass(frozen=True)
class School:
    """The school taken, whether the shape says early life, and the reason in words.

    wear_out : how much the wear-out school carries: 1 or 0 where one was set, in between where both are averaged
    """

    name: str
    early_life: bool
    reason: str
    wear_out: float = 0.0

    @property
    def averaged(self) -> bool:
        """Whether both schools are in the forecast."""
        return 0.0 < self.wear_out < 1.0


def averaged_school(weight: float, shape: float) -> School:
    """Both schools, each with the weight of its marginal likelihood over the same log, prior odds one to one; what is negligible left out.

    Parameters
    ----------
    weight : of the wear-out school, 0 to 1 · shape : the most likely one in it, > 0

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Kass & Raftery (1995), Journal of the American Statistical Association 90; Hoeting et al. (1999), Statistical Science 14.
    """
    share = checks.number("weight", weight, low=0.0, high=1.0)
    early = checks.positive("shape", shape) < 1
    if share < NEGLIGIBLE:
        return School("constant", early_life=False, reason="a constant rate carries all but 2%: failures come at any age", wear_out=0.0)
    what = "failures come early in life" if early else "failures come with age"
    if share > 1 - NEGLIGIBLE:
        return School("wear-out", early_life=early, reason=f"wear-out carries all but 2%, shape {shape:.2f}: {what}", wear_out=1.0)
    how = "dying early" if early else "wear-out"
    both = f"{how}, shape {shape:.2f}, carries {share:.0%}, a constant rate {1 - share:.0%}: the forecast is the average of both"
    return School("wear-out" if share >= 0.5 else "constant", early_life=early and share >= 0.5, reason=both, wear_out=share)


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
