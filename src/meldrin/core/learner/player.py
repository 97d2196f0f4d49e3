"""How a simulated learner goes through a plan, by what its ear tells it."""

import math
import random
from dataclasses import dataclass
from typing import Final

from meldrin.core.bench import (
    Action,
    Aid,
    Decide,
    Exercise,
    Finish,
    GoTo,
    Judge,
    JudgeReference,
    Lay,
    LetGo,
    MuteAll,
    MuteOthers,
    PairBeat,
    Play,
    Replace,
    SetAid,
    Settle,
    SetTuner,
    SlideFret,
    State,
    TimedAction,
    Turn,
    heard,
    judged_cents,
    opening,
    step,
)
from meldrin.core.bench.observe import LOWEST_HZ, own_series
from meldrin.core.bench.tuner import Sounding, tuner_reading
from meldrin.core.bench.turning import FINE_TURNS, SLACK_SHARE, SMALL_CENTS, turn_sizes_deg
from meldrin.core.errors import MeldrinError
from meldrin.core.hearing import Reading, reading
from meldrin.core.learner.ear import Learner
from meldrin.core.methods import Check, Step
from meldrin.core.pitch import A4_MIDI
from meldrin.core.strings import (
    cents_per_degree,
    cents_per_strain,
    design_tension_n,
    stopped_m,
    tension_at_strain,
)
from meldrin.core.units import CENTS_PER_OCTAVE, cents_of_ratio, ratio_of_cents

DAWDLES_S: Final = 8.0  # after a string has faded, who is slow
SILENCE_S: Final = 2.0  # between two pitches that are compared one after the other
COARSE_CENTS: Final = 30.0
FAR_CENTS: Final = 60.0
CLEARLY_BELOW_CENTS: Final = 12.0
MOST_TURN_DEG: Final = 85.0
ROUNDS: Final = 80
FRET_TRIES: Final = 12
STILL_CENTS: Final = 1.0  # nobody says low or high of less
MORE_ROUNDS: Final = 4  # a floating bridge asks for more than one
FINE_CENTS: Final = 40.0  # what is left to a fine tuner, where there is one
JUMPY_CENTS: Final = 1.0
MOST_PULLS: Final = 10  # a new string of polyamide asks for most
HAND_NEAR: Final = 0.35  # of a hand's smallest turn: so near it comes with some care
GO_BACK: Final = 1.6  # times the smallest turn: how far to go down, to come up again
STICKS_DEG: Final = 2.05  # from here on every peg moves
TUNER_READS_CENTS: Final = 1.0  # how far from the reading wanted an ordinary reader stops
READS_AFTER_S: Final = 0.6  # of a stroke: its first moment has passed
LOOKS: Final = 4  # at a tuner that shows nothing yet
EARLY_HZ: Final = 1.2  # beats called still by who stops one step before it
OTHER_NOTE_CENTS: Final = 100.0


def practise(
    exercise: Exercise, learner: Learner, *, seed: int, aid: Aid = "ear", left_cents: float = 0.25
) -> list[TimedAction]:
    """Return the actions of one whole attempt by this learner.

    Args:
        left_cents: how near counts as arrived for an ear that could hear still less.
    """
    if "uses_level" in learner.habits:
        aid = "level"
    player = _Player(exercise, learner, random.Random(seed), aid, left_cents)
    player.do(SetAid(aid), after_s=1.0)
    if player.lies and "left_lying" not in learner.habits:
        player.do(Lay(False), after_s=2.0)
    player.check_reference()
    if "no_mute" not in learner.habits:
        player.do(MuteOthers(True), after_s=0.6)
    player.rounds()
    player.checks()
    player.do(Finish(), after_s=2.0)
    return player.log


@dataclass(frozen=True, slots=True)
class _Perceived:
    """What an ear makes of a stage: how many cents off it thinks, and on which side (-1 low,
    1 high, 0 still, None it cannot tell).
    """

    cents: float
    side: int | None


