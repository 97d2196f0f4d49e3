"""From questions to their shape; all else has the shape's own names."""

from meldrin.core.catalogue import Chord
from meldrin.core.fitness import Question
from meldrin.core.methods import Plan
from meldrin.core.sound.demonstrations import chord
from meldrin.core.sound.events import Start
from meldrin.core.sound.references import reference
from meldrin.server.prepare.schemas import ChordSound, FitnessOption, FitnessQuestion

FIRST_VOICE = 200
STRUM_S = 0.06  # a slow stroke, so that every string is heard


def chord_sound(plan: Plan, chosen: Chord) -> ChordSound:
    """Return a chord on strings that are where the plan leaves them, with the drone under what is
    played over one.
    """
    tables = chord(plan.instrument, chosen, open_hz=plan.targets_hz)
    if chosen.drone:
        tables.insert(0, reference("drone", hz=_tonic_hz(plan)))
    return ChordSound(
        name=chosen.name,
        sounds=[
            Start(FIRST_VOICE + place, table, delay_s=place * STRUM_S)
            for place, table in enumerate(tables)
        ],
    )


def _tonic_hz(plan: Plan) -> float:
    """Return the pitch of the highest playing string that gives the tonic."""
    return max(
        hz
        for string, hz in zip(plan.instrument.strings, plan.targets_hz, strict=True)
        if string.role == "playing" and plan.tuning.midi(string.number) % 12 == plan.tuning.tonic
    )


def question_of(question: Question) -> FitnessQuestion:
    """Return a question with its options."""
    same = {
        name: getattr(question, name) for name in FitnessQuestion.model_fields if name != "options"
    }
    options = [FitnessOption(value=value, words=words) for value, words in question.options]
    return FitnessQuestion(**same, options=options)
