"""From an instrument to what is drawn and heard of it."""

from functools import lru_cache

from meldrin.core.bench import Exercise
from meldrin.core.catalogue import instrument_of
from meldrin.core.sound.demonstrations import WOBBLES, open_string, wobble
from meldrin.core.sound.events import Start
from meldrin.server.attempts.present import strings_of
from meldrin.server.instruments.schemas import OpenString, PlayedInstrument, WobbleSound

FORK_VOICE = 1
STRING_VOICE = 2
FIRST_VOICE = 100  # string n has voice 100 + n


@lru_cache(maxsize=64)
def played_instrument(text: str) -> PlayedInstrument:
    """Return the instrument of a file as it is drawn, and each of its open strings."""
    made = instrument_of(text)
    exercise = Exercise(made.id, "free", "hair", 1, instrument_text=text)
    return PlayedInstrument(
        id=made.id,
        name=made.name,
        frets=made.frets,
        strings=strings_of(exercise),
        sounds=[
            OpenString(
                number=string.number,
                sounds=[Start(FIRST_VOICE + string.number, open_string(made, string.number))],
            )
            for string in made.strings
        ],
    )


@lru_cache(maxsize=1)
def wobble_sounds() -> list[WobbleSound]:
    """Return the three wobbles."""
    found = []
    for how in WOBBLES:
        pair = wobble(how)
        found.append(
            WobbleSound(
                id=how,
                sounds=[Start(FORK_VOICE, pair.fork), Start(STRING_VOICE, pair.string)],
                own_voice=STRING_VOICE,
                own_partial=pair.string_partial,
                other_voice=FORK_VOICE,
                other_partial=pair.fork_partial,
                beats_hz=pair.beats_hz,
            )
        )
    return found
