"""Which way? A pair beats; a small turn makes the beats slower or faster, and so tells the side."""

import random
from dataclasses import replace
from typing import Final

from meldrin.core.drills.beating import USUAL_HZ, meeting, pair
from meldrin.core.drills.belief import Scale
from meldrin.core.drills.drill import (
    Answer,
    EarModel,
    Interval,
    Playback,
    Sounding,
    Stretch,
    ThresholdDrill,
    TrialSettings,
    Turned,
)
from meldrin.core.drills.notes import FADE_S, FADES, roved
from meldrin.core.sound.events import Release, Retune, Start
from meldrin.core.sound.partials import PartialTable

LASTS_S: Final = 4.0
SHOWN_TURN: Final = 0.6  # of the beats that are there, once the truth is known
TURNED_S, GLIDE_S = 1.6, 0.25
AFTER_S: Final = 4.4


def tuned_by(table: PartialTable, ratio: float) -> PartialTable:
    """Return a string tuned higher by a factor; within a tone nothing else of it changes that
    could be heard.
    """
    return replace(table, fundamental_hz=table.fundamental_hz * ratio)


def _turned(asked: TrialSettings, draw: random.Random) -> Turned:
    """A string that is low or high by a usual rate of beats. A step moves it by some percent of
    that rate as are asked: up to them it never passes the fork.
    """
    low, high = USUAL_HZ
    beats_hz = low * (high / low) ** draw.random()
    is_high = asked.difference > 0.0
    hz = roved(asked.hz, draw)
    # the fork lies above a string that is low
    string, fork = pair(asked, -beats_hz if is_high else beats_hz, hz=hz, lasts_s=LASTS_S)
    partial_hz = string.frequencies_hz[meeting(hz) - 1]
    step = beats_hz * abs(asked.difference) / 100.0 / partial_hz

    def afterwards(_: int) -> Playback:
        turn = SHOWN_TURN * beats_hz
        tuned = tuned_by(string, 1.0 + turn / partial_hz)
        end_s = AFTER_S - FADES * FADE_S
        return Playback(
            Sounding(
                (
                    (0.0, Start(0, string)),
                    (0.0, Start(1, fork)),
                    (TURNED_S, Retune(0, tuned.fundamental_hz, tuned.stiffness, GLIDE_S)),
                    (end_s, Release(0, FADE_S)),
                    (end_s, Release(1, FADE_S)),
                )
            ),
            (
                Stretch("before", 0.0, TURNED_S, beats_hz=beats_hz),
                Stretch(
                    "tightened",
                    TURNED_S,
                    AFTER_S + 0.1,
                    beats_hz=beats_hz + turn if is_high else beats_hz - turn,
                ),
            ),
        )

    return Turned(
        at=lambda steps: tuned_by(string, 1.0 + steps * step),
        afterwards=afterwards,
        sizes=(1,),
        most=1,
        parts=(Stretch("both", 0.0, LASTS_S),),
        along=(fork,),
    )


def _said(difference: float, _: Interval) -> str:
    return "The string was high." if difference > 0.0 else "The string was low."


def _heard_by(ear: EarModel, _: float, __: Interval) -> float:
    # a string that is turned down and up is compared over twice the turn
    return 100.0 * ear.spread


WAY: Final = ThresholdDrill(
    id="way",
    name="Which way",
    about="A pair beats; turn a little, and hear",
    scale=Scale("side", low=2.0, high=90.0),
    unit="percent",
    goals=(50.0, 25.0, 15.0),
    heard_by=_heard_by,
    drawn="waves",
    does="hear the way from a change of",
    question="Turn a little, and listen. Was the string low or high?",
    answers=(
        Answer("low", "Low", "Tighten it: the beats slow down."),
        Answer("high", "High", "Tighten it: the beats get faster."),
    ),
    said=_said,
    turned=_turned,
)
