"""Telling models of one shell apart: the next question by information gain, readable without opening first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from almanac.core.errors import ContractError


@dataclass(frozen=True)
class Question:
    """A fact that tells models apart: what to ask, whether the machine must be open, and each model's answer if known."""

    key: str
    ask: str
    opened: bool
    answers: Mapping[str, str]


@dataclass(frozen=True)
class NextQuestion:
    """The question to ask and the bits it is expected to yield, with what is still possible."""

    question: Question | None
    gain_bits: float
    candidates: tuple[str, ...]


def _entropy(weights: np.ndarray[tuple[int], np.dtype[np.float64]]) -> float:
    shares = weights[weights > 0] / weights.sum()
    return float(-(shares * np.log2(shares)).sum())


def information_gain(question: Question, weights: Mapping[str, float]) -> float:
    """Bits a question is expected to yield; a model whose answer is not known may give any of them.

    Parameters
    ----------
    question : with answers by model · weights : of the models still possible, > 0

    Returns
    -------
    float : bits, >= 0

    Raises
    ------
    ContractError : no model, or a weight that is not positive
    """
    if not weights or min(weights.values()) <= 0:
        raise ContractError(f"weights: models with weights above 0 were wanted, got {dict(weights)}")
    models = list(weights)
    prior = np.array([weights[model] for model in models], dtype=np.float64)
    outcomes = sorted({question.answers[model] for model in models if model in question.answers})
    if len(outcomes) < 2:
        return 0.0
    likely = np.array(
        [[float(question.answers[m] == o) if m in question.answers else 1.0 / len(outcomes) for m in models] for o in outcomes]
    )
    joint = likely * prior
    chance = joint.sum(axis=1) / prior.sum()
    after = sum(share * _entropy(row) for share, row in zip(chance, joint, strict=True) if share > 0)
    return max(_entropy(prior) - float(after), 0.0)


def next_question(questions: Sequence[Question], weights: Mapping[str, float], answered: Mapping[str, str]) -> NextQuestion:
    """What is still possible after the answers given, and what to ask next.

    Parameters
    ----------
    questions : all facts that tell the models apart · weights : fleet counts by model, > 0 · answered : question key to answer

    Returns
    -------
    NextQuestion : question None where one model is left or nothing tells the rest apart

    Raises
    ------
    ContractError : a weight that is not positive
    """
    by_key = {question.key: question for question in questions}
    left = {
        model: weight
        for model, weight in weights.items()
        if all(by_key[key].answers.get(model, answer) == answer for key, answer in answered.items() if key in by_key)
    }
    if len(left) < 2:
        return NextQuestion(None, 0.0, tuple(left))
    gains = [(question, information_gain(question, left)) for question in questions if question.key not in answered]
    useful = [(question, gain) for question, gain in gains if gain > 1e-9]
    if not useful:
        return NextQuestion(None, 0.0, tuple(left))
    best, gain = min(useful, key=lambda pair: (pair[0].opened, -pair[1], pair[0].key))
    return NextQuestion(best, gain, tuple(left))
