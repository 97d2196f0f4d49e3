"""Practice in a calendar: when what has been learned is to be heard again, and the concert.

As iCalendar (RFC 5545), whole days without an alarm: nobody is reminded who does not want to be.
"""

from collections.abc import Sequence
from datetime import UTC, date, datetime, timedelta
from typing import Final
from uuid import NAMESPACE_URL, uuid5

from icalendar import Calendar, Event

from meldrin.core.catalogue import Instrument
from meldrin.core.drills import drill_of, where_said
from meldrin.core.practice import Aim, Sat, Standing, skills_for, standings

LOOKS_AHEAD: Final = timedelta(days=60)


def calendar_text(aim: Aim, made: Instrument, *, sat: Sequence[Sat], now: datetime) -> str:
    """Return the calendar: an event on every day on which something is due, and the concert.

    Args:
        sat: the sittings at drills, the oldest first.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Meldrin//Practice//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"Practice: {made.short_name}")
    stand, _ = standings(skills_for(made, aim.tuning, aim.method), sat, now=now)
    days: dict[date, list[Standing]] = {}
    for one in stand:
        if one.due is not None and one.due < now + LOOKS_AHEAD:
            days.setdefault(max(one.due, now).date(), []).append(one)
    for day, due in sorted(days.items()):
        names = [_name(one) for one in due]
        calendar.add_component(
            _event(
                day,
                f"Practise listening: {made.short_name}",
                "\n".join(names),
                key=f"{made.id} {day}",
                now=now,
            )
        )
    if aim.concert is not None and aim.concert >= now.date():
        calendar.add_component(
            _event(aim.concert, "Concert", "", key=f"concert {aim.concert}", now=now)
        )
    written: bytes = calendar.to_ical()
    return written.decode()


def _name(one: Standing) -> str:
    name = drill_of(one.skill.drill).name
    return f"{name}, {where_said(one.skill.known_by)}" if one.skill.is_measured else name


def _event(day: date, summary: str, about: str, *, key: str, now: datetime) -> Event:
    event = Event()
    event.add("uid", f"{uuid5(NAMESPACE_URL, f'meldrin {key}')}@meldrin")
    event.add("dtstamp", now.astimezone(UTC))
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))
    event.add("summary", summary)
    if about:
        event.add("description", about)
    event.add("transp", "TRANSPARENT")
    return event
