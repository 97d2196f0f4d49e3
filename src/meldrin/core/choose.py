"""Choosing a method: all of them ranked by a few plain answers, with a reason each.

The points are judgements of what teachers advise; they only order the list. The choice is the
person's.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Literal, get_args

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import METHODS, Wanted, plan_by

Company = Literal["alone", "others"]
Noise = Literal["quiet", "noisy"]
Source = Literal["nothing", "fork", "notes", "drone", "tuner"]
HowFar = Literal["hair", "out", "slack"]
Purpose = Literal["learn", "practice", "stage", "recording"]


@dataclass(frozen=True, slots=True)
class Situation:
    """The answers. `source`: what reference is at hand; `how_far`: slightly or clearly out, slack.

    Raises:
        MeldrinError: code ``answer``, for an answer there is none of.
    """

    company: Company = "alone"
    noise: Noise = "quiet"
    source: Source = "fork"
    how_far: HowFar = "hair"
    purpose: Purpose = "learn"

    def __post_init__(self) -> None:
        for value, kind in (
            (self.company, Company),
            (self.noise, Noise),
            (self.source, Source),
            (self.how_far, HowFar),
            (self.purpose, Purpose),
        ):
            if value not in get_args(kind):
                raise MeldrinError(
                    Code.ANSWER, f"“{value}” is not an answer; take {', '.join(get_args(kind))}."
                )


@dataclass(frozen=True, slots=True)
class Ranked:
    """A method with its reasons, the weightiest first; `serves` False where it cannot, and why."""

    method: str
    name: str
    about: str
    serves: bool
    points: float
    reasons: tuple[str, ...]


Rule = tuple[str, float, str, Callable[[Situation, Wanted], bool]]


def _bowed(_: Situation, wanted: Wanted) -> bool:
    return wanted.instrument.kind == "bowed"


def _low(_: Situation, wanted: Wanted) -> bool:
    return min(wanted.tuning.midis) < 36


def _sympathetic(_: Situation, wanted: Wanted) -> bool:
    return any(string.role == "sympathetic" for string in wanted.instrument.strings)


def _chords(situation: Situation, wanted: Wanted) -> bool:
    return situation.purpose in ("stage", "recording") and wanted.instrument.kind == "plucked"


RULES: Final[tuple[Rule, ...]] = (
    ("each", 3.0, "You have a note for every string.", lambda s, _: s.source == "notes"),
    ("each", -3.0, "It needs a pipe, a piano or another player’s notes.",
     lambda s, _: s.source not in ("notes", "tuner")),
    ("each", 1.0, "A tuner that sounds can give the notes.", lambda s, _: s.source == "tuner"),
    ("each", 1.5, "Far out as it is, a given note leads each string safely near.",
     lambda s, _: s.how_far == "slack"),
    ("each", -1.5, "In noise a sounded note is hard to hold.", lambda s, _: s.noise == "noisy"),
    ("unison", 2.0, "It needs nothing but a string you trust.",
     lambda s, _: s.source in ("nothing", "fork") and s.company == "alone"),
    ("unison", 1.5, "It trains the ear on the plainest sound there is, the unison.",
     lambda s, _: s.purpose == "learn"),
    ("unison", -2.0, "With strings this slack the trusted string moves while you work.",
     lambda s, _: s.how_far == "slack"),
    ("unison", -1.0, "The errors of the chain add up, which a stage or a recording shows.",
     lambda s, _: s.purpose in ("stage", "recording")),
    ("unison", -1.0, "In noise two unisons are hard to tell apart.",
     lambda s, _: s.noise == "noisy"),
    ("fifths", 3.0, "Two strings under one bow: you hear the beats between them stop.",
     _bowed),
    ("fifths", 1.0, "From the common A outward you match the others.",
     lambda s, _: s.company == "others"),
    ("fifths", 1.0, "Fifths are what your instrument is heard by.",
     lambda s, w: s.purpose == "learn" and _bowed(s, w)),
    ("fifths", -1.5, "In noise the slowest beats are hard to hear.",
     lambda s, _: s.noise == "noisy"),
    ("fifths", -1.5, "Bring slack strings near first; a tuner is quicker for that.",
     lambda s, _: s.how_far == "slack"),
    ("harmonics", 2.5, "Low strings speak clearest in their harmonics.", _low),
    ("harmonics", 1.0, "Harmonics ring on while both hands are free, and their beats are plain.",
     lambda s, _: s.how_far == "hair"),
    ("harmonics", 0.5, "You need no more than one string to trust.",
     lambda s, _: s.source in ("nothing", "fork")),
    ("harmonics", -1.5, "Its pure fourths leave a wide third, sour in chords.", _chords),
    ("harmonics", -1.5, "Harmonics of slack strings do not speak.",
     lambda s, _: s.how_far == "slack"),
    ("drone", 4.0, "Strings that follow a scale are heard over their tonic.", _sympathetic),
    ("drone", 3.0, "A drone is at hand, and every string is heard against it.",
     lambda s, _: s.source == "drone"),
    ("drone", -2.0, "It needs a tonic that sounds on.",
     lambda s, w: s.source in ("nothing", "fork") and not _sympathetic(s, w)),
    ("drone", -1.0, "With others in many keys its intervals fit one key only.",
     lambda s, _: s.company == "others"),
    ("tuner", 4.5, "In noise a tuner clipped on hears only your instrument.",
     lambda s, _: s.noise == "noisy" and s.source == "tuner"),
    ("tuner", 2.0, "Slack strings are brought near quickest by a tuner.",
     lambda s, _: s.how_far == "slack" and s.source == "tuner"),
    ("tuner", 1.5, "On a stage it is quick, and silent.",
     lambda s, _: s.purpose == "stage" and s.source == "tuner"),
    ("tuner", 0.5, "A tuner is at hand.", lambda s, _: s.source == "tuner"),
    ("tuner", -4.0, "You have no tuner at hand.", lambda s, _: s.source != "tuner"),
    ("tuner", -1.5, "With the tuner alone your ear gets no practice.",
     lambda s, _: s.purpose == "learn"),
    ("mixed", 2.0, "For chords and for others a chosen compromise, checked by ear, is surest.",
     lambda s, _: s.purpose in ("stage", "recording") and s.source == "tuner"),
    ("mixed", 1.5, "Ear first, tuner as the judge: each checks the other.",
     lambda s, _: s.source == "tuner" and s.noise == "quiet"),
    ("mixed", -3.5, "It needs a tuner for the strings in between.",
     lambda s, _: s.source != "tuner"),
)  # fmt: skip


def rank(situation: Situation, wanted: Wanted) -> tuple[Ranked, ...]:
    """Return all methods, the fittest first; those that cannot serve come last, with why not."""
    ranked = []
    for place, method in enumerate(METHODS.values()):
        try:
            plan_by(method.id, wanted)
        except MeldrinError as error:
            row = Ranked(method.id, method.name, method.about, False, 0.0, (error.message,))
            ranked.append((1, 0.0, place, row))
            continue
        met = [
            (points, sentence)
            for about, points, sentence, applies in RULES
            if about == method.id and applies(situation, wanted)
        ]
        total = sum(points for points, _ in met)
        met.sort(key=lambda one: (one[0] < 0.0) if total >= 0.0 else (one[0] > 0.0))
        reasons = tuple(sentence for _, sentence in met) or ("Nothing speaks for or against it.",)
        row = Ranked(method.id, method.name, method.about, True, total, reasons)
        ranked.append((0, -total, place, row))
    ranked.sort(key=lambda one: one[:3])
    return tuple(row for _, _, _, row in ranked)
