"""The caution a teacher would give at this moment, or none."""

from meldrin.core.bench.observe import pitch_cents
from meldrin.core.bench.state import State
from meldrin.core.methods.plan import string_label
from meldrin.core.strings import EVERYDAY_SHARE, breaking_share, tension_at_strain

FAR_ABOVE_CENTS = 120.0


def caution(state: State) -> str | None:
    """Return a sentence when a string has been turned well above its pitch, or near its limit."""
    instrument = state.setup.instrument
    for number, string in enumerate(state.strings, start=1):
        if string.last_turn <= 0:
            continue
        made = instrument.string(number)
        tension_n = tension_at_strain(made, state.strain(number))
        label = string_label(instrument, number)
        if breaking_share(made, tension_n=tension_n) > EVERYDAY_SHARE:
            return f"{label} is near its limit and may snap. Face away, and slacken it."
        if pitch_cents(state, number) > FAR_ABOVE_CENTS:
            return f"{label} is far tighter than it should be. Is this the right peg? Slacken it."
    return None
