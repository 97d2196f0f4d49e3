"""A string put out again on purpose, by an amount that nobody sees."""

import math
import random

from meldrin.core.bench import voices
from meldrin.core.bench.amounts import OUT_TIMES, amount_cents
from meldrin.core.bench.frame import rested
from meldrin.core.bench.listening import AIDS
from meldrin.core.bench.observe import judged_cents
from meldrin.core.bench.state import State
from meldrin.core.changed import changed
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import Step
from meldrin.core.pitch import shifted_by_cents
from meldrin.core.session import Sounds
from meldrin.core.strings import sounding_hz, strain_sounding


def put_out(state: State) -> tuple[State, Sounds]:
    """Return the state with this step's string put out, low or high, and the help hidden; and what
    falls silent.

    How far and which way is drawn by the seed and the number of the action. What a picture had
    shown of the string is no longer known then, and what was said of it with that no longer counts.
    Where an answer came at once, both stay: else one could say it, and have it put out, until luck
    says yes.

    Raises:
        MeldrinError: ``no_judgement`` where no string is tuned by ear; ``broken``; ``not_yet``
            after the check with the tuner.
    """
    stage = state.current()
    if not isinstance(stage, Step) or stage.by_tuner:
        raise MeldrinError(Code.NO_JUDGEMENT, "Only a string that is tuned by ear is put out.")
    label = state.rig.plan.label(stage.string)
    if state.string(stage.string).broken:
        raise MeldrinError(Code.BROKEN, f"The {label} string is broken; replace it first.")
    if state.checked_s is not None:
        raise MeldrinError(Code.NOT_YET, "The strings have been checked; finish and see.")
    draw = random.Random(f"put out {state.exercise.seed} {state.done}")
    cents = amount_cents(draw, state.exercise.tolerance, OUT_TIMES)
    cents *= 1.0 if draw.random() < 0.5 else -1.0
    state, sounds = voices.silenced(state)
    state = _moved(state, stage, cents)
    now = state.string(stage.string)
    turns = now.turns + 1  # nobody has heard it since
    answered = state.exercise.answers_at_once and bool(state.judged(state.stage))
    seen = now.seen if answered else AIDS[0]
    now = changed(now, seen=seen, turns=turns, put_out=turns, turned_s=state.time_s, unheard=0)
    said = tuple(
        one
        for one in state.judgements
        if answered or one.stage != state.stage or one.aid == AIDS[0]
    )
    allowed = state.exercise.aids
    return (
        changed(
            state.with_string(stage.string, now),
            judgements=said,
            decisions=tuple(one for one in state.decisions if one.stage != state.stage),
            aid=state.aid if allowed and AIDS[0] not in allowed else AIDS[0],
            pitches=(),
            taught=None,
        ),
        sounds,
    )


def _moved(state: State, stage: Step, cents: float) -> State:
    """Return the state with the stage's string out by this much from where its partner wants it."""
    number, rig = stage.string, state.rig
    string, odd, off = rig.strings[number - 1], rig.quirks[number - 1], judged_cents(state, stage)
    if math.isfinite(off):
        now_hz = sounding_hz(string, strain=state.strain(number), fret=0, number=1)
        wanted_hz = shifted_by_cents(now_hz, cents=cents - off)
    else:  # slack: nothing to count from but its note
        wanted_hz = shifted_by_cents(rig.plan.targets_hz[number - 1], cents=cents)
    strain = strain_sounding(string, frequency_hz=wanted_hz, fret=0, number=1)
    now = changed(
        state.string(number),
        material_m=state.path_m(number) / (1.0 + strain),
        head_m=odd.head_m / (1.0 + strain),
        lost_deg=0.0,
        twist_deg=0.0,
        lowered_cents=0.0,
        last_turn=0,
    )
    return rested(state.with_string(number, now))
