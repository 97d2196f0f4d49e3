"""Preparing over HTTP: the methods ranked, plans, fitness, retuning. Nothing of it is kept."""

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response
from fastapi.responses import JSONResponse
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from meldrin.core.before import before, peg_rows, title
from meldrin.core.catalogue import Instrument
from meldrin.core.catalogue.instrument import tuning_said
from meldrin.core.fitness import fitness, questions
from meldrin.core.pitch import Naming
from meldrin.reports.catalogue import RetuningPage, retuning_page
from meldrin.reports.plan import PlanPage, plan_page
from meldrin.server.dependencies import Asker, Counts, Process, Route, Store
from meldrin.server.prepare.present import chord_sound, question_of
from meldrin.server.prepare.schemas import (
    BeforePage,
    BeforePart,
    BeforeString,
    ChordAsked,
    ChordSound,
    FitnessAsked,
    FitnessPage,
    FitnessQuestion,
    PlanAsked,
    RankedMethod,
    RankingAsked,
    RetuningAsked,
)
from meldrin.services.actor import Actor
from meldrin.services.instruments import instrument_for
from meldrin.services.prepare import methods_for, plan_for, retuning_for

router = APIRouter(prefix="/api", tags=["prepare"], route_class=Route)
Asking = Annotated[PlanAsked, Query()]


@router.get("/methods")
def rank_methods(
    wanted: Annotated[RankingAsked, Query()], session: Store, actor: Asker
) -> list[RankedMethod]:
    """The methods for a situation, the fittest first, with a reason each."""
    made = _instrument(session, actor, wanted.instrument)
    ranked = methods_for(wanted.asked(), wanted.situation(), made)
    return [RankedMethod.model_validate(one) for one in ranked]


@router.get("/before")
def before_you_start(
    session: Store,
    actor: Asker,
    instrument: Annotated[str, Query(max_length=40)] = "guitar",
    tuning: Annotated[str, Query(max_length=200)] = "standard",
    naming: Naming = "letters",
) -> BeforePage:
    """What to know before tuning an instrument: its strings, its pegs, the hands, the fork."""
    made = _instrument(session, actor, instrument)
    tuned = tuning_said(made, tuning)
    return BeforePage(
        title=title(made),
        strings=[BeforeString.model_validate(one) for one in peg_rows(made, tuned, naming=naming)],
        parts=[BeforePart.model_validate(one) for one in before(made, tuned, naming=naming)],
    )


@router.get("/plan")
def show_plan(wanted: Asking, session: Store, actor: Asker) -> PlanPage:
    """A plan by one method; without one, by the fittest."""
    return _page(session, actor, wanted)


@router.get("/plan/chord")
def hear_chord(wanted: Annotated[ChordAsked, Query()], session: Store, actor: Asker) -> ChordSound:
    """A chord as it sounds once the plan has been followed exactly."""
    made = _instrument(session, actor, wanted.instrument)
    plan = plan_for(wanted.asked(), made).plan
    return chord_sound(plan, made.chord(plan.tuning, wanted.chord))


@router.get("/plan.json", response_model=PlanPage)
def download_plan(wanted: Asking, session: Store, actor: Asker) -> Response:
    """The plan as a file."""
    page = _page(session, actor, wanted)
    return JSONResponse(asdict(page), headers=_attachment(page, "json"))


@router.get(
    "/plan.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
    dependencies=[Depends(Counts("downloads"))],
)
async def print_plan(wanted: Asking, session: Store, actor: Asker, process: Process) -> Response:
    """The plan card as a PDF."""
    async with process.turns.turn(actor):
        page, card = await run_in_threadpool(_card, session, actor, wanted)
    return Response(card, media_type="application/pdf", headers=_attachment(page, "pdf"))


@router.get("/retuning")
def show_retuning(
    wanted: Annotated[RetuningAsked, Query()], session: Store, actor: Asker
) -> RetuningPage:
    """From one tuning to another: loads, order, how far to aim off, cautions."""
    made = _instrument(session, actor, wanted.instrument)
    change = retuning_for(made, before=wanted.before, after=wanted.after, a4_hz=wanted.a4_hz)
    return retuning_page(change)


@router.get("/fitness")
def list_questions(
    instrument_id: Annotated[str, Query(max_length=40)], session: Store, actor: Asker
) -> list[FitnessQuestion]:
    """What to look at on an instrument, in the order one does it."""
    made = _instrument(session, actor, instrument_id)
    return [question_of(one) for one in questions(made)]


@router.post("/fitness")
def check_fitness(wanted: FitnessAsked, session: Store, actor: Asker) -> FitnessPage:
    """What the answers mean. Nothing of them is kept."""
    made = _instrument(session, actor, wanted.instrument)
    return FitnessPage.model_validate(fitness(made, wanted.answers))


def _card(session: Session, actor: Actor, wanted: PlanAsked) -> tuple[PlanPage, bytes]:
    from meldrin.reports.plan_pdf import plan_pdf

    page = _page(session, actor, wanted)
    return page, plan_pdf(page)


def _page(session: Session, actor: Actor, wanted: PlanAsked) -> PlanPage:
    made = _instrument(session, actor, wanted.instrument)
    planned = plan_for(wanted.asked(), made)
    return plan_page(planned.plan, planned.expected)


def _attachment(page: PlanPage, kind: str) -> dict[str, str]:
    name = f"plan-{page.instrument}-{page.method}.{kind}"
    return {"Content-Disposition": f'attachment; filename="{name}"'}


def _instrument(session: Session, actor: Actor, instrument_id: str) -> Instrument:
    """Return an instrument, and let go of the connection: what follows takes longer."""
    made = instrument_for(session, actor, instrument_id)
    session.close()
    return made
