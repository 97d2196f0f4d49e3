"""How a plan closes: octaves, open or stopped low on the neck, pairs of open strings, or the same
comparisons once more.
"""

import itertools
from collections.abc import Iterable
from typing import Final

from meldrin.core.beats import meeting
from meldrin.core.catalogue import Chord
from meldrin.core.catalogue.chord import chord_words
from meldrin.core.methods.builder import Builder
from meldrin.core.methods.pairs import apart, leaders
from meldrin.core.methods.plan import Side
from meldrin.core.strings import semitones_at

LOW_FRET: Final = 5  # up to here the hand stays by the nut


def check_octaves(builder: Builder, *, most: int = 1) -> None:
    """Check strings whole octaves apart that were not compared; the outer ones first."""
    octaves = {1: "an octave", 2: "two octaves", 3: "three octaves"}
    for low, high in _octave_pairs(builder)[:most]:
        span = (builder.tuning.midi(high) - builder.tuning.midi(low)) // 12
        own, other = builder.open(low, 2**span), builder.open(high)
        names = (builder.label(low), builder.label(high))
        builder.check(
            own,
            other,
            title=f"Check: {names[0]} with {names[1]}",
            instruction=(
                f"{builder.sound_word} the open {names[0]} and {names[1]}, {octaves[span]} apart."
                f" {_goal(builder, builder.beats_between(own, other))}"
            ),
        )


def _goal(builder: Builder, rate_hz: float) -> str:
    if rate_hz >= 0.05:  # chosen offsets may part them
        return f"By the offsets chosen it should be at about {rate_hz:.1f} beats a second."
    if builder.instrument.kind == "bowed":  # a bow keeps the partials of a stiff string harmonic
        return "It should be still. If it is not, go back to the string you trust least."
    return (
        "A very slow beat may stay, since thick strings are a little stiff. If it is quicker, go"
        " back to the string you trust least."
    )


def check_stopped(builder: Builder, *, most: int = 2) -> None:
    """Check octaves of an open string with another stopped low on the neck, as players do.

    Only where frets stand firm, and not of pairs that the plan has compared.
    """
    instrument = builder.instrument
    if instrument.fretting != "fixed":
        return
    used = {frozenset(pair) for pair in builder.pairs}
    found = []
    for low, high in itertools.permutations(leaders(instrument), 2):
        semitones = 12 - (builder.tuning.midi(high) - builder.tuning.midi(low))
        fret = semitones + instrument.string(high).nut_fret
        playing = all(instrument.string(n).role == "playing" for n in (low, high))
        if playing and 0 < semitones < 12 and fret <= LOW_FRET and {low, high} not in used:
            found.append((fret, -builder.tuning.midi(low), low, high))
    for fret, _, low, high in sorted(found)[:most]:
        own, other = builder.open(low, 2), builder.stopped(high, fret)
        rate = builder.beats_between(own, other)
        sound = "almost still" if rate < 0.05 else f"at about {rate:.1f} beats a second"
        names = (builder.label(low), builder.label(high))
        builder.check(
            own,
            other,
            title=f"Check: {names[0]} with {names[1]} at fret {fret}",
            instruction=(
                f"Play the open {names[0]} with {names[1]} pressed lightly behind fret {fret}, an"
                f" octave above: {sound}."
            ),
        )


def check_pairs(builder: Builder, pairs: Iterable[tuple[int, int]], *, why: str) -> None:
    """Check pairs of open strings that have partials in common; the last one says why."""
    listed = list(pairs)
    for one, two in listed:
        low, high = sorted((one, two), key=builder.tuning.midi)
        own, other = builder.meeting_touches(low, high)
        rate = builder.beats_between(own, other)
        sound = "still" if rate < 0.05 else f"at about {rate:.1f} beats a second"
        names = (builder.label(low), builder.label(high))
        last = (one, two) == listed[-1]
        builder.check(
            own,
            other,
            title=f"Check: {names[0]} with {names[1]}",
            instruction=(
                f"{builder.sound_word} the open {names[0]} and {names[1]}: they should be"
                f" {sound}.{f' {why}' if last else ''}"
            ),
        )


