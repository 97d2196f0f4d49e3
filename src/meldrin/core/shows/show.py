"""Comparisons for a lesson: what a class hears first, and what it hears then.

All of it is played by the simulated bench or by the notes of the ear drills, so that what is heard
is what the score and the tuner go by.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

from meldrin.core.bench import Exercise, Play, Settle, State, Turn, opening, step
from meldrin.core.bench.actions import LayChord
from meldrin.core.bench.exercise import Behaviour
from meldrin.core.bench.observe import pitch_cents
from meldrin.core.catalogue import instrument
from meldrin.core.drills.drill import Interval, Truth
from meldrin.core.drills.notes import note, stopped_at
from meldrin.core.drills.width import true_cents
from meldrin.core.errors import Code, known
from meldrin.core.pitch import equal_tempered_hz
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start
from meldrin.core.units import ratio_of_cents
from meldrin.core.words import whole_cents

EVERY_S: Final = 0.9  # of strings one after the other
RINGS_S: Final = 3.0  # after the last one
BOWED_S: Final = 4.5  # of two notes that roll slowly
FADE_S: Final = 0.03
SEED: Final = 5
TURNED_DEG: Final = -45.0  # a turn, of which some bring a string so far down:
LOOSENED_CENTS: Final = -150.0
TONE_CENTS, FIFTH_CENTS = 200.0, 700.0  # by which a cello's A is let down
SMALL_DEG: Final = -1.0
HIGH_CENTS: Final = (34.0, 36.0, 38.0, 40.0, 42.0, 44.0, 46.0)
DOWN_DEG: Final = -0.25
SAID_FROM_CENTS: Final = 1.0  # what is nearer to its note is in tune for a class


@dataclass(frozen=True, slots=True)
class StringShown:
    """A string of a scene: its words, and how far beside its note it is, in cents."""

    label: str
    cents: float


@dataclass(frozen=True, slots=True)
class Scene:
    """One side of a comparison: its words, what sounds, for how long, and how the strings stand;
    none where two notes are compared.
    """

    words: str
    says: str
    events: tuple[SoundEvent, ...]
    lasts_s: float
    strings: tuple[StringShown, ...] = ()


@dataclass(frozen=True, slots=True)
class Show:
    """A comparison: its id and name, what to listen for, and what makes its sides, in order."""

    id: str
    name: str
    listen_for: str
    make: Callable[[], tuple[Scene, ...]]

    @property
    def scenes(self) -> tuple[Scene, ...]:
        """Its sides, made once: some take half a second."""
        return _scenes(self)


@lru_cache(maxsize=32)
def _scenes(show: Show) -> tuple[Scene, ...]:
    return show.make()


def _opened(
    made: str, *, out: int = 1, cents: float = 0.5, behaviours: frozenset[Behaviour] = frozenset()
) -> State:
    """Return an instrument in tune, but for one string; all within a cent."""
    return opening(
        Exercise(made, "free", "one", SEED, out_string=out, out_cents=cents, behaviours=behaviours)
    )


def _one_by_one(state: State, words: str, says: str) -> Scene:
    """Every string that is played, from the lowest, each ringing on."""
    playing = [one for one in state.rig.instrument.strings if one.role == "playing"]
    order = sorted(playing, key=lambda one: one.midi)
    events: list[SoundEvent] = []
    now = state
    for place, string in enumerate(order):
        now, sounds = step(now, Play((string.number,)), dt_s=EVERY_S if place else 0.0)
        events += [_later(event, place * EVERY_S) for event in sounds]
    lasts_s = EVERY_S * (len(order) - 1) + RINGS_S
    return Scene(words, says, _ended(events, lasts_s), lasts_s, _strings(state))


def _together(state: State, numbers: Sequence[int], words: str, says: str) -> Scene:
    """Strings struck together, as they are fingered."""
    _, sounds = step(state, Play(tuple(numbers)), dt_s=0.0)
    return Scene(words, says, _ended(list(sounds), RINGS_S), RINGS_S, _strings(state))


def _later(event: SoundEvent, delay_s: float) -> SoundEvent:
    if isinstance(event, Retune):
        raise AssertionError("nothing is turned while it is shown")
    return replace(event, delay_s=event.delay_s + delay_s)


def _ended(events: list[SoundEvent], lasts_s: float) -> tuple[SoundEvent, ...]:
    """Return what sounds, let go in the end."""
    voices = [event.voice for event in events if isinstance(event, Start)]
    return (*events, *(Release(voice, FADE_S, lasts_s) for voice in voices))


def _strings(state: State) -> tuple[StringShown, ...]:
    plan = state.rig.plan
    return tuple(
        StringShown(plan.label(one.number), round(pitch_cents(state, one.number), 1))
        for one in state.rig.instrument.strings
        if one.role == "playing"
    )


def _loosened(
    state: State, number: int, *, cents: float = LOOSENED_CENTS, turn_deg: float = TURNED_DEG
) -> State:
    """Return the instrument with a string turned down so far."""
    while pitch_cents(state, number) > cents:
        state, _ = step(state, Turn(number, turn_deg), dt_s=1.0)
    return state


def _of_others(state: State, number: int) -> str:
    """Return in words how far the strings that nobody touched have moved."""
    moved = [
        pitch_cents(state, one.number)
        for one in state.rig.instrument.strings
        if one.number != number
    ]
    least, most = min(moved), max(moved)
    if most < SAID_FROM_CENTS:
        return "Nobody touched the others, and they stay."
    return f"Nobody touched the others. They rose by {least:.0f} to {most:.0f} cents."


def _sharing() -> tuple[Scene, ...]:
    """A cello's strings share one bridge: as one is let down, the others rise."""
    before = _opened("cello", out=1, behaviours=frozenset({"coupling"}))
    tone = _loosened(before, 1, cents=-TONE_CENTS, turn_deg=SMALL_DEG)
    fifth = _loosened(tone, 1, cents=-FIFTH_CENTS, turn_deg=SMALL_DEG)
    return (
        _one_by_one(before, "In tune", "Four strings, from the lowest."),
        _one_by_one(tone, "A lowered by a tone", _most_moved(tone, 1)),
        _one_by_one(fifth, "A lowered by a fifth", _most_moved(fifth, 1)),
    )


