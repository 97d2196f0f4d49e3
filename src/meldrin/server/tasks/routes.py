"""Exercises over HTTP: a studio's collection, what is given of it, doing it, and its results."""

from typing import Annotated

from fastapi import APIRouter, Body, Depends, Query, Response

from meldrin.core import tasks as core
from meldrin.reports.class_csv import class_csv
from meldrin.server.dependencies import Asker, Counts, Guest, Now, Route, Store
from meldrin.server.tasks.present import class_page, given_of, page_of, set_of, task_of
from meldrin.server.tasks.schemas import (
    ClassPage,
    GivenChange,
    GivenList,
    GivenTask,
    GiveWanted,
    Number,
    PartBegin,
    ReadyWanted,
    SetTask,
    TaskPage,
    TaskSettings,
    TryBegun,
)
from meldrin.services import assignments, class_results
from meldrin.services import tasks as service
from meldrin.services.limits import use
from meldrin.services.studios import taught

router = APIRouter(prefix="/api", tags=["tasks"], route_class=Route)
MOST_FILE_BYTES = 300_000


@router.get("/studios/{studio_id}/tasks")
def list_tasks(studio_id: str, session: Store, actor: Asker) -> list[TaskPage]:
    """The exercises of a studio, the one changed last first."""
    studio = taught(session, actor, studio_id)
    return [page_of(one) for one in service.collection(session, studio)]


@router.post("/studios/{studio_id}/tasks", status_code=201)
def make_task(
    studio_id: str, wanted: TaskSettings, session: Store, actor: Asker, now: Now
) -> TaskPage:
    """Keep an exercise in the studio's collection."""
    taught(session, actor, studio_id)
    task = task_of(session, actor, wanted)
    return page_of(service.keep_task(session, actor, studio_id, task, now=now))


@router.post("/studios/{studio_id}/tasks/ready", status_code=201)
def make_ready_task(
    studio_id: str, wanted: ReadyWanted, session: Store, actor: Asker, now: Now
) -> TaskPage:
    """Keep a first lesson, or two minutes with everyone, to be adapted."""
    taught(session, actor, studio_id)
    if wanted.kind == "first_lesson":
        task = core.first_lesson(wanted.instrument, string=wanted.string, first=wanted.first)
    else:
        task = core.two_minutes(wanted.instrument, string=wanted.string)
    return page_of(service.keep_task(session, actor, studio_id, task, now=now))


@router.post("/studios/{studio_id}/tasks/import", status_code=201)
def bring_task(
    studio_id: str,
    file: Annotated[str, Body(media_type="text/plain", max_length=MOST_FILE_BYTES)],
    session: Store,
    actor: Asker,
    now: Now,
    name: Annotated[str, Query(max_length=80)] = "This file",
) -> TaskPage:
    """Bring in an exercise from a file of open JSON; `name` is the file's, for the refusal."""
    taught(session, actor, studio_id)
    use(session, actor, "imports", now=now)
    task = core.task_of(file, name=name)
    return page_of(service.keep_task(session, actor, studio_id, task, now=now))


@router.get("/studios/{studio_id}/tasks/{task_id}")
def open_task(studio_id: str, task_id: str, session: Store, actor: Asker) -> TaskPage:
    """An exercise of the collection."""
    return page_of(service.open_task(session, actor, studio_id, task_id))


@router.get(
    "/studios/{studio_id}/tasks/{task_id}/task.json",
    response_class=Response,
    responses={200: {"content": {"application/json": {}}}},
    dependencies=[Depends(Counts("downloads"))],
)
def take_task(studio_id: str, task_id: str, session: Store, actor: Asker) -> Response:
    """An exercise as a file of open JSON."""
    text = core.task_text(service.open_task(session, actor, studio_id, task_id).task)
    headers = {"Content-Disposition": 'attachment; filename="meldrin-exercise.json"'}
    return Response(text, media_type="application/json", headers=headers)


@router.put("/studios/{studio_id}/tasks/{task_id}")
def change_task(
    studio_id: str, task_id: str, wanted: TaskSettings, session: Store, actor: Asker, now: Now
) -> TaskPage:
    """Change an exercise; where it was given it stays as it was."""
    taught(session, actor, studio_id)
    task = task_of(session, actor, wanted)
    return page_of(service.keep_task(session, actor, studio_id, task, task_id=task_id, now=now))


