"""What a tuner shows of the bench, and how all strings are when it has checked them."""

from meldrin.core.bench import State
from meldrin.core.bench.tuner import held
from meldrin.core.hearing import Reading
from meldrin.server.bench.schemas import (
    Checked,
    CheckedString,
    Shown,
)


def checked(state: State, readings: dict[int, Reading | None]) -> Checked:
    """Return the wire form of a check of all strings with the tuner."""
    plan = state.rig.plan
    found = [(number, held(state, number, one)) for number, one in readings.items()]
    return Checked(
        strings=[
            CheckedString(
                number=number,
                name=None if one.found is None else plan.note(one.found.midi),
                cents=None if one.found is None else one.found.cents,
                should_name=plan.note(one.should.midi),
                should_cents=one.should.cents,
                off_cents=one.off_cents,
            )
            for number, one in found
        ]
    )


def shown(state: State, at_s: float, reading: Reading | None, *, flats: bool) -> Shown:
    """Return the wire form of a tuner's reading."""
    if reading is None:
        return Shown(at_s=at_s, name=None, cents=None, should_cents=None)
    stage, should = state.current(), None
    if stage is not None and stage.own.string is not None:
        one = held(state, stage.own.string, reading)
        sounds = {voice.string for voice in state.ringing if not voice.along}
        if sounds == {stage.own.string} and one.should.midi == reading.midi:
            should = one.should.cents
    name = state.rig.plan.note(reading.midi, flats=flats)
    return Shown(at_s=at_s, name=name, cents=reading.cents, should_cents=should)