class _Player:
    def __init__(
        self,
        exercise: Exercise,
        learner: Learner,
        draw: random.Random,
        aid: Aid,
        left_cents: float,
    ) -> None:
        self.log: list[TimedAction] = []
        self._state: State = opening(exercise)
        self._learner = learner
        self._ear, self._habits = learner.ear, learner.habits
        self._draw = draw
        self._aid = aid
        self._left_cents = left_cents
        self._at: int | None = None  # the stage gone to last
        self._tried_wrong: set[int] = set()
        self._decided: set[int | None] = set()
        self._sounding = Sounding()

    @property
    def lies(self) -> bool:
        """Whether the instrument lies, and is not held as it is played."""
        return self._state.lying

    def do(self, action: Action, *, after_s: float) -> bool:
        """Do something, and tell whether the bench took it."""
        at_s = self._state.time_s + after_s
        try:
            state, sounds = step(self._state, action, dt_s=at_s - self._state.time_s)
        except MeldrinError:
            return False
        self._state = state
        if self._ear.spread:
            self._sounding.add(sounds, state=state)
        self.log.append(TimedAction(at_s, action))
        return True

    def check_reference(self) -> None:
        """Read the reference with the tuner before trusting it, or set the tuner right."""
        exercise, plan = self._state.exercise, self._state.rig.plan
        if self._state.rig.on("noise") and any(one.by_tuner for one in plan.steps):
            a4_hz = self._state.tuner_a4_hz
            self.do(SetTuner(a4_hz, pickup="contact"), after_s=2.0)
        if not exercise.tests_reference or "trusts_reference" in self._habits:
            return
        if plan.reference.kind == "tuner":
            pickup = self._state.tuner_pickup
            self.do(SetTuner(exercise.a4_hz, pickup=pickup), after_s=3.0)
            return
        self.do(Play((), reference=True), after_s=1.0)
        off = self._state.reference_cents + self._draw.gauss(0.0, self._misreads())
        self.do(
            JudgeReference("low" if off < -2.0 else "high" if off > 2.0 else "in_tune"), after_s=3.0
        )

    def rounds(self) -> None:
        """Bring all near, then each to its place, then go round once more."""
        steps = range(len(self._state.rig.plan.steps))
        one_pass = "one_pass" in self._habits
        if not one_pass:
            for index in steps:
                self._go(index)
                if abs(self._listen().cents) > FAR_CENTS:
                    self._tune(index, within_cents=COARSE_CENTS)
        for index in steps:
            self._go(index)
            self._tune(index)
            self._settle(index)
            self._judge(index)
        if one_pass:
            return
        for _ in range(MORE_ROUNDS):
            turned = False
            for index in steps:
                self._go(index)
                perceived = self._listen()
                if perceived.side != 0 and abs(perceived.cents) > self._near_enough():
                    self._tune(index)
                    self._judge(index)
                    turned = True
            if not turned:
                break

    def checks(self) -> None:
        """Listen to what closes the plan."""
        plan = self._state.rig.plan
        if "no_check" in self._habits:
            return
        for index, check in enumerate(plan.checks, start=len(plan.steps)):
            if check.again and "one_pass" in self._habits:
                continue
            self._go(index)
            if check.sets_fret:
                self._set_fret(check)
            else:
                self._listen()

    def _set_fret(self, check: Check) -> None:
        """Slide a fret until it agrees with its partner, and say so."""
        string = self._state.rig.instrument.string(check.strings[0])
        # how many millimetres a cent is where this fret lies
        mm_per_cent = 1000.0 * stopped_m(string, check.own.fret) * (ratio_of_cents(1.0) - 1.0)
        for _ in range(FRET_TRIES):
            found = self._listen()
            if found.side == 0:
                break
            side = found.side if found.side is not None else self._draw.choice((-1, 1))
            slide = -side * abs(found.cents) * mm_per_cent
            self.do(SlideFret(check.own.fret, max(-10.0, min(10.0, slide))), after_s=1.5)
        self.do(Judge("in_tune", 0.0), after_s=1.0)

    # One stage

    def _go(self, index: int) -> None:
        if self._at == index:
            return
        stage = self._state.rig.plan.stages[index]
        aid = "tuner" if stage.by_tuner else self._aid
        self.do(GoTo(index), after_s=1.2)
        if self._state.aid != aid:
            self.do(SetAid(aid), after_s=0.8)
        self._at = index

    def _stage(self) -> Step:
        stage = self._state.current()
        assert isinstance(stage, Step)
        return stage

    def _listen(self) -> _Perceived:
        """Sound the stage's two sides and say what is heard."""
        stage = self._state.current()
        assert stage is not None
        strings, by_tuner = stage.strings, stage.by_tuner
        for number in strings:
            if self._state.string(number).broken:
                self.do(Replace(number), after_s=10.0)
        if "one_by_one" in self._habits and isinstance(stage, Step) and not by_tuner:
            return self._remembered(stage)
        strength = 0.7
        if "uneven_stroke" in self._habits:
            strength = self._draw.uniform(0.2, 1.0)
        self.do(
            Play(strings, reference=stage.with_reference, strength=strength),
            after_s=0.8,
        )
        return self._perceived()

    def _remembered(self, stage: Step) -> _Perceived:
        """Sound one side, let it go, sound the other, and compare it with what is kept in mind.

        There is no beat to hear then: only a pitch, and the longer the silence the less of it.
        """
        other = stage.other.string
        self.do(Play(() if other is None else (other,), reference=other is None), after_s=0.8)
        self.do(MuteAll(), after_s=1.5)
        self.do(Play((stage.string,)), after_s=SILENCE_S)
        off = judged_cents(self._state, stage)
        if not math.isfinite(off):
            return _Perceived(-CENTS_PER_OCTAVE, -1)
        threshold = self._threshold() + self._ear.fades_cents_per_s * SILENCE_S
        seems = off + self._draw.gauss(0.0, threshold / 2.0)
        self.do(SetAid(self._state.aid), after_s=1.0)
        if abs(seems) < threshold:
            return _Perceived(seems, 0)
        return _Perceived(seems, -1 if seems < 0.0 else 1)

    def _threshold(self) -> float:
        """The smallest difference of two pitches whose side is heard, in this register."""
        return self._ear.threshold_at(self._own_hz())

    def _perceived(self) -> _Perceived:
        stage = self._state.current()
        now = heard(self._state)
        if stage is not None and stage.by_tuner:
            return self._read()
        if now is None:  # too slack for a pitch
            return _Perceived(-CENTS_PER_OCTAVE, -1)
        if self._state.aid == "level":
            shown = now.offset_cents
            side = 0 if abs(shown) <= max(0.5, self._left_cents) else -1 if shown < 0.0 else 1
            return _Perceived(shown, side)
        return self._of(now)

    def _misreads(self) -> float:
        """The error of a reading: a reader with a perfect eye has none."""
        return TUNER_READS_CENTS if self._ear.spread else 0.0

    def _read(self) -> _Perceived:
        """Read what the tuner shows once the first moment has passed."""
        state, plan = self._state, self._state.rig.plan
        number = plan.stages[state.stage].own.string
        assert number is not None
        wanted = plan.tuning.midi(number)
        cents = cents_of_ratio(plan.targets_hz[number - 1] / state.exercise.a4_hz)
        aim = cents - 100.0 * (wanted - A4_MIDI)
        for _ in range(LOOKS):
            self.do(SetAid(self._state.aid), after_s=READS_AFTER_S)
            found = self._shown(number)
            if found is not None:
                break
        else:  # too slack for a pitch
            return _Perceived(-CENTS_PER_OCTAVE, -1)
        shown = 100.0 * (found.midi - wanted) + found.cents - aim
        near = self._near_enough() if state.rig.on("hand") else self._left_cents / 2.0
        if abs(shown) <= max(near, self._misreads()):
            return _Perceived(shown, 0)
        return _Perceived(shown, -1 if shown < 0.0 else 1)

    def _shown(self, number: int) -> Reading | None:
        """Return what the tuner shows. For a reader without errors it is computed, not heard: a
        tuner shows the first partial to a tenth of a cent, and hearing it takes a thousand times as
        long.
        """
        state = self._state
        if self._ear.spread:
            return tuner_reading(state, self._sounding.events, at_s=state.time_s, flats=False)
        if state.strain(number) <= 0.0:
            return None
        bowed = state.rig.instrument.kind == "bowed"
        hz = own_series(state, number, harmonic=bowed).partial_hz(1)
        if hz < LOWEST_HZ:
            return None
        strings = [string.midi for string in state.rig.strings]
        return reading(hz, a4_hz=state.tuner_a4_hz, mode=state.tuner_mode, strings_midi=strings)

    def _of(self, now: PairBeat) -> _Perceived:
        ear = self._ear
        offset = now.offset_cents
        if "wrong_note" in self._habits and self._at == self._other_note():
            offset += OTHER_NOTE_CENTS
        if "octave_deaf" in self._habits:
            offset -= CENTS_PER_OCTAVE * round(offset / CENTS_PER_OCTAVE)
        noise = 1.0 + ear.spread * self._draw.uniform(-1.0, 1.0)
        per_cent = self._stage_per_cent()
        # what matters is how far the beat is from what it should be
        rate = abs(offset) * per_cent * noise
        slowest, stage = ear.slowest_hz, self._state.current()
        if slowest and isinstance(stage, Step):  # a perfect ear hears in no time
            # the ear's limit and that of a short ring are independent: their squares add
            slowest = math.hypot(slowest, stage.hears_cents * per_cent)
        if "stops_early" in self._habits:
            slowest = max(slowest, EARLY_HZ)
        if rate <= max(slowest, self._left_cents * per_cent):
            return _Perceived(offset * noise, 0)
        side = None if abs(offset) < self._threshold() else (-1 if offset < 0.0 else 1)
        cents = abs(offset) * noise
        return _Perceived(cents if side is None else side * cents, side)

    def _other_note(self) -> int:
        """The step that this player brings to a wrong note: the last one."""
        return len(self._state.rig.plan.steps) - 1

    def _own_hz(self) -> float:
        stage = self._state.current()
        assert stage is not None
        assert stage.own.string is not None
        return self._state.rig.plan.targets_hz[stage.own.string - 1]

    def _stage_per_cent(self) -> float:
        stage = self._state.current()
        assert stage is not None
        return stage.beats_hz_per_cent

    def _near_enough(self) -> float:
        """How near counts as arrived: nobody goes on for less than a cent on a peg that jumps."""
        rig = self._state.rig
        number = rig.plan.stages[self._state.stage].own.string
        assert number is not None
        odd, string = rig.quirks[number - 1], rig.strings[number - 1]
        near = self._left_cents
        if odd.stick_deg and string.fine is None:
            near = max(near, JUMPY_CENTS)
        if odd.hand_deg:
            small, _, _ = turn_sizes_deg(string, fine=string.fine is not None)
            # a small turn moves any string by about as much; the hand's smallest one by more
            smallest = odd.hand_deg if string.fine is None else odd.hand_fine_deg
            near = max(near, HAND_NEAR * SMALL_CENTS * smallest / small)
        return near

    def _tune(self, index: int, *, within_cents: float | None = None) -> None:
        """Turn until it seems still, or near enough; end on the way up unless it is a habit."""
        near = self._near_enough() if within_cents is None else within_cents
        perceived = self._listen()
        self._decide(perceived, near)
        guess = -1  # where the side is not heard, most strings have sunk
        if "wrong_way" in self._habits and perceived.side and index not in self._tried_wrong:
            self._tried_wrong.add(index)
            self._turn(math.copysign(14.0, perceived.cents))
            perceived = self._listen()
        if "wrong_peg" in self._habits and index not in self._tried_wrong:
            self._tried_wrong.add(index)
            self._wrong_peg()
        upward = True
        for _ in range(ROUNDS):
            side = perceived.side
            if side == 0 or abs(perceived.cents) <= near:
                if upward or "from_above" in self._habits:
                    break
                self._turn(-CLEARLY_BELOW_CENTS)
                perceived, upward = self._listen(), True
                continue
            size = abs(perceived.cents)
            guessed = side is None
            way = -guess if side is None else -side
            before = size
            if way < 0:
                below = 0.0 if "from_above" in self._habits else CLEARLY_BELOW_CENTS
                self._turn(-(size + below) if not guessed else -size)
                upward = "from_above" not in self._habits and not guessed
            else:
                share = 0.75
                if "overshoots" in self._habits and size > 3.0 and index not in self._tried_wrong:
                    self._tried_wrong.add(index)
                    share = 1.0 + 12.0 / size
                self._turn(max(self._learner.smallest_cents, size * share))
                upward = True
            perceived = self._listen()
            if guessed and perceived.side is None and abs(perceived.cents) > before:
                guess = -guess
        if "from_above" in self._habits and self._state.string(self._stage().string).last_turn > 0:
            self._turn(2.5)
            self._turn(-2.5)

    def _decide(self, perceived: _Perceived, near: float) -> None:
        """Say which way it is out before the first turn; who would not turn has nothing to say."""
        state = self._state
        if perceived.side == 0 or abs(perceived.cents) <= near:
            return
        if not state.exercise.decides or self._at in self._decided:
            return
        self._decided.add(self._at)
        verdict = {-1: "low", 1: "high", None: "unsure"}[perceived.side]
        self.do(Decide(verdict), after_s=1.0)  # type: ignore[arg-type]

    def _wrong_peg(self) -> None:
        own = self._stage().string
        others = [s.number for s in self._state.rig.strings if s.number != own]
        number = others[self._draw.randrange(len(others))]
        for cents in (-3.0, 3.0):
            self._turn(cents, number=number)

    def _turn(self, cents: float, *, number: int | None = None) -> None:
        """Turn by about `cents`, in as many goes as it takes."""
        number = self._stage().string if number is None else number
        rig = self._state.rig
        string = rig.strings[number - 1]
        if "silent_turns" in self._habits:
            self.do(MuteAll(), after_s=0.1)
        elif "slow" in self._habits:
            self._wait_for_silence(number)
            self._listen()
        elif number == self._stage().string and not self._rings(number):
            self._listen()
        left = cents * (1.0 + self._learner.hand * self._draw.uniform(-1.0, 1.0))
        odd = rig.quirks[number - 1]
        if odd.stick_deg or odd.hand_deg:
            left = self._screwed(number, left)
            smallest = max(STICKS_DEG if odd.stick_deg else 0.0, GO_BACK * odd.hand_deg)
            if not left or self._in_one_go(number, left, smallest):
                return
        first = True
        for _ in range(60):
            strain = self._state.strain(number)
            tension_n = max(
                tension_at_strain(string, strain), 2.0 * SLACK_SHARE * design_tension_n(string)
            )
            per_degree = cents_per_degree(string, tension_n=tension_n)
            degrees = left / per_degree
            part = max(-MOST_TURN_DEG, min(MOST_TURN_DEG, degrees))
            if abs(part) < 1e-4 or not self.do(Turn(number, part), after_s=0.45 if first else 0.15):
                break
            first = False
            left -= part * per_degree
            if abs(left) < 0.01:
                break
        if string.peg.kind.startswith("friction"):
            self.do(LetGo(number), after_s=0.2)

    def _screwed(self, number: int, cents: float) -> float:
        """Turn the fine tuner, if there is one, by `cents`; where it has not so far to go,
        bring it to its middle. Return what is left to do.
        """
        string, strain = self._state.rig.strings[number - 1], self._state.strain(number)
        fine, at_m = string.fine, self._state.string(number).fine_m
        if fine is None or abs(cents) > FINE_CENTS:
            return cents
        # a screw has the hand's smallest turn as well, but moves far less by it
        per_m = cents_per_strain(string, strain) * (1.0 + strain) / string.total_m
        reaches = abs(at_m + cents / per_m) <= fine.take_up_m / 2.0
        by_m = cents / per_m if reaches else -at_m
        degrees = by_m / fine.take_up_m * FINE_TURNS * 360.0
        parts = math.ceil(abs(degrees) / MOST_TURN_DEG)
        for n in range(parts):
            self.do(Turn(number, degrees / parts, fine=True), after_s=0.15 if n else 0.45)
        return 0.0 if reaches else cents - by_m * per_m

    def _in_one_go(self, number: int, cents: float, smallest_deg: float) -> bool:
        """Make a turn smaller than the peg or the hand can: well down and up again in one go, or
        only well down where it is to fall. Tell whether it was one.
        """
        string = self._state.rig.strings[number - 1]
        tension_n = tension_at_strain(string, self._state.strain(number))
        if tension_n <= 0.0:
            return False
        degrees = cents / cents_per_degree(string, tension_n=tension_n)
        if abs(degrees) >= smallest_deg:
            return False
        self.do(Turn(number, -smallest_deg), after_s=0.45)
        if degrees > 0.0:
            self.do(Turn(number, smallest_deg + degrees), after_s=0.3)
        self.do(LetGo(number), after_s=0.2)
        return True

    def _rings(self, number: int) -> bool:
        soon_s = self._state.time_s + 1.0
        voices = self._state.ringing
        slack = self._state.strain(number) <= 0.0
        return slack or any(v.string == number and v.audible_s > soon_s for v in voices)

    def _wait_for_silence(self, number: int) -> None:
        rings = [v.audible_s for v in self._state.ringing if v.string == number and not v.along]
        rest = max(rings, default=0.0) - self._state.time_s
        if rest > 0.0:
            self.do(SetAid(self._state.aid), after_s=rest + DAWDLES_S)

    def _settle(self, index: int) -> None:
        rig = self._state.rig
        useful = rig.on("nut") or rig.on("creep")
        if not useful or "no_settle" in self._habits:
            return
        number = self._stage().string
        for _ in range(MOST_PULLS):
            if not self.do(Settle(number), after_s=1.0):
                return
            perceived = self._listen()
            if perceived.side == 0 or abs(perceived.cents) <= self._near_enough():
                return
            self._tune(index)

    def _judge(self, index: int) -> None:
        if "reckless" in self._habits and index == 0:
            self._turn(160.0)
            self._turn(-172.0)
            self._turn(12.0)
            self._tune(index)
        perceived = self._listen()
        stage = self._stage()
        if "rushed" in self._habits:
            pause = 0.2
        elif "hurried" in self._habits:
            pause = 0.7
        else:
            pause = max(1.0, min(6.0, stage.seconds_to_hear))
        if "no_judgement" in self._habits:
            self.do(SetAid(self._state.aid), after_s=pause)
            return
        self.do(_belief(perceived), after_s=pause)
        if "rushed" in self._habits:
            self.do(SetAid(self._state.aid), after_s=2.0)


def _belief(perceived: _Perceived) -> Judge:
    if perceived.side == 0 or abs(perceived.cents) < STILL_CENTS:
        return Judge("in_tune", 0.0)
    said = min(50.0, float(round(abs(perceived.cents))))
    return Judge("high" if perceived.side == 1 else "low", said)
