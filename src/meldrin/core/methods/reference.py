"""What a plan begins with: the string, the reference it is taken from, and the first step."""

from meldrin.core.beats import overtone_name
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.builder import Builder
from meldrin.core.methods.naming import a_note
from meldrin.core.methods.pairs import leaders
from meldrin.core.methods.plan import Reference
from meldrin.core.methods.wanted import Wanted
from meldrin.core.pitch import A4_MIDI, equal_tempered_hz
from meldrin.core.words import capital, with_article

LOWEST_TONE_MIDI = 52
MIDDLE_MIDI = 54  # where a drone or a voice lies


def starting_string(wanted: Wanted) -> int:
    """Return the string to begin with: the one asked for, else the one nearest below a fork's A,
    else one on the tonic, else the one that is an A in standard tuning, else the lowest.
    """
    if wanted.start is not None:
        return wanted.start
    tuning, instrument = wanted.tuning, wanted.instrument
    choices = [n for n in leaders(instrument) if instrument.string(n).role == "playing"]
    fitting = [n for n in choices if _fork_partial(wanted, tuning.midi(n))]
    if fitting:  # octaves below the fork first: they need no third partial
        return min(
            fitting,
            key=lambda n: ((A4_MIDI - tuning.midi(n)) % 12, A4_MIDI - tuning.midi(n), n),
        )
    on_tonic = [n for n in choices if tuning.midi(n) % 12 == tuning.tonic]
    if on_tonic:
        return min(on_tonic, key=lambda n: (abs(MIDDLE_MIDI - tuning.midi(n)), n))
    usual = [n for n in choices if (instrument.string(n).midi - A4_MIDI) % 12 == 0]
    return usual[0] if usual else min(choices, key=lambda n: (tuning.midi(n), n))


def reference_for(wanted: Wanted, number: int) -> Reference:
    """Return the fork where it fits this string, else a tone at the string's own note.

    Low strings get it an octave or two up, where a beat is quick enough to be heard.
    """
    midi = wanted.tuning.midi(number)
    if wanted.itself:
        return Reference("itself", midi, equal_tempered_hz(midi, a4_hz=wanted.a4_hz))
    if _fork_partial(wanted, midi) and not wanted.sounded:
        return Reference("fork", A4_MIDI, wanted.a4_hz)
    while midi < LOWEST_TONE_MIDI:
        midi += 12
    return Reference("tone", midi, equal_tempered_hz(midi, a4_hz=wanted.a4_hz))


def from_reference(builder: Builder, number: int) -> None:
    """Begin with one string, from the fork or from a note sounded for it, or as it is."""
    if builder.reference.kind == "itself":
        builder.trust(number)
        return
    label = builder.label(number)
    if builder.reference.kind == "fork":
        partial = _fork_partial(builder.wanted, builder.tuning.midi(number))
        touched = builder.wanted.fork_at == "harmonic" and partial > 1
        own = builder.harmonic(number, partial) if touched else builder.open(number, partial)
        goal = builder.goal(own, builder.sounded())
        if touched:
            how = (
                f"Sound the fork, touch {label} lightly {builder.where(own)} and play it: the"
                f" harmonic meets the fork. Turn {builder.peg(number)} {goal}."
            )
        else:
            where = "They are meant to be one note."
            if partial > 1:
                where = (
                    f"The fork is {with_article(overtone_name(partial))} higher: listen up there."
                )
            how = (
                f"Play the fork and the open {label} together. {where}"
                f" Turn {builder.peg(number)} {goal}."
            )
        by = f", touched {builder.where(own)}" if touched else ""
        builder.step(
            own, builder.sounded(), title=f"{capital(label)} from the fork{by}", instruction=how
        )
        return
    note = builder.note(builder.reference.midi)
    partial = int(2 ** ((builder.reference.midi - builder.tuning.midi(number)) // 12))
    own, other = builder.harmonic(number, partial), builder.sounded()
    string = (
        f"the open {label}" if partial == 1 else f"{label}, touched lightly {builder.where(own)},"
    )
    builder.step(
        own,
        other,
        title=f"{capital(label)} from a sounded {note}",
        instruction=(
            f"Have {a_note(note)} sounded, by a pipe, a piano or another player, and play"
            f" {string} with it. Turn {builder.peg(number)} {builder.goal(own, other)}."
        ),
    )


def needs_a_source(wanted: Wanted, name: str, needs: str) -> None:
    """Refuse a string trusted as it is in a method that cannot start from one.

    Raises:
        MeldrinError: code ``method``.
    """
    if wanted.itself:
        raise MeldrinError(Code.METHOD, f"{name} needs {needs}; it cannot start from one string.")


def in_order(wanted: Wanted, numbers: list[int]) -> list[int]:
    """Return strings in the order asked for: as they come, from the lowest up, or down; where the
    order is left to the method and some are known to be far out, those come first.
    """
    if wanted.order not in ("up", "down"):
        if wanted.a_first:
            numbers = _from_a(wanted, numbers)
        far = [number for number in wanted.far if number in numbers]
        return [*far, *(number for number in numbers if number not in far)]
    return sorted(
        numbers, key=lambda n: (wanted.tuning.midi(n), -n), reverse=wanted.order == "down"
    )


def _from_a(wanted: Wanted, numbers: list[int]) -> list[int]:
    """Return strings from the A of the fork down, and those above it last: the highest is the one
    likeliest to snap.
    """
    at = next((n for n in numbers if wanted.instrument.string(n).midi == A4_MIDI), None)
    if at is None:
        return numbers
    above = numbers[: numbers.index(at)]
    return [*numbers[len(above) :], *reversed(above)]


def _fork_partial(wanted: Wanted, midi: int) -> int:
    """Return which partial of a string at this note a fork's A meets; 0 for none."""
    partials = {0: 1, 12: 2, 24: 4}
    if wanted.fork_at == "harmonic":
        partials[19] = 3  # an octave and a fifth: a guitar's D at fret 7
    return partials.get(A4_MIDI - midi, 0)
