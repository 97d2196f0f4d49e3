"""What was said after a chord, held against the truth."""

import math

from meldrin.core.bench.limits import limits
from meldrin.core.bench.state import Named, State
from meldrin.core.words import capital, whole_cents


def said_of_chord(state: State, named: Named) -> str:
    """Return in a sentence which string stood out, and whether that is what was said."""
    band = limits().tolerances[state.exercise.tolerance].full_cents
    label = state.rig.plan.label
    if abs(named.was_cents) <= band:
        if not named.string:
            return f"No string stood out, as you said: all were within {whole_cents(band)}."
        return (
            f"You named {label(named.string)}, but no string stood out: all were within"
            f" {whole_cents(band)}."
        )
    truth = f"{label(named.furthest)} was {_about(named.was_cents)}"
    side = "low" if named.was_cents < 0.0 else "high"
    if not named.string:
        return f"You heard none, but {truth}."
    if named.string != named.furthest:
        return capital(f"{truth}; you named {label(named.string)}.")
    if named.verdict != side:
        return capital(f"{truth}: the right string, the other way.")
    return capital(f"{truth}, as you said.")


def _about(cents: float) -> str:
    if math.isinf(cents):
        return "too slack to sound"
    return f"about {whole_cents(round(abs(cents)))} {'low' if cents < 0.0 else 'high'}"