@router.delete("/studios/{studio_id}/tasks/{task_id}", status_code=204)
def erase_task(studio_id: str, task_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Erase an exercise of the collection."""
    service.erase_task(session, actor, studio_id, task_id, now=now)


@router.post("/studios/{studio_id}/tasks/{task_id}/copy", status_code=201)
def copy_task(studio_id: str, task_id: str, session: Store, actor: Asker, now: Now) -> TaskPage:
    """A copy of an exercise, to be changed."""
    return page_of(service.copy_task(session, actor, studio_id, task_id, now=now))


@router.post("/studios/{studio_id}/tasks/{task_id}/try/{number}", status_code=201)
def try_part(
    studio_id: str, task_id: str, number: Number, session: Store, actor: Asker, now: Now
) -> TryBegun:
    """Begin a part oneself, to see and hear it before it is set."""
    use(session, actor, "attempts", now=now)
    practice, begun = assignments.try_part(session, actor, studio_id, task_id, number, now=now)
    return TryBegun(practice=practice, id=begun)


@router.post("/studios/{studio_id}/tasks/{task_id}/give", status_code=201)
def give_task(
    studio_id: str, task_id: str, wanted: GiveWanted, session: Store, actor: Asker, now: Now
) -> GivenTask:
    """Give an exercise to pupils, a group, or by a code."""
    to = assignments.To(wanted.everyone, wanted.group, wanted.members, wanted.by_link)
    row = assignments.give(session, actor, studio_id, task_id, to, due=wanted.due, now=now)
    return given_of(class_results.overview(session, row))


@router.get("/studios/{studio_id}/given")
def list_given(
    studio_id: str,
    session: Store,
    actor: Asker,
    after: Annotated[str | None, Query(max_length=32)] = None,
) -> GivenList:
    """The exercises that were given, the newest first; with `after`, those before that one."""
    page = class_results.list_given(session, actor, studio_id, after=after)
    return GivenList(given=[given_of(one) for one in page.given], after=page.after)


@router.get("/studios/{studio_id}/given/{assignment_id}")
def show_results(
    studio_id: str,
    assignment_id: str,
    session: Store,
    actor: Asker,
    now: Now,
    part: Annotated[int, Query(ge=0, lt=core.MOST_PARTS)] = 0,
) -> ClassPage:
    """What a class made of a part of an exercise."""
    found = class_results.results(session, actor, studio_id, assignment_id, part, now=now)
    return class_page(found)


@router.get(
    "/studios/{studio_id}/given/{assignment_id}/results.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {}}}},
)
def take_results(
    studio_id: str,
    assignment_id: str,
    session: Store,
    actor: Asker,
    now: Now,
    part: Annotated[int, Query(ge=0, lt=core.MOST_PARTS)] = 0,
) -> Response:
    """What a class made of a part, as a table: a line for each pupil."""
    found = class_results.results(session, actor, studio_id, assignment_id, part, now=now)
    headers = {"Content-Disposition": 'attachment; filename="meldrin-results.csv"'}
    return Response(class_csv(found.result), media_type="text/csv", headers=headers)


@router.patch("/studios/{studio_id}/given/{assignment_id}", status_code=204)
def change_given(
    studio_id: str,
    assignment_id: str,
    wanted: GivenChange,
    session: Store,
    actor: Asker,
    now: Now,
) -> None:
    """Give an exercise another date, or open and close its code."""
    assignments.change_given(
        session,
        actor,
        studio_id,
        assignment_id,
        due=wanted.due,
        open_by_code=wanted.by_link,
        now=now,
    )


@router.delete("/studios/{studio_id}/given/{assignment_id}", status_code=204)
def take_back(studio_id: str, assignment_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Take an exercise back; what pupils did stays their own."""
    assignments.take_back(session, actor, studio_id, assignment_id, now=now)


@router.get("/set")
def list_set(session: Store, actor: Asker) -> list[SetTask]:
    """The exercises one has to do, what is due first first."""
    return [set_of(one) for one in assignments.set_for(session, actor)]


@router.get("/set/{given_id}")
def open_set(given_id: str, session: Store, actor: Asker) -> SetTask:
    """An exercise one has to do, by its id or by its code."""
    return set_of(assignments.open_given(session, actor, given_id))


@router.post("/set/{given_id}/parts/{number}", status_code=201)
def begin_part(
    given_id: str, number: Number, wanted: PartBegin, session: Store, actor: Guest, now: Now
) -> TryBegun:
    """Begin a part, or go on with it; whoever has the code may, without a name."""
    use(session, actor, "attempts", now=now)
    practice, begun = assignments.begin_part(
        session,
        actor,
        given_id,
        number,
        naming=wanted.naming,
        called=wanted.called,
        now=now,
    )
    return TryBegun(practice=practice, id=begun)
