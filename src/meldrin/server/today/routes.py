"""The plan of the day: what it is for, the plan and its items; the calendar and the figures."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Body, Depends, Query, Response
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.practice import Progress, goal_said
from meldrin.reports.calendar import calendar_text
from meldrin.reports.figures import figures_csv, figures_text, read_figures
from meldrin.reports.progress import ProgressPage, progress_csv, progress_page
from meldrin.server.dependencies import Asker, Counts, Guest, Now, Route, Store
from meldrin.server.path.present import now_of
from meldrin.server.today.present import plan_of, settings_of
from meldrin.server.today.schemas import (
    AimSettings,
    FiguresBroughtIn,
    ItemWanted,
    ProgressAsked,
    TodayPage,
    TodayPlan,
)
from meldrin.services import today as service
from meldrin.services.actor import Actor
from meldrin.services.aims import aim_of
from meldrin.services.figures import bring_in, figures_of
from meldrin.services.limits import use
from meldrin.services.path import path_for
from meldrin.services.progress import progress_of

router = APIRouter(prefix="/api", tags=["today"], route_class=Route)
MOST_FILE_BYTES = 8_000_000
Table = Literal["heard", "known", "strings", "methods", "done", "judged"]


@router.get("/today")
def open_today(session: Store, actor: Asker, now: Now) -> TodayPage:
    """What the learner practises for, and the plan of the day."""
    aim = aim_of(session, actor)
    if aim is None:
        return TodayPage(aim=None, plan=None, goal="", path=None)
    path = path_for(session, actor)
    found = service.today(session, actor, now=now) or service.thought_of(
        session, actor, aim, path=path, now=now
    )
    return TodayPage(
        aim=settings_of(aim),
        plan=_plan(session, actor, found),
        goal=goal_said(aim, now.date()),
        path=now_of(path),
    )


@router.put("/today/aim")
def set_aim(wanted: AimSettings, session: Store, actor: Guest, now: Now) -> AimSettings:
    """Say what to practise for."""
    aim = wanted.aim()
    service.set_aim(session, actor, aim, now=now)
    return settings_of(aim)


@router.post("/today/plans", status_code=201)
def make_plan(wanted: AimSettings, session: Store, actor: Guest, now: Now) -> TodayPlan:
    """Make the plan of the day, from what drills and bench have told."""
    use(session, actor, "attempts", now=now)
    aim = wanted.aim()
    if aim_of(session, actor) is None:
        service.set_aim(session, actor, aim, now=now)
    return _plan(session, actor, service.make_today(session, actor, aim, now=now))


@router.post("/today/plans/{plan_id}/items/{number}")
def begin_item(
    plan_id: str, number: int, wanted: ItemWanted, session: Store, actor: Asker, now: Now
) -> TodayPlan:
    """Begin an item of a plan, counted from 0, or go on with it; a rest is done by it."""
    use(session, actor, "attempts", now=now)
    found = service.begin_item(session, actor, plan_id, number, naming=wanted.naming, now=now)
    return _plan(session, actor, found)


@router.get(
    "/today/calendar.ics",
    response_class=Response,
    responses={200: {"content": {"text/calendar": {}}}},
)
def calendar(session: Store, actor: Asker, now: Now) -> Response:
    """When what has been learned is to be heard again, and the concert, as iCalendar."""
    aim = aim_of(session, actor)
    if aim is None:
        raise MeldrinError(Code.NOT_YET, "Practise once, then there is something to remember.")
    made = service.instrument_for(session, actor, aim)
    sat, _ = service.evidence(session, actor, aim)
    return _file(calendar_text(aim, made, sat=sat, now=now), "text/calendar", "practice.ics")


@router.get("/figures.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
def take_table(session: Store, actor: Asker) -> Response:
    """All figures as a table: a line for each sitting, and for each string of each attempt."""
    return _file(figures_csv(*figures_of(session, actor)), "text/csv", "figures.csv")


@router.get(
    "/figures.json",
    response_class=Response,
    responses={200: {"content": {"application/json": {}}}},
)
def take_figures(session: Store, actor: Asker) -> Response:
    """All figures as JSON, to be brought in elsewhere."""
    text = figures_text(*figures_of(session, actor))
    return _file(text, "application/json", "figures.json")


@router.get("/progress")
def show_progress(
    wanted: Annotated[ProgressAsked, Query()], session: Store, actor: Asker, now: Now
) -> ProgressPage:
    """How the learner gets on: what is heard, how strings end, by string, method and week."""
    return progress_page(_progress(session, actor, wanted, now))


@router.get(
    "/progress/{table}.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {}}}},
)
def take_progress(
    table: Table,
    wanted: Annotated[ProgressAsked, Query()],
    session: Store,
    actor: Asker,
    now: Now,
) -> Response:
    """One of the tables of progress."""
    found = _progress(session, actor, wanted, now)
    return _file(progress_csv(found, table), "text/csv", f"{table}.csv")


@router.get(
    "/progress.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
    dependencies=[Depends(Counts("downloads"))],
)
def print_progress(
    wanted: Annotated[ProgressAsked, Query()], session: Store, actor: Asker, now: Now
) -> Response:
    """Progress on one page, for a lesson."""
    from meldrin.reports.progress_pdf import progress_pdf

    page = progress_page(_progress(session, actor, wanted, now))
    headers = {"Content-Disposition": 'attachment; filename="meldrin-progress.pdf"'}
    return Response(progress_pdf(page, at=now), media_type="application/pdf", headers=headers)


@router.post("/figures", status_code=201)
def bring_figures(
    file: Annotated[str, Body(media_type="text/plain", max_length=MOST_FILE_BYTES)],
    session: Store,
    actor: Guest,
    now: Now,
) -> FiguresBroughtIn:
    """Bring in figures from a file that was taken out before, as JSON or as a table."""
    use(session, actor, "imports", now=now)
    return FiguresBroughtIn(new=bring_in(session, actor, read_figures(file)))


def _progress(session: Session, actor: Actor, wanted: ProgressAsked, now: datetime) -> Progress:
    return progress_of(session, actor, now=now, **wanted.model_dump())


def _plan(session: Session, actor: Actor, found: service.Today) -> TodayPlan:
    return plan_of(found, service.instrument_for(session, actor, found.aim))


def _file(text: str, media_type: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="meldrin-{name}"'}
    return Response(text, media_type=media_type, headers=headers)
