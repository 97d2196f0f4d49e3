"""What caps a total: help that shows, a wrong note, mere luck; each in words of its own."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

from meldrin.core.bench import Aid, Exercise, foreseen_cents, matched_cents, pitch_cents
from meldrin.core.bench.amounts import FEW
from meldrin.core.bench.exercise import USUAL_TOLERANCE
from meldrin.core.bench.limits import limits
from meldrin.core.bench.listening import AIDS
from meldrin.core.scoring.rubric import Rubric
from meldrin.core.scoring.watch import Watched
from meldrin.core.units import CENTS_PER_OCTAVE, semitones_of_cents
from meldrin.core.words import capital

Basis = Literal["ear", "ripple", "tuner", "level", "read", "none"]
CapKind = Literal["help", "wrong_note", "wrong_octave", "not_turned", "luck", "nothing_played"]
FAR_CENTS: Final = 50.0  # a string further out than this counts as this far out
# Of what was out: whoever takes this much away heard it; who takes less may have been lucky. Of
# simulated beginners who hear beats none takes less, of deaf hands by a fixed rule few take more.
ENOUGH: Final = 0.72
STEEP: Final = 12.0
ENOUGH_OF_FEW: Final = 0.9  # where so few strings were out that one lucky turn brings them in
HELP_WORDS: Final = {"ripple": "Ripples", "level": "Level", "tuner": "Tuner"}


@dataclass(frozen=True, slots=True)
class Cap:
    """The total is at most `most`, and why in a sentence; `string` the one it is about, if any."""

    kind: CapKind
    most: float
    sentence: str
    string: int | None = None


def basis_of(exercise: Exercise, seen: Watched, index: int) -> Basis:
    """Return what the last word on a step's string rested on: the ear alone, what a picture had
    shown, a tuner that the plan reads, or nothing.

    What was turned after the last judgement counts as what it was turned with. It is not the ear
    that brought in a string that was out and never turned, nor one that was last called low or
    high.
    """
    step = exercise.plan.steps[index]
    if step.by_tuner:
        return "read"
    said, now = seen.judged(index), seen.state.string(step.string)
    if not said:
        return now.seen if now.seen != "ear" else "none"
    aids: list[Aid] = [said[-1].aid]
    if now.turns != said[-1].turns:
        aids.append(now.seen)
    most = max(aids, key=AIDS.index)
    if most != "ear":
        return most
    full = limits().tolerances[exercise.tolerance].full_cents
    began = seen.match_began_cents[index], seen.began_cents[step.string - 1]
    idle = max(map(abs, began)) > full and not seen.runs_of(step.string)
    return "ear" if said[-1].heard and said[-1].verdict == "in_tune" and not idle else "none"


def why_not_by_ear(exercise: Exercise, caps: Sequence[Cap]) -> str:
    """Return why nothing of an attempt is called “by ear”, in a sentence; empty where it may be.

    Points are the same: what is known beforehand is practice.
    """
    if exercise.guided:
        return "A teacher’s words helped, so it is practice."
    if not exercise.fresh:
        return "You could know this start, so it is practice."
    if exercise.out_cents:
        return "How far it was out was chosen, so it is practice."
    if of_few(exercise):
        return "One lucky turn can do this. Four such starts in a row show your ear."
    if any(cap.kind in ("luck", "not_turned", "nothing_played") for cap in caps):
        return "Too little came nearer to call it by ear."
    return ""


def of_few(exercise: Exercise) -> bool:
    """Whether an attempt is one of those that count four in a row: its start was not known, nobody
    stood beside it, and one lucky turn could win it.
    """
    few = 0 < sum(not step.by_tuner for step in exercise.plan.steps) < FEW
    known = not exercise.fresh or exercise.out_cents or exercise.guided
    return few and not known


def caps_of(exercise: Exercise, seen: Watched, rules: Rubric, bases: Sequence[Basis]) -> list[Cap]:
    """Return everything that caps the total, the heaviest first."""
    wrong = _wrong_notes(exercise, seen, rules)
    caps = [*wrong, *_luck(exercise, seen, rules), *_help(rules, bases)]
    return sorted(caps, key=lambda cap: cap.most)


def _help(rules: Rubric, bases: Sequence[Basis]) -> list[Cap]:
    count = len(bases)
    ripples = bases.count("ripple")
    level, tuner = bases.count("level"), bases.count("tuner")
    most = 100.0 - (rules.most.ripples * ripples + rules.most.knowing * (level + tuner)) / count
    if most == 100.0:
        return []
    used = [(ripples, "ripple"), (level, "level"), (tuner, "tuner")]
    parts = [
        HELP_WORDS[aid] if times == count else f"{HELP_WORDS[aid]} on {times} of {count} strings"
        for times, aid in used
        if times
    ]
    return [Cap("help", most, f"With {' and '.join(parts)}, best {most:.0f}.")]


def _wrong_notes(exercise: Exercise, seen: Watched, rules: Rubric) -> list[Cap]:
    state, found = seen.state, []
    for index, step in enumerate(exercise.plan.steps):
        number, label = step.string, exercise.plan.label(step.string)
        now, off = state.string(number), pitch_cents(state, number)
        tried = state.judged(index) or now.turns
        if now.broken or not tried or abs(off) <= rules.limits.wrong_note_cents:
            continue
        if off < -3600.0:
            continue  # slack: not on any note
        octaves = round(off / CENTS_PER_OCTAVE)
        most = rules.most.wrong_note
        if octaves and abs(off - CENTS_PER_OCTAVE * octaves) <= rules.limits.wrong_note_cents:
            side = "low" if octaves < 0 else "high"
            size = "an octave" if abs(octaves) == 1 else f"{abs(octaves)} octaves"
            text = capital(f"{label} ended {size} too {side}. Best {most:.0f}.")
            found.append(Cap("wrong_octave", most, text, number))
            continue
        midi = exercise.plan.tuning.midi(number)
        note = exercise.plan.note(midi + round(semitones_of_cents(off)))
        side = "low" if off < 0.0 else "high"
        text = f"{label} ended near {note} instead of {exercise.plan.note(midi)}, too {side}."
        found.append(Cap("wrong_note", most, capital(f"{text} Best {most:.0f}."), number))
    return found


def _luck(exercise: Exercise, seen: Watched, rules: Rubric) -> list[Cap]:
    """Return what the total is at most where the strings that were out came no nearer.

    Who turns without hearing moves strings as far away as nearer. So what was made worse is set
    against what was made good, and the rest, of all that was out, is what an ear has done. From
    half the tolerance on it counts as out, and most of it taken away is enough: how near the
    strings came is the affair of the other points. Where all end in tune with their partners, the
    task is done. A string on another note counts as if it were just there, and what could be
    foreseen of a start (all high, a retuning) does not count as out; nor does what began an octave
    off, which has a cap of its own.
    """
    if not seen.sounded:
        return [Cap("nothing_played", 0.0, "Nothing was played, so nothing was heard.")]
    tolerances = [exercise.tolerance]
    if exercise.rules == 1:  # strings began as far out for a finer one, which was no luck
        tolerances.append(USUAL_TOLERANCE)
    full = max(rules.tolerances[one].full_cents for one in tolerances)
    if all(abs(cents) <= full for cents in seen.match_began_cents):
        return []

    def beyond(cents: float) -> float:
        return max(0.0, min(abs(cents), FAR_CENTS) - 0.5 * full)

    ended = [matched_cents(seen.state, step) for step in exercise.plan.steps]
    if seen.turns and all(abs(cents) <= full for cents in ended):
        return []
    out = left = 0.0
    foreseen = foreseen_cents(exercise)
    for step, began_cents, ended_cents in zip(
        exercise.plan.steps, seen.match_began_cents, ended, strict=True
    ):
        octave_off = exercise.start == "octave" and abs(began_cents) > CENTS_PER_OCTAVE / 2.0
        if not octave_off and not seen.state.string(step.string).broken:
            known_cents = foreseen[step.string - 1]
            if step.other.string is not None:
                known_cents -= foreseen[step.other.string - 1]
            out += beyond(began_cents - known_cents)
            left += beyond(ended_cents)
    if not out:
        return []  # what was out has broken
    share = max(0.0, 1.0 - left / out)
    least = rules.most.not_turned
    enough = ENOUGH if len(exercise.plan.steps) >= FEW else ENOUGH_OF_FEW
    most = least + (100.0 - least) * min(1.0, share / enough) ** STEEP
    if seen.turns == 0:
        return [Cap("not_turned", most, f"Strings were out, and none was turned. Best {most:.0f}.")]
    if most == 100.0:
        return []
    text = "On the whole the strings came no nearer"
    if share >= 0.01:
        text = f"You took away {share:.0%} of how far the strings were out"
    return [Cap("luck", most, f"{text}. Best {most:.0f}.")]