def _most_moved(state: State, number: int) -> str:
    """Return in words which string that nobody touched has moved most."""
    others = [one.number for one in state.rig.instrument.strings if one.number != number]
    most = max(others, key=lambda one: pitch_cents(state, one))
    by = round(pitch_cents(state, most))
    return f"Nobody touched {state.rig.plan.label(most)}. It rose most, by {whole_cents(by)}."


def _bridges() -> tuple[Scene, ...]:
    found = []
    for made, words in (
        ("electric-guitar", "Fixed bridge"),
        ("electric-guitar-floating", "Floating"),
    ):
        state = _loosened(_opened(made, out=6, behaviours=frozenset({"coupling"})), 6)
        found.append(_one_by_one(state, words, _of_others(state, 6)))
    return tuple(found)


def _chord(state: State) -> State:
    state, _ = step(state, LayChord("G"), dt_s=0.0)
    return state


ALL_SIX: Final = (1, 2, 3, 4, 5, 6)


def _pegs() -> tuple[Scene, ...]:
    slightly = opening(Exercise("guitar", "free", "hair", SEED, tolerance="together"))
    return (
        _one_by_one(slightly, "String by string", "Each is a little out. Alone each sounds well."),
        _together(_chord(slightly), ALL_SIX, "The chord", "Together they quarrel."),
    )


def _chords() -> tuple[Scene, ...]:
    out = _chord(_opened("guitar", out=4, cents=-30.0))
    tuned = _chord(_opened("guitar", out=4))
    return (
        _together(out, ALL_SIX, "Out", "One string is low: the chord rolls."),
        _together(tuned, ALL_SIX, "In", "It rings. Only its third shimmers a little."),
    )


