"""Exercises that a teacher sets: parts from bench, drills and pages, and how they are done."""

from meldrin.core.tasks.ready import first_lesson, two_minutes
from meldrin.core.tasks.results import ClassResult, Did, Help, class_result
from meldrin.core.tasks.task import (
    MOST_PARTS,
    MOST_TIMES,
    TASKS,
    Counts,
    ListenPart,
    ReadPage,
    ReadPart,
    Starts,
    Task,
    TaskPart,
    TunePart,
    seed_for,
    task_of,
    task_text,
)
