"""What has been heard and what has been seen of each string, which judgements rest on.

A string is heard when it sounds together with its partner or reference, or within some seconds
after it with no other pitch between: holding a note in mind is a way of listening. What sounds
counts, not the order of presses. What a picture has shown of a string is known to the end of the
attempt, since presses can be counted; or until the string is put out by an amount that nobody sees.
"""

from collections.abc import Sequence
from typing import Final

from meldrin.core.bench.actions import Aid
from meldrin.core.bench.limits import limits
from meldrin.core.bench.state import Pitch, State
from meldrin.core.changed import changed

AIDS: Final[tuple[Aid, ...]] = ("ear", "ripple", "tuner", "level")  # by how much they give away
MOST_REMEMBERED: Final = 4


def listened(state: State, until_s: float) -> State:
    """Return the state with what has been heard from its own time until `until_s`."""
    stage = state.current()
    if stage is None or not state.pitches:
        return state
    by_tuner = stage.by_tuner
    sides = (stage.own.string, stage.other.string)
    shortest_s = limits().shortest_s
    for number, partner in (sides, sides[::-1]):
        if number is None:
            continue
        now = state.string(number)
        heard_s = max(
            (
                min(end_s, until_s)
                for begin_s, end_s in _together(
                    state.pitches, number, partner, alone=by_tuner, after_s=now.heard_s
                )
                if min(end_s, until_s) - max(begin_s, now.turned_s) >= shortest_s
            ),
            default=now.heard_s,
        )
        if heard_s > now.heard_s:
            state = _heard(state, number, heard_s)
    return state


def _together(
    pitches: Sequence[Pitch], number: int, partner: int | None, *, alone: bool, after_s: float
) -> list[tuple[float, float]]:
    """Return from when to when a string was audible with its partner, or with it held in mind, so
    far as that was after a moment.
    """
    own = [one for one in pitches if one.string == number and one.until_s > after_s]
    if alone:  # read from a tuner: its partner is the reading
        return [(one.since_s, one.until_s) for one in own]
    found: list[tuple[float, float]] = []
    if not own:
        return found
    for theirs in pitches:
        if theirs.string != partner:
            continue
        for one in own:
            found.append((max(one.since_s, theirs.since_s), min(one.until_s, theirs.until_s)))
            if one.until_s > theirs.until_s and not any(
                other.string not in (number, partner)
                and theirs.since_s < other.since_s <= one.since_s
                for other in pitches
            ):
                found.append(
                    (
                        max(one.since_s, theirs.since_s),
                        min(one.until_s, theirs.until_s + limits().memory_s),
                    )
                )
    return found


def _heard(state: State, number: int, at_s: float) -> State:
    return state.with_string(number, changed(state.string(number), heard_s=at_s))


def given_away(state: State) -> Aid:
    """Return the aid that is on, by what it tells: ripples with their number tell as a level."""
    return "level" if state.aid == "ripple" and state.exercise.numbers else state.aid


def remembered(before: State, after: State) -> State:
    """Return the state with what begins to sound and what has ended noted, the oldest forgotten."""
    if before.ringing is after.ringing:
        return after
    now_s = after.time_s
    voices = {voice.voice: voice for voice in after.ringing}
    known = {pitch.voice for pitch in before.pitches}
    kept = [
        pitch if pitch.voice in voices or pitch.until_s <= now_s else changed(pitch, until_s=now_s)
        for pitch in after.pitches
    ]
    kept += [
        Pitch(voice.voice, voice.string, voice.since_s, voice.audible_s)
        for voice in after.ringing
        if voice.voice not in known and not voice.along
    ]
    fresh = [one for one in kept if one.until_s > now_s - limits().memory_s]
    most = MOST_REMEMBERED + len(after.ringing)
    pitches = tuple(fresh[-most:])
    return after if pitches == after.pitches else changed(after, pitches=pitches)


def seen(state: State) -> State:
    """Return the state with what its picture shows of the strings that sound noted as seen."""
    aid = given_away(state)
    if aid == "ear":
        return state
    for number in _pictured(state):
        state = shown(state, number, aid)
    return state


def shown(state: State, number: int, aid: Aid) -> State:
    """Return the state in which a string has been shown with an aid, or with what tells as much."""
    now = state.string(number)
    if AIDS.index(aid) <= AIDS.index(now.seen):
        return state
    return state.with_string(number, changed(now, seen=aid))


def _pictured(state: State) -> tuple[int, ...]:
    """Return the strings that the picture tells something of."""
    audible = {
        voice.string
        for voice in state.ringing
        if not voice.along and voice.audible_s >= state.time_s
    }
    stage = state.current()
    if stage is None or state.aid == "tuner":
        return tuple(number for number in audible if number is not None)
    sides = (stage.own.string, stage.other.string)
    if state.aid == "ripple" and not set(sides) <= audible:
        return ()
    if stage.by_tuner:
        sides = (stage.own.string, stage.own.string)
    elif not set(sides) <= audible:
        return ()
    return tuple(dict.fromkeys(n for n in sides if n is not None and n in audible))