def _brought_down(cents: float) -> State:
    """Return an A that was so far high and was brought down, as near to its note as it comes."""
    state = _opened("viola", out=1, cents=cents, behaviours=frozenset({"nut"}))
    while True:
        lower, _ = step(state, Turn(1, DOWN_DEG), dt_s=1.0)
        if pitch_cents(lower, 1) < 0.0:
            return min(state, lower, key=lambda one: abs(pitch_cents(one, 1)))
        state = lower


def _from_above() -> tuple[Scene, ...]:
    """A string brought down to its note keeps slack behind the nut; a pull lets it out."""
    # it comes down in small jumps: from somewhere one of them ends where it should
    tried = (_brought_down(cents) for cents in HIGH_CENTS)
    state = min(tried, key=lambda one: abs(pitch_cents(one, 1)))
    pulled, _ = step(state, Settle(1), dt_s=1.0)
    low = -pitch_cents(pulled, 1)
    return (
        _together(state, (1,), "Brought down", "The A came down to its note. It is in tune now."),
        _together(pulled, (1,), "After a pull", f"It is {low:.0f} cents low. Come from below."),
    )


def _interval(interval: Interval, truth: Truth) -> tuple[SoundEvent, ...]:
    made, low_hz = instrument("viola"), equal_tempered_hz(55, a4_hz=440.0)  # G3
    high_hz = low_hz * ratio_of_cents(true_cents(interval, truth))
    fret = stopped_at(made, 3, hz=high_hz, open_hz=low_hz)
    events: list[SoundEvent] = [
        Start(1, note(made, 3, hz=low_hz)),
        Start(2, note(made, 3, hz=high_hz, fret=fret)),
    ]
    return _ended(events, BOWED_S)


def _tempered() -> tuple[Scene, ...]:
    rows: tuple[tuple[Interval, Truth, str, str], ...] = (
        ("fifth", "pure", "Fifth, pure", "It stands still."),
        ("fifth", "equal", "Fifth, tempered", "2 cents narrow: it rolls slowly."),
        ("third", "pure", "Third, pure", "It stands still, and sounds low to some."),
        ("third", "equal", "Third, tempered", "14 cents wide: it beats fast."),
    )
    return tuple(
        Scene(words, says, _interval(interval, truth), BOWED_S)
        for interval, truth, words, says in rows
    )


SPLIT_CENTS: Final = (9.0, 11.0, 8.0, 10.0, 12.0, 9.5, 10.5, 8.5)


def _false() -> tuple[Scene, ...]:
    made, hz = instrument("guitar"), equal_tempered_hz(59, a4_hz=440.0)  # its B string
    true = Start(1, note(made, 2, hz=hz))
    false = Start(1, note(made, 2, hz=hz, splits_cents=SPLIT_CENTS))
    return (
        Scene("A good string", "It only fades.", _ended([true], RINGS_S), RINGS_S),
        Scene("A false string", "It beats alone. No peg helps.", _ended([false], RINGS_S), RINGS_S),
    )


SHOWS: Final = (
    Show("tension", "Shared tension", "Which of the others has moved, and how far?", _sharing),
    Show("pegs", "Every peg a little out", "Alone they please. And together?", _pegs),
    Show("chord", "A chord, out and in", "Which one rolls, and which one rings?", _chords),
    Show("above", "From above, then pulled", "Is it the same note after the pull?", _from_above),
    Show("bridges", "A fixed and a floating bridge", "Where do the others move?", _bridges),
    Show("tempered", "Pure and tempered", "Which stands still, and which rolls?", _tempered),
    Show("false", "A false string", "Does it beat, all alone?", _false),
)
BY_ID: Final = {one.id: one for one in SHOWS}


def show_of(show_id: str) -> Show:
    """Return a comparison by its id.

    Raises:
        MeldrinError: code ``no_such_show``.
    """
    return known(BY_ID, show_id, name="comparison", code=Code.NO_SUCH_SHOW)
