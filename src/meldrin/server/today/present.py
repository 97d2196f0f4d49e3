"""From the plan of the day to its shapes."""

from meldrin.core.catalogue import Instrument, tuning_said
from meldrin.core.drills import where_said
from meldrin.core.methods.naming import string_label
from meldrin.core.practice import Aim, Item
from meldrin.server.today.schemas import AimSettings, TodayItem, TodayPlan
from meldrin.services.today import Doing, Today


def settings_of(aim: Aim) -> AimSettings:
    """Return what a learner practises for."""
    return AimSettings(
        instrument=aim.instrument_id,
        tuning=aim.tuning,
        method=aim.method,
        minutes=aim.minutes,
        concert=aim.concert,
        concert_name=aim.concert_name,
    )


def plan_of(today: Today, made: Instrument) -> TodayPlan:
    """Return a plan of the day."""
    return TodayPlan(
        id=today.id or None,
        instrument_name=made.short_name,
        items=[_item_of(one, today.aim, made) for one in today.items],
        next=today.next,
    )


def _item_of(doing: Doing, aim: Aim, made: Instrument) -> TodayItem:
    item = doing.item
    return TodayItem(
        kind=item.kind,
        name=item.name,
        where=_where(item, aim, made),
        reason=item.reason,
        minutes=item.minutes,
        state="done" if doing.done else "begun" if doing.attempt else "waiting",
        attempt=doing.attempt,
    )


def _where(item: Item, aim: Aim, made: Instrument) -> str:
    if item.skill is not None:
        return where_said(item.skill.known_by) if item.skill.is_measured else ""
    if item.string:
        return f"{string_label(made, item.string, tuning_said(made, aim.tuning))} string"
    return ""