# What should agree best in a chord: octaves first, then one note twice, then fifths.
AGREEING: Final = (12, 24, 0, 7, 19)


def check_chord(builder: Builder) -> None:
    """Close with a chord, as players do: all strings at once, and one that is out is heard.

    The first chord of the tuning that plays all strings, or most of them, more than two. Of its
    notes the two are compared that should agree best.
    """
    instrument = builder.instrument
    found = []
    for place, chord in enumerate(instrument.chords_in(builder.tuning)):
        if chord.drone or len({instrument.string(n).course for n, _ in chord.notes}) < 3:
            continue
        pair = _agreeing(builder, chord)
        if pair is not None:
            found.append((-len(chord.notes), place, chord, pair))
    if not found:
        return
    _, _, chord, (own, other) = min(found, key=lambda one: one[:2])
    words = chord_words(chord.name, naming=builder.wanted.naming)
    builder.check(
        own,
        other,
        title=f"Check: the chord of {words}",
        instruction=(
            f"Play the chord of {words}, slowly from string to string, then at once. Does one"
            " string stand out?"
        ),
        chord=chord,
    )


def _agreeing(builder: Builder, chord: Chord) -> tuple[Side, Side] | None:
    """Return the two notes of a chord that should agree best, or None if none do."""
    notes = {
        number: builder.tuning.midi(number) + semitones_at(builder.instrument.string(number), fret)
        for number, fret in chord.notes
    }
    firsts = set(leaders(builder.instrument))
    found = []
    for low, high in itertools.permutations(sorted(firsts & set(notes), reverse=True), 2):
        apart_by = notes[high] - notes[low]
        if apart_by in AGREEING and not (apart_by == 0 and low < high):
            pressed = (chord.fret_of(low) > 0) + (chord.fret_of(high) > 0)
            found.append((AGREEING.index(apart_by), pressed, notes[low], low, high))
    if not found:
        return None
    _, _, _, low, high = min(found)
    met = meeting(notes[high] - notes[low])
    assert met is not None
    return (
        Side(low, chord.fret_of(low), met[0]),
        Side(high, chord.fret_of(high), met[1]),
    )


def check_again(builder: Builder) -> None:
    """Go through the comparisons once more: later strings have moved the earlier ones."""
    firsts = set(leaders(builder.instrument))
    for step in builder.steps:
        if not {step.own.string, step.other.string} <= firsts:
            continue
        labels = sorted(
            (touch.string for touch in (step.own, step.other) if touch.string is not None),
            key=builder.tuning.midi,
        )
        names = " with ".join(builder.label(number) for number in labels)
        sound = (
            "the sound should be still"
            if step.beats_hz < 0.05
            else f"they should beat {step.beats_hz:.1f} times a second"
        )
        first = not builder.checks
        builder.check(
            step.own,
            step.other,
            title=f"Again: {names}",
            instruction=f"Play them again: {sound}."
            + (
                " Each string you turned has moved the others a little; touch up what has moved."
                if first
                else ""
            ),
        )


def _octave_pairs(builder: Builder) -> list[tuple[int, int]]:
    used = {frozenset(pair) for pair in builder.pairs}
    found = []
    firsts = [
        number
        for number in leaders(builder.instrument)
        if builder.instrument.string(number).role != "sympathetic"
    ]
    for low in firsts:
        for high in firsts:
            span = builder.tuning.midi(high) - builder.tuning.midi(low)
            if span in (12, 24, 36) and frozenset((low, high)) not in used:
                found.append((-span, -apart(builder.instrument, low, high), low, high))
    return [(low, high) for _, _, low, high in sorted(found)]
