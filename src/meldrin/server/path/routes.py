"""What one can do: the steps, one to try, and a class on them."""

from typing import Annotated

from fastapi import APIRouter, Query

from meldrin.core.practice import stages
from meldrin.server.dependencies import Asker, Guest, Now, Route, Store
from meldrin.server.exercises import settings_of
from meldrin.server.path.present import page_of
from meldrin.server.path.schemas import (
    ClassPath,
    PathPage,
    PupilOnPath,
    StepBegun,
    StepWanted,
    WaysAsked,
    WayToBegin,
)
from meldrin.services import path as service
from meldrin.services.limits import use

router = APIRouter(prefix="/api", tags=["path"], route_class=Route)


@router.get("/path")
def show_path(session: Store, actor: Asker) -> PathPage:
    """What the learner can do, and what comes next."""
    return page_of(service.path_for(session, actor))


@router.post("/path/{step}", status_code=201)
def begin_step(step: str, wanted: StepWanted, session: Store, actor: Guest, now: Now) -> StepBegun:
    """Begin what a step is tried with, on the instrument that the learner practises for."""
    use(session, actor, "attempts", now=now)
    attempt, sitting = service.begin_step(session, actor, step, naming=wanted.naming, now=now)
    return StepBegun(attempt=attempt, kind="drill" if sitting else "bench")


@router.get("/ways")
def list_ways(
    wanted: Annotated[WaysAsked, Query()], session: Store, actor: Asker
) -> list[WayToBegin]:
    """Three ways to begin on an instrument."""
    found = service.ways_for(
        session, actor, wanted.instrument, tuning=wanted.tuning, naming=wanted.naming
    )
    return [
        WayToBegin(id=one.id, name=one.name, about=one.about, exercise=settings_of(one.exercise))
        for one in found
    ]


@router.get("/studios/{studio_id}/path")
def show_class_path(studio_id: str, session: Store, actor: Asker, now: Now) -> ClassPath:
    """Where the pupils of a studio stand. That it was looked at is written down."""
    found, unread = service.class_path(session, actor, studio_id, now=now)
    return ClassPath(
        stages=[one.name for one in stages()],
        pupils=[
            PupilOnPath(
                id=one.member,
                name=one.name,
                stage=one.path.stage.name,
                next=one.path.next[0].can if one.path.next else "",
            )
            for one in found
        ],
        unread=unread,
    )
