"""Preparing over HTTP: the catalogue, the methods ranked, plans, fitness, retuning. No records."""

from typing import Annotated

from fastapi import APIRouter, Query, Response
from fastapi.responses import JSONResponse

from meldrin.core.catalogue import instrument, instruments
from meldrin.core.fitness import fitness, questions
from meldrin.reports.plan_record import instrument_record, plan_record, retuning_record
from meldrin.server.schemas.prepare import (
    CatalogueInstrument,
    FitnessAsked,
    FitnessPage,
    FitnessQuestion,
    PlanAsked,
    PlanPage,
    RankedMethod,
    RankingAsked,
    RetuningAsked,
    RetuningPage,
    fitness_of,
    question_of,
    ranked_of,
    retuning_of,
)
from meldrin.services.prepare import methods_for, plan_for, retuning_for

router = APIRouter(prefix="/api", tags=["prepare"])
Asking = Annotated[PlanAsked, Query()]


@router.get("/instruments")
def list_instruments() -> list[CatalogueInstrument]:
    """The catalogue: every instrument with its strings and tunings."""
    return [CatalogueInstrument.model_validate(instrument_record(one)) for one in instruments()]


@router.get("/methods")
def rank_methods(wanted: Annotated[RankingAsked, Query()]) -> list[RankedMethod]:
    """The methods for a situation, the fittest first, with a reason each."""
    return ranked_of(methods_for(wanted.asked(), wanted.situation()))


@router.get("/plan")
def show_plan(wanted: Asking) -> PlanPage:
    """A plan by one method; without one, by the fittest."""
    return PlanPage.model_validate(_record(wanted))


@router.get("/plan.json", response_model=PlanPage)
def download_plan(wanted: Asking) -> Response:
    """The plan as a file."""
    record = _record(wanted)
    return JSONResponse(record, headers=_attachment(record, "json"))


@router.get("/plan.pdf", response_class=Response)
def print_plan(wanted: Asking) -> Response:
    """The plan card as a PDF."""
    from meldrin.reports.plan_pdf import plan_pdf

    record = _record(wanted)
    return Response(
        plan_pdf(record), media_type="application/pdf", headers=_attachment(record, "pdf")
    )


@router.get("/retuning")
def show_retuning(wanted: Annotated[RetuningAsked, Query()]) -> RetuningPage:
    """From one tuning to another: loads, order, how far to aim off, cautions."""
    _, change = retuning_for(
        wanted.instrument, before=wanted.before, after=wanted.after, a4_hz=wanted.a4_hz
    )
    return retuning_of(retuning_record(change))


@router.get("/fitness")
def list_questions(instrument_id: Annotated[str, Query(max_length=40)]) -> list[FitnessQuestion]:
    """What to look at on an instrument, in the order one does it."""
    return [question_of(one) for one in questions(instrument(instrument_id))]


@router.post("/fitness")
def check_fitness(wanted: FitnessAsked) -> FitnessPage:
    """What the answers mean. Nothing of them is kept."""
    return fitness_of(fitness(instrument(wanted.instrument), wanted.answers))


def _record(wanted: PlanAsked) -> dict[str, object]:
    planned = plan_for(wanted.asked())
    return plan_record(planned.plan, planned.expected)


def _attachment(record: dict[str, object], kind: str) -> dict[str, str]:
    name = f"plan-{record['instrument']}-{record['method']}.{kind}"
    return {"Content-Disposition": f'attachment; filename="{name}"'}
