"""Exercises that are set, between what they are and how they are shown."""

from dataclasses import asdict

from sqlalchemy.orm import Session

from meldrin.core.people import title_said
from meldrin.core.tasks import ListenPart, ReadPart, Task, TaskPart, TunePart
from meldrin.server.drills.schemas import SittingWanted
from meldrin.server.exercises import settings_of
from meldrin.server.tasks.schemas import (
    AidCount,
    ClassDot,
    ClassHelp,
    ClassPage,
    ClassPupil,
    ClassRule,
    ClassString,
    GivenTask,
    ListenWanted,
    PartWanted,
    ReadWanted,
    SetPart,
    SetTask,
    TaskPage,
    TaskSettings,
    TuneWanted,
)
from meldrin.services.actor import Actor
from meldrin.services.assignments import Given, PartDone
from meldrin.services.class_results import Overview, Results
from meldrin.services.instruments import own_text
from meldrin.services.tasks import StoredTask, part_name


def task_of(session: Session, actor: Actor, wanted: TaskSettings) -> Task:
    """Return the exercise that a teacher has made.

    Raises:
        MeldrinError: for parts that do not go together.
    """
    return Task(
        name=title_said(wanted.name),
        parts=tuple(_part(session, actor, one) for one in wanted.parts),
        note=" ".join(wanted.note.split()),
        starts=wanted.starts,
        counts=wanted.counts,
    )


def page_of(kept: StoredTask) -> TaskPage:
    """Return an exercise of the collection."""
    task = kept.task
    return TaskPage(
        id=kept.id,
        changed=kept.changed,
        name=task.name,
        note=task.note,
        starts=task.starts,
        counts=task.counts,
        parts=tuple(_wanted(part) for part in task.parts),
        part_names=[part_name(part) for part in task.parts],
    )


def set_of(given: Given) -> SetTask:
    """Return an exercise for the one who does it."""
    return SetTask(
        id=given.row.public_id,
        name=given.task.name,
        note=given.task.note,
        studio=given.studio,
        teachers=list(given.teachers),
        due=given.row.due_at,
        parts=[_set_part(one) for one in given.parts],
        next=given.next,
    )


def given_of(found: Overview) -> GivenTask:
    """Return an exercise that was given, for its teacher's list."""
    row = found.row
    return GivenTask(
        id=row.public_id,
        name=row.name,
        to=found.to,
        code=row.code,
        given=row.created_at,
        due=row.due_at,
        of=found.of,
        done=found.done,
    )


def class_page(found: Results) -> ClassPage:
    """Return what a class made of a part."""
    row, result = found.row, found.result
    return ClassPage(
        id=row.public_id,
        name=row.name,
        to=found.to,
        given=row.created_at,
        due=row.due_at,
        code=row.code,
        parts=[part_name(part) for part in found.task.parts],
        kinds=[part.kind for part in found.task.parts],
        part=found.part,
        says=result.says,
        more=list(result.more),
        help_first=[ClassHelp.model_validate(one) for one in result.help_first],
        strings=[
            ClassString(
                string=one.string,
                label=one.label,
                low=one.low,
                well=one.well,
                high=one.high,
                dots=[ClassDot.model_validate(dot) for dot in one.dots],
            )
            for one in result.strings
        ],
        pupils=[
            ClassPupil(**asdict(one), attempt=attempt)
            for one, attempt in zip(result.pupils, found.attempts, strict=True)
        ],
        tolerance_cents=result.tolerance_cents,
        aids=[AidCount(aid=aid, pupils=count) for aid, count in result.aids],
        rules=[ClassRule.model_validate(one) for one in result.rules],
    )


def _part(session: Session, actor: Actor, wanted: PartWanted) -> TaskPart:
    match wanted:
        case TuneWanted():
            text = own_text(session, actor, wanted.exercise.instrument)
            return TunePart(wanted.exercise.exercise(text), wanted.helps, wanted.times)
        case ListenWanted():
            text = own_text(session, actor, wanted.sitting.instrument)
            return ListenPart(wanted.sitting.exercise(text), wanted.times)
        case ReadWanted():
            return ReadPart(wanted.page, wanted.instrument, wanted.method)


def _wanted(part: TaskPart) -> PartWanted:
    match part:
        case TunePart():
            return TuneWanted(
                exercise=settings_of(part.exercise), helps=part.helps, times=part.times
            )
        case ListenPart():
            one = part.exercise
            sitting = SittingWanted(
                drill=one.drill,
                instrument=one.instrument_id,
                string=one.string,
                tuning=one.tuning,
                interval=one.interval,
                truth=one.truth,
                trials=one.trials,
                naming=one.naming,
            )
            return ListenWanted(sitting=sitting, times=part.times)
        case ReadPart():
            return ReadWanted(page=part.page, instrument=part.instrument_id, method=part.method)


def _set_part(one: PartDone) -> SetPart:
    part = one.part
    helps = part.helps if isinstance(part, TunePart) else ()
    is_read = isinstance(part, ReadPart)
    return SetPart(
        kind=part.kind,
        name=part_name(part),
        times=one.times,
        of=1 if isinstance(part, ReadPart) else part.times,
        done=one.is_done and not is_read,
        open=one.open is not None,
        last=one.last,
        help=helps[min(one.times, len(helps) - 1)] if helps else None,
        page=part.page if isinstance(part, ReadPart) else None,
        instrument=part.instrument_id
        if isinstance(part, ReadPart)
        else part.exercise.instrument_id,
        method=part.method if isinstance(part, ReadPart) else "",
    )
