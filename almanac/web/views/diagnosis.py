"""Diagnosis of a job, the knowledge behind it, and repair against replacement."""

from __future__ import annotations

from flask import Blueprint

from almanac.core.triage.knowledge import Hypothesis
from almanac.core.triage.repair import Choice
from almanac.core.triage.tells import tells
from almanac.services.clock import read_clock
from almanac.services.workbench.company import WORDS
from almanac.services.workbench.diagnose import (
    Diagnosis,
    change_knowledge,
    diagnose,
    knowledge,
    knowledge_text,
    likely_symptoms,
)
from almanac.services.workbench.weighing import costs_of, options_of
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import diagnosis as schemas

blueprint = Blueprint("diagnosis", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/symptoms", access=Role.READER, replies=schemas.SymptomList)
def symptoms(query: schemas.Complaint) -> schemas.SymptomList:
    """Symptoms the company knows, with how much of the words of a complaint each explains; those it may be first."""
    clock = read_clock(session())
    near = {item.id: share for item, share in likely_symptoms(session(), query.words, clock)}
    known = sorted(knowledge(session(), clock), key=lambda item: -near.get(item.id, 0.0))
    return schemas.SymptomList(symptoms=[schemas.SymptomView(id=item.id, words=item.words, share=near.get(item.id, 0.0)) for item in known])


@endpoint(blueprint, "/jobs/<int:job_id>/diagnosis/<symptom_id>", access=Role.READER, replies=schemas.DiagnosisView)
def job_diagnosis(job_id: int, symptom_id: str) -> schemas.DiagnosisView:
    """The table of hypotheses for a job's machine, and the tests worth making next."""
    found = diagnose(session(), job_id, symptom_id, clock=read_clock(session()))
    return schemas.DiagnosisView(
        symptom=schemas.SymptomView(id=found.symptom.id, words=found.symptom.words),
        hypotheses=[
            schemas.HypothesisView(
                id=row.hypothesis.id,
                words=row.hypothesis.words,
                kind=row.hypothesis.kind,
                trivial=row.hypothesis.trivial,
                prior=row.prior,
                posterior=row.posterior,
                weight=row.weight,
                basis=_basis(row.hypothesis, found),
            )
            for row in found.rows
        ],
        tests=[
            schemas.TestView(
                id=item.test.id,
                words=item.test.words,
                minutes=item.test.minutes,
                outcomes=list(item.test.outcomes),
                caution=item.test.caution,
                opens=item.test.opens,
                bits=item.bits,
                per_minute=item.per_minute,
                reason=item.reason,
                tells=tells(found.rows, item.test),
            )
            for item in found.advice
        ],
        results=[schemas.ResultView.model_validate(result) for result in found.results],
        against=found.against,
        returns=list(found.returns),
        events=list(found.events),
        old=found.old,
    )


def _basis(hypothesis: Hypothesis, found: Diagnosis) -> str:
    """Where a prior comes from, in words."""
    if hypothesis.per_100 is None and hypothesis.kind:
        words = [f"{found.rates[hypothesis.kind]:.1f} failures in 100 such machines a year, from the log"]
    else:
        words = [f"{hypothesis.per_100:g} in 100 machines a year, as the company states"]
    words += [f"×{hypothesis.after[event]:g} after a {event}" for event in found.events if event in hypothesis.after]
    if found.old and hypothesis.old_age != 1:
        words.append(f"×{hypothesis.old_age:g} for its age")
    if hypothesis.kind in found.replaced:
        words.append("off the suspects: an earlier job put a part that had proved itself in its place")
    if hypothesis.kind in found.new:
        words.append("an earlier job put a new one in: a new part may be bad from the start")
    return ", ".join(words)


@endpoint(blueprint, "/jobs/<int:job_id>/options", access=Role.READER, replies=schemas.OptionsView)
def job_options(job_id: int) -> schemas.OptionsView:
    """Repair, replace and harvest, costed side by side."""
    clock = read_clock(session())
    found = options_of(session(), job_id, clock=clock)
    return schemas.OptionsView(
        choices=[_choice(item) for item in (found.repair, found.replace, found.harvest)],
        remaining_value=found.remaining_value,
        ratio=found.ratio,
        talk=found.talk,
        talk_ratio=costs_of(session(), clock).talk_ratio,
        unpriced=list(found.unpriced),
        assumed=[WORDS[key] for key in found.assumed],
    )


def _choice(choice: Choice) -> schemas.ChoiceView:
    lines = [schemas.CostLine(words=line.words, amount=line.amount) for line in choice.lines]
    return schemas.ChoiceView(name=choice.name, total=choice.total, least=choice.least, lines=lines)


@endpoint(blueprint, "/diagnosis/knowledge", access=Role.READER, replies=schemas.KnowledgeView)
def diagnosis_knowledge() -> schemas.KnowledgeView:
    """The knowledge as a file to edit."""
    text, number = knowledge_text(session(), read_clock(session()))
    return schemas.KnowledgeView(text=text, number=number)


@endpoint(blueprint, "/diagnosis/knowledge", method="POST", access=Role.LEAD, replies=schemas.KnowledgeKept, status=201)
def keep_knowledge(json: schemas.KnowledgeIn) -> schemas.KnowledgeKept:
    """Keep an edited knowledge file from today on."""
    number = change_knowledge(session(), json.text, clock=read_clock(session()), author_id=author_id())
    return schemas.KnowledgeKept(number=number)
