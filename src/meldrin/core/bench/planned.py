"""The plan of an exercise, kept for all exercises that share it."""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final, Literal

from meldrin.core.catalogue import Instrument, instrument, instrument_of, tuning_said
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import METHODS, Options, Plan, Wanted, plan_by
from meldrin.core.retune import retune
from meldrin.core.sound.references import Source
from meldrin.core.temperament import Temperament

FREE: Final = "free"
FAULT: Final = "fault"  # one thing is wrong with the instrument, and is to be found


@dataclass(frozen=True, slots=True)
class Planned:
    """What the plan of an exercise depends on.

    only: the one string that is out, or 0. checks: whether it is checked in the end.
    came_from: the tuning that a retuning starts from, or empty.
    frame_gives: whether strings turned later move those turned before.
    source, stretched: what sounds the reference, “” for the usual one, and whether its own partials
        are minded.
    a_first: whether strings above the fork's A come last.
    """

    instrument_id: str
    instrument_text: str
    method: str
    tuning: str
    a4_hz: float
    fifth_cents: float | None
    offsets_cents: tuple[float, ...]
    options: Options
    only: int
    came_from: str
    frame_gives: bool
    source: Source | Literal[""] = ""
    stretched: bool = True
    a_first: bool = False
    checks: bool = True


@lru_cache(maxsize=256)
def made_of(instrument_id: str, text: str) -> Instrument:
    """Return the instrument of a text, or of the catalogue where there is none."""
    return instrument_of(text) if text else instrument(instrument_id)


@lru_cache(maxsize=256)
def plan_of(key: Planned) -> Plan:
    """Return the plan of an exercise.

    Raises:
        MeldrinError: for an unknown method or tuning, or where the method cannot serve.
    """
    made = made_of(key.instrument_id, key.instrument_text)
    temperament = None
    if key.fifth_cents is not None:
        temperament = Temperament("fifths", fifth_cents=key.fifth_cents)
    if key.offsets_cents:
        if len(key.offsets_cents) != len(made.strings):
            raise MeldrinError(
                Code.OFFSETS, f"{len(made.strings)} strings need as many offsets, one for each."
            )
        custom = dict(enumerate(key.offsets_cents, start=1))
        temperament = Temperament("custom", custom=custom, reason="as chosen")
    wanted = Wanted(
        made,
        tuning_said(made, key.tuning),
        key.a4_hz,
        temperament=temperament,
        source=key.source,
        stretched=key.stretched,
        a_first=key.a_first,
        **key.options.chosen(),
    )
    if key.method in (FREE, FAULT):
        # what is played over a drone is in tune with the drone
        over_drone = any(one.drone for one in made.chords_in(wanted.tuning))
        return plan_by("drone" if over_drone else "each", wanted).without_stages(key.method)
    if key.method not in METHODS:
        raise MeldrinError(
            Code.NO_SUCH_METHOD,
            f"Unknown method “{key.method}”. Available: {', '.join(METHODS)} and {FREE}.",
        )
    plan = _retuned(key, wanted) if key.came_from else plan_by(key.method, wanted)
    if not key.only:
        return plan
    one = plan.only(key.only)
    return one if key.checks else replace(one, checks=())


def _retuned(key: Planned, wanted: Wanted) -> Plan:
    """Return the plan of a retuning: the strings that change first, in the planner's order where
    the method leaves it free, each left as low as those turned after it will lift it.
    """
    before = tuning_said(wanted.instrument, key.came_from)
    change = retune(wanted.instrument, before=before, after=wanted.tuning, a4_hz=wanted.a4_hz)
    wanted = replace(wanted, far=change.order)
    plan = plan_by(key.method, wanted)
    if not key.frame_gives or not change.order:
        return plan
    order = tuple(step.string for step in plan.steps if step.string in change.order)
    if order != change.order:
        change = retune(
            wanted.instrument, before=before, after=wanted.tuning, a4_hz=wanted.a4_hz, order=order
        )
    return plan_by(key.method, replace(wanted, aims_cents=change.aims_cents))


def playing_first(source: Source) -> int:
    """Return the place of a source among those that play along: a player first."""
    return ("player", "oboe").index(source) if source in ("player", "oboe") else 2


def sources_of(plan: Plan, *, rules: int = 2) -> tuple[Source, ...]:
    """Return what can sound a plan's reference, the usual one first.

    That is a tuner's tone, whose partials are exact and beat deepest; a piano's are not, and
    attempts by the first rules began with it.
    """
    sounded: tuple[Source, ...] = ("tone", "piano", "pipe", "oboe", "player")
    if rules == 1:
        sounded = ("piano", "pipe", "oboe", "player", "tone")
    match plan.reference.kind:
        case "drone":
            return ("drone",)
        case "tones":
            return sounded
        case "tuner":
            return ("fork", *sounded)
        case _:
            return ("fork", *sounded) if plan.reference.kind == "fork" else (*sounded, "fork")
