"""Hold it: a note, then silence or another note, then a string that is brought to the first."""

import random
from collections.abc import Sequence
from statistics import median
from typing import Final

from meldrin.core.drills.belief import Scale
from meldrin.core.drills.drill import (
    Amount,
    EarModel,
    Example,
    Interval,
    MatchDrill,
    Playback,
    Question,
    Stretch,
    TrialSettings,
    Turned,
)
from meldrin.core.drills.notes import note, roved, sounding
from meldrin.core.drills.way import tuned_by
from meldrin.core.sound.partials import PartialTable
from meldrin.core.units import ratio_of_cents
from meldrin.core.words import whole_cents

NOTE_S, REST_S = 1.5, 0.3
STRING_S: Final = 3.0  # of a string that rings on
SILENCES_S: Final = (2.0, 5.0, 10.0, 20.0)
OTHER_S: Final = 5.0  # the silence that another note breaks
OTHER_CENTS: Final = (-300.0, -200.0, -100.0, 100.0, 200.0, 300.0)
OUT_CENTS: Final = (40.0, 160.0)  # so far the string is out, to either side
STEP_CENTS: Final = 2.0
SIZES: Final = (1, 10)
MOST_STEPS: Final = 160
RIGHT_WITHIN: Final = 10.0  # cents
SHOWN_S: Final = 1.3
SAYS_SOMETHING, LEANS_FROM = 4, 0.75  # trials, and the share of them on one side
SHORT_S, COMPARED_FROM = 5.0, 2
TELLS: Final = "Hum the note softly, or sing it in your head, until the string comes."
USUALLY_HELD_S: Final = 8.0


def _posed(asked: TrialSettings, draw: random.Random) -> Question:
    hz = roved(asked.hz, draw)
    wanted = note(asked.instrument, asked.string, hz=hz)
    out = draw.choice((-1.0, 1.0)) * draw.uniform(*OUT_CENTS)
    # one in five is broken by another note
    is_broken, silence_s = draw.random() < 0.2, draw.choice(SILENCES_S)
    if is_broken:
        silence_s = OTHER_S
    begins_s = NOTE_S + silence_s
    before = [(wanted, 0.0, NOTE_S)]
    parts = [Stretch("the note", 0.0, NOTE_S)]
    if is_broken:
        other = tuned_by(wanted, ratio_of_cents(draw.choice(OTHER_CENTS)))
        begin_s = NOTE_S + 0.5 * (silence_s - NOTE_S)
        before.append((other, begin_s, begin_s + NOTE_S))
        parts.append(Stretch("another", begin_s, begin_s + NOTE_S))
    parts.append(Stretch("your string", begins_s, begins_s + STRING_S))

    def cents(steps: float) -> float:
        return out + STEP_CENTS * steps

    def at(steps: int) -> PartialTable:
        return tuned_by(wanted, ratio_of_cents(cents(steps)))

    def says(steps: float) -> str:
        if abs(cents(steps)) < 0.5 * STEP_CENTS:
            return "You brought it home."
        side = "low" if cents(steps) < 0.0 else "high"
        return f"You left it {whole_cents(round(abs(cents(steps))))} {side}."

    return Question(
        question="Keep the note in mind. Bring your string to it.",
        answers=(),
        right=0,
        says="",
        tells=TELLS,
        how_sure=f"How sure are you that it is within {RIGHT_WITHIN:.0f} cents?",
        turned=Turned(
            at=at,
            afterwards=lambda steps: _one_after_the_other(wanted, at(steps), cents(steps)),
            sizes=SIZES,
            most=MOST_STEPS,
            parts=tuple(parts),
            before=tuple(before),
        ),
        amount=Amount(
            of=silence_s,
            error=cents,
            within=RIGHT_WITHIN,
            says=says,
            said=lambda steps: f"{cents(steps):+.0f} cents after {silence_s:g} s",
        ),
    )


def _one_after_the_other(first: PartialTable, second: PartialTable, cents: float) -> Playback:
    second_s = SHOWN_S + REST_S
    return Playback(
        sounding((first, 0.0, SHOWN_S), (second, second_s, second_s + SHOWN_S)),
        (
            Stretch("the note", 0.0, SHOWN_S),
            Stretch("your string", second_s, second_s + SHOWN_S + 0.1, cents=cents),
        ),
    )


def _examples(asked: TrialSettings) -> tuple[Example, ...]:
    wanted = note(asked.instrument, asked.string, hz=asked.hz)
    listen = (
        ("Low", -60.0, "The string asks to come up."),
        ("There it is", 0.0, "It is the note again."),
        ("High", 60.0, "The string asks to come down."),
    )
    return tuple(
        Example(
            words,
            tells,
            _one_after_the_other(wanted, tuned_by(wanted, ratio_of_cents(cents)), cents),
        )
        for words, cents, tells in listen
    )


def _remarks(trials: Sequence[tuple[float, float, int]]) -> list[str]:
    """How far memory drifts: which way, and after a long silence beside a short one."""
    found = []
    if trials and not any(turns for _, _, turns in trials):
        found.append("You never turned the string.")
    errors = [error for _, error, _ in trials]
    low = sum(error < -0.5 * STEP_CENTS for error in errors)
    high = sum(error > 0.5 * STEP_CENTS for error in errors)
    for side, count in (("low", low), ("high", high)):
        if len(errors) >= SAYS_SOMETHING and count >= LEANS_FROM * len(errors):
            found.append(
                f"Mostly you left it {side}: by {whole_cents(round(abs(median(errors))))}."
            )
    short = [abs(error) for silence_s, error, _ in trials if silence_s <= SHORT_S]
    long = [abs(error) for silence_s, error, _ in trials if silence_s > SHORT_S]
    if min(len(short), len(long)) >= COMPARED_FROM:
        found.append(
            f"After more than {SHORT_S:g} seconds you were {whole_cents(round(median(long)))} off, "
            f"after a shorter silence {whole_cents(round(median(short)))}."
        )
    return found


def _heard_by(ear: EarModel, hz: float, _: Interval) -> float:
    return ear.threshold_held(hz, USUALLY_HELD_S)


HOLDING: Final = MatchDrill(
    id="hold",
    name="Hold it",
    about="A note, a silence, then bring your string to it",
    scale=Scale("amount", low=1.5, high=90.0),
    unit="cents",
    goals=(25.0, 15.0, 8.0),
    heard_by=_heard_by,
    drawn="notes",
    does="hold a note within",
    trials=8,
    posed=_posed,
    examples=_examples,
    remarks=_remarks,
)
