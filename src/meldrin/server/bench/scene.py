"""What a player may see of the bench: a scene in pieces, each of which knows what of a state it is
made from, so that a piece whose state is the same is the same.
"""

from collections.abc import Callable
from dataclasses import dataclass
from operator import is_
from typing import Any, Final

from meldrin.core.bench import State, heard
from meldrin.core.bench.caution import caution
from meldrin.core.bench.feel import hint
from meldrin.core.bench.guiding import answer, asks_pace, guide
from meldrin.core.bench.limits import limits
from meldrin.core.bench.naming import may_name
from meldrin.core.bench.observe import PairBeat, level
from meldrin.core.methods import Step
from meldrin.core.scoring.chord import said_of_chord
from meldrin.server.bench.schemas import (
    Scene,
    SceneAnswer,
    SceneChanges,
    ScenePair,
    SceneString,
    SceneTuner,
)

Fields = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Seen:
    """A state, and by its fields the scene that a player has been told of it."""

    state: State
    fields: dict[str, Any]

    @property
    def scene(self) -> Scene:
        """The whole scene."""
        return Scene(**self.fields)

    def changes_to(self, later: "Seen") -> SceneChanges:
        """Return what is another in a later scene."""
        before = self.fields
        found = {
            name: new
            for name, new in later.fields.items()
            if new is not before[name] and new != before[name]
        }
        if "strings" in found:
            pairs = zip(before["strings"], found["strings"], strict=True)
            found["strings"] = [new for old, new in pairs if new is not old]
        made: SceneChanges = SceneChanges.made(**found)
        return made


def seen_of(state: State, *, felt: str | None = None, before: Seen | None = None) -> Seen:
    """Return what a player may see of a state, with what the last action made the hand feel.

    before: what was seen last; pieces that are as they were are taken from it.
    """
    fields: Fields = {"felt": felt or hint(state)}
    for made in ALWAYS:
        fields |= made(state)
    for piece in PIECES:
        fields |= piece.of(state, before)
    return Seen(state, fields)


@dataclass(frozen=True, slots=True)
class Piece:
    """Some fields of a scene that seldom change.

    names: of these fields.
    made: the fields of a state, which may take from what was seen before.
    made_from: what of a state they depend on; compared by identity, since a state keeps what it
        does not change.
    """

    names: tuple[str, ...]
    made: Callable[[State, Seen | None], Fields]
    made_from: Callable[[State], tuple[object, ...]]

    def of(self, state: State, before: Seen | None) -> Fields:
        """Return the fields, as they were where nothing changed that they are made from."""
        if before is not None:
            was, now = self.made_from(before.state), self.made_from(state)
            if all(map(is_, was, now)):
                return {name: before.fields[name] for name in self.names}
        return self.made(state, before)


def _plan(state: State, _: Seen | None) -> Fields:
    return {"visited": sorted(state.visited), "judged": sorted(state.judged_stages)}


def _string_list(state: State, before: Seen | None) -> Fields:
    return {"strings": _strings(state, before)}


def _tuner(state: State, _: Seen | None) -> Fields:
    made: SceneTuner = SceneTuner.made(
        a4_hz=state.tuner_a4_hz,
        mode=state.tuner_mode,
        pickup=state.tuner_pickup,
        step_cents=state.tuner_step_cents,
    )
    return {"tuner": made}


def _caution(state: State, _: Seen | None) -> Fields:
    return {"caution": caution(state)}


def _stage(state: State) -> Fields:
    """Where one is, and what may be done there."""
    may_check = _may_check(state)
    return {
        "stage": state.stage,
        "aid": state.aid,
        "finished": state.finished,
        "may_judge": _may_judge(state),
        "may_decide": _may_decide(state),
        "may_put_out": _may_put_out(state),
        "may_check": may_check,
        "may_name": may_name(state),
        "checked": state.checked_s is not None,
        "minute": _minute(state) if may_check else None,
        "muted": state.muted,
        "lying": state.lying if state.rig.on("lying") else None,
        # the two clocks differ by rounding alone where nobody waits
        "away_s": max(0.0, round(state.world_s + state.owed_s - state.time_s, 3)),
    }


def _sound(state: State) -> Fields:
    """What sounds, and what the help shows of it."""
    pair, stands = heard(state), level(state) if state.aid == "level" else None
    return {
        "reference_ringing": any(voice.string is None for voice in state.ringing),
        "pair": None if pair is None else _pair(state, pair),
        "offset_string": stands.string if stands else None,
        "offset_voice": stands.voice if stands else None,
        "offset_cents": stands.cents if stands else None,
    }


def _pair(state: State, pair: PairBeat) -> ScenePair:
    rippling = state.aid in ("ripple", "level")
    made: ScenePair = ScenePair.made(
        own_voice=pair.own_voice,
        own_partial=pair.own_partial,
        other_voice=pair.other_voice,
        other_partial=pair.other_partial,
        ripple=limits().ripple(pair.beats_hz) if rippling else None,
        beats_hz=pair.beats_hz if rippling and _numbers(state) else None,
        wanted_hz=pair.wanted_hz,
    )
    return made


