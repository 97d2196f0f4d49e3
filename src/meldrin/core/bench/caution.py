"""The caution a teacher would give at this moment, or none."""

from meldrin.core.bench.observe import pitch_cents
from meldrin.core.bench.rig import CAUTION_CENTS
from meldrin.core.bench.state import State
from meldrin.core.strings import EVERYDAY_SHARE, breaking_share, tension_at_strain

FAR_ABOVE_CENTS = 120.0
UNHEARD_TURNS = 12


def caution(state: State) -> str | None:
    """Return a sentence when a string has been turned well above its pitch, or near its limit."""
    for number, (string, now) in enumerate(
        zip(state.rig.strings, state.strings, strict=True), start=1
    ):
        if now.off:
            continue
        if now.broken:
            return (
                f"The {state.rig.labels[number - 1]} string has snapped. Keep eyes and hands away"
                " from its ends. Replace it and bring the new one up slowly, or leave it off."
            )
        if now.last_turn <= 0:
            continue
        strain = state.strain(number)
        if not state.rig.plan.trusted and strain <= state.rig.caution_strains[number - 1]:
            continue  # looked at first, since almost all strings end here
        label = state.rig.labels[number - 1]
        share = breaking_share(string, tension_n=tension_at_strain(string, strain))
        above = pitch_cents(state, number)
        if share > EVERYDAY_SHARE and above > CAUTION_CENTS:
            return f"{label} is near its limit and may snap. Turn your face away and loosen it."
        if above > FAR_ABOVE_CENTS:
            word = string.peg.word
            return f"{label} is far tighter than it should be. Is this the right {word}? Loosen it."
    return None
