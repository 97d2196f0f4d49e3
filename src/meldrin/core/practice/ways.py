"""Three ways to begin at the bench: one string; after a month; by ear, finer than last time."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from meldrin.core.bench import Exercise
from meldrin.core.bench.limits import Tolerance, limits
from meldrin.core.catalogue import instrument_of, tuning_said
from meldrin.core.choose import rank
from meldrin.core.methods import METHODS, Situation, Wanted
from meldrin.core.pitch import Naming
from meldrin.core.practice.figures import Tuned
from meldrin.core.practice.path_begins import NOT_BY_EAR, TOLERANCES, guided_on
from meldrin.core.words import capital, in_words


@dataclass(frozen=True, slots=True)
class Way:
    """A way to begin: its name, a few words about it, and what it begins with."""

    id: str
    name: str
    about: str
    exercise: Exercise


def ways(
    text: str, tuning: str, *, tuned: Sequence[Tuned], naming: Naming = "letters"
) -> tuple[Way, ...]:
    """Return the three ways to begin on an instrument. Starts are still to be drawn.

    Args:
        text: the instrument's data.
        tuned: the attempts on it, the oldest first; they say which method, and how fine.
    """
    made = instrument_of(text)
    wanted = Wanted(made, tuning_said(made, tuning))
    served = [one.method for one in rank(Situation(), wanted) if one.serves]
    last = next((one.method for one in reversed(tuned) if one.method in served), served[0])
    by_ear = [one for one in (last, *served) if one not in NOT_BY_EAR]
    ear_method = by_ear[0] if by_ear else served[0]
    best = _finest(tuned)
    finer = TOLERANCES[min(len(TOLERANCES) - 1, TOLERANCES.index(best) + 1)] if best else "settled"

    usual = Exercise(
        made.id, last, "month", 0, tuning=tuning, instrument_text=text, naming=naming, aid="ripple"
    )
    count = sum(string.role == "playing" for string in made.strings)
    how = "As last time, finer: " if best and finer != best else ""
    one = replace(usual, method=ear_method, start="one", answers=True, decides=False)
    about = "It is put out. You bring it back, and hear at once how it is."
    if not tuned and by_ear:
        one = guided_on(text, tuning, naming=naming)
        about = "The first one, with a teacher’s words."
    return (
        Way("one", "One string", about, one),
        Way(
            "month",
            "After a month",
            f"{capital(in_words(count))} strings, {METHODS[last].how}, with Ripples.",
            usual,
        ),
        Way(
            "ear",
            "Ear only",
            capital(f"{how}{limits().tolerances[finer].name.lower()}."),
            replace(usual, method=ear_method, start="hair", aid="ear", tolerance=finer),
        ),
    )


def _finest(tuned: Sequence[Tuned]) -> Tolerance | None:
    """Return the finest tolerance that every string was brought within by ear, or None."""
    cents = {one.tolerance_cents for one in tuned if one.won_by_ear and not one.practice}
    found = [one for one in TOLERANCES if limits().tolerances[one].full_cents in cents]
    return found[-1] if found else None