def _words(state: State) -> Fields:
    """What was said by the player, and what a teacher says."""
    return {
        "reference_verdict": state.reference_verdict,
        "named": _named(state),
        "guide": guide(state),
        "asks_pace": asks_pace(state),
        "answer": _answer(state),
    }


ALWAYS: Final = (_stage, _sound, _words)
PIECES: Final = (
    Piece(
        names=("visited", "judged"),
        made=_plan,
        made_from=lambda state: (state.visited, state.judgements, state.frets_set),
    ),
    Piece(
        names=("strings",),
        made=_string_list,
        # a string goes slack by what others do to the frame, too
        made_from=lambda state: (state.strings, state.ringing, state.give_m, state.longer_m),
    ),
    Piece(
        names=("tuner",),
        made=_tuner,
        made_from=lambda state: (
            state.tuner_a4_hz,
            state.tuner_mode,
            state.tuner_pickup,
            state.tuner_step_cents,
        ),
    ),
    Piece(
        names=("caution",),
        made=_caution,
        made_from=lambda state: (state.strings, state.give_m, state.longer_m),
    ),
)


def _answer(state: State) -> SceneAnswer | None:
    found = answer(state)
    if found is None:
        return None
    made: SceneAnswer = SceneAnswer.made(verdict=found.verdict, sentence=found.sentence)
    return made


def _named(state: State) -> str | None:
    """Return what comes of having named a string: the truth at once where nothing is scored."""
    if not state.named or (state.current() is not None and state.named[-1].stage != state.stage):
        return None
    if state.current() is None:
        named = state.named[-1]
        later = any(voice.since_s > named.at_s for voice in state.ringing)
        return None if later else said_of_chord(state, named)
    return "You have said it. The answer comes at the end."


def _numbers(state: State) -> bool:
    return state.aid == "level" or state.exercise.numbers


def _may_judge(state: State) -> bool:
    """Whether there is something new to say: the string was turned since, or can be heard."""
    stage = state.current()
    if state.sets_fret() is not None:
        return state.fret_heard
    if not isinstance(stage, Step):
        return False
    said, now = state.judged(state.stage), state.string(stage.string)
    if now.turns != (said[-1].turns if said else 0):
        return True
    sounds = any(voice.string == stage.string and not voice.along for voice in state.ringing)
    return sounds or now.heard_s > (said[-1].at_s if said else now.turned_s)


def _may_decide(state: State) -> bool:
    stage = state.current()
    if not isinstance(stage, Step) or not state.exercise.decides:
        return False
    decided = any(one.stage == state.stage for one in state.decisions)
    now = state.string(stage.string)
    return not decided and now.turns == now.put_out and not state.judged(state.stage)


def _may_put_out(state: State) -> bool:
    """Whether this step's string has been shown, so that putting it out again helps the ear."""
    stage, allowed = state.current(), state.exercise.aids
    if not isinstance(stage, Step) or stage.by_tuner or state.checked_s is not None:
        return False
    if state.exercise.answers_at_once and state.judged(state.stage):
        return False  # it was answered, and stays so
    now = state.string(stage.string)
    return now.seen != "ear" and not now.broken and (not allowed or "ear" in allowed)


def _may_check(state: State) -> bool:
    """Whether every string has been judged (or left off), so that a tuner takes nothing away."""
    steps = state.rig.plan.steps
    said = {judgement.stage for judgement in state.judgements}
    return bool(steps) and all(
        index in said or state.string(step.string).off for index, step in enumerate(steps)
    )


def _minute(state: State) -> list[float] | None:
    turns = sum(string.turns for string in state.strings)
    if not state.minutes or state.minutes[-1].turns != turns:
        return None
    return [round(cents, 1) for cents in state.minutes[-1].moved_cents]


def _strings(state: State, before: Seen | None) -> list[SceneString]:
    ringing = {voice.string for voice in state.ringing if not voice.along}
    along = {voice.string for voice in state.ringing if voice.along}
    found: list[SceneString] = []
    for number, now in enumerate(state.strings, start=1):
        sounds = number in ringing, number in along
        slack = not now.broken and state.strain(number) <= 0.0
        if before is not None and now is before.state.strings[number - 1]:
            told: SceneString = before.fields["strings"][number - 1]
            if (told.ringing, told.along, told.slack) == (*sounds, slack):
                found.append(told)
                continue
        string = state.rig.strings[number - 1]
        half_m = string.fine.take_up_m / 2.0 if string.fine else 1.0
        found.append(
            SceneString.made(
                number=number,
                fret=now.fret,
                touched=now.touched,
                # where the finger may be the fault, that is for the ear
                hard=now.hard and state.rig.fault is None,
                light=now.light,
                ringing=sounds[0],
                along=sounds[1],
                moves=now.moves,
                last_turn=now.last_turn,
                knob_deg=now.knob_deg,
                fine=now.fine_m / half_m,
                stuck=now.twist_deg != 0.0,
                slack=slack,
                broken=now.broken,
                off=now.off,
            )
        )
    return found
