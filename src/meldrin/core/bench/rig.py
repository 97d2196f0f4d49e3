"""What follows from an exercise alone, computed once: its plan, and how this one instrument
differs from an ideal one. Everything is drawn by the seed.
"""

import math
import random
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

from meldrin.core.bench.exercise import FAULT, Behaviour, Exercise
from meldrin.core.bench.fault import SIZES, Fault, drawn_fault
from meldrin.core.catalogue import Instrument
from meldrin.core.methods import Plan
from meldrin.core.pitch import shifted_by_cents
from meldrin.core.sound.references import Source
from meldrin.core.strings import String, cents_per_strain, strain_sounding, tension_at_strain

# Ranges of what one instrument has and the next has not; judgements within what players know.
GRIP: Final = (0.03, 0.09)  # capstan exponent mu theta at the nut: good slots to ordinary poor ones
BACKLASH_DEG: Final = (3.0, 12.0)  # of the knob, on a geared machine
SLIP_SHARE: Final = (0.3, 0.7)  # how often a friction peg slips that was not pushed in
STICK_DEG: Final = (0.8, 1.6)  # how far a friction peg is twisted before it jumps
SPLIT_CENTS: Final = (0.3, 1.0)  # of a string in order
FALSE_SPLIT_CENTS: Final = (3.0, 7.0)  # of an old one
FALSE_SHARE: Final = 0.3  # how many strings of an old set are false
SPLIT_SCATTER: Final = 0.5  # of a string's split, from partial to partial
MOST_PARTIALS: Final = 40  # of which any is split
# The smallest move a hand makes; a judgement within what players do.
HAND_FRICTION_DEG: Final = 1.2
HAND_GEARED_DEG: Final = 3.5
HAND_FINE_DEG: Final = 6.0
HOLDS_SHARE: Final = (0.82, 0.98)  # of a straight new string's breaking load
FRET_12_CENTS: Final = (4.0, 12.0)  # how sharp fret 12 is against the harmonic on a poor set-up
HIGH_NUT_CENTS: Final = (0.0, 6.0)  # how sharp fret 1 is under a nut left too high
# Lying on its back an instrument is a little sharper than as it is held: its head hangs and bends
# the neck back, so that every path is longer. A judgement from statics: a guitar's neck and head
# weigh about 6 N, 0.25 m out. Their 1.5 N m, half of it in the mean over 0.4 m, turn a neck of
# 320 N m^2 by 0.001; strings 11 mm above its middle become 0.01 mm longer. Of instruments alike in
# shape weight grows as length^3, the moment and the stiffness as length^4, so that this grows as
# length^2.
LYING_M, LYING_SCALE_M = 1e-5, 0.65
CAUTION_CENTS: Final = 15.0  # above its target a string near its limit is warned of
REFERENCE_CENTS: Final = (7.0, 20.0)  # how far a wrong reference is out
RIGHT_SHARE: Final = 0.35  # how often a reference that is to be checked is right after all


@dataclass(frozen=True, slots=True)
class Creep:
    """How a string gives after it is brought to pitch: cents for each tenfold of time, the first
    time and once it has settled.
    """

    fresh_cents: tuple[float, float]
    settled_cents: float


# By what carries the load; a wound string of steel settles like a plain one, a little slower.
CREEP: Final = {
    "steel": Creep((8.0, 15.0), 0.8),
    "wound steel": Creep((10.0, 20.0), 1.0),
    "filament": Creep((15.0, 30.0), 4.0),
    "polyamide": Creep((40.0, 70.0), 9.0),
    "wound polyamide": Creep((25.0, 45.0), 6.0),
    "bronze": Creep((10.0, 20.0), 1.0),
}


def creep_of(string: String, *, bowed: bool) -> Creep:
    """Return how a string of this material creeps."""
    material = string.material
    if "filament" in material:
        return CREEP["filament" if bowed else "wound polyamide"]
    if "polyamide" in material:
        return CREEP["polyamide"]
    if material.startswith("plain phosphor bronze"):
        return CREEP["bronze"]
    return CREEP["wound steel" if "wound" in material or "stranded" in material else "steel"]


@dataclass(frozen=True, slots=True)
class Quirks:
    """How one string and its peg are; 0, or no limit, where the behaviour is off.

    grip: the capstan exponent at the nut.
    backlash_deg: lost motion of the knob.
    slip_share: the chance that the peg slips when let go without having been pushed in.
    stick_deg: how far a peg that sticks is twisted before it jumps, in the middle.
    splits_cents: of its doublets, by partial; empty where it is in order.
    hand_deg, hand_fine_deg: the smallest turns a hand makes of the knob and of the fine tuner.
    holds_n: the tension at which it breaks.
    fresh_creep_cents, settled_creep_cents: for each tenfold of time.
    fret_12_cents, fret_1_cents: how sharp these frets are, by the set-up and by the nut.
    axial_stiffness_n: EA at no load; it and the next three are the string's own, kept here for the
        loops that bring the frame to rest.
    slope: how EA grows with stress.
    path_m: from anchor to nut, or to the post where the nut lets it slide freely.
    head_m: from nut to post, 0 where it slides.
    """

    grip: float
    backlash_deg: float
    slip_share: float
    stick_deg: float
    splits_cents: tuple[float, ...]
    hand_deg: float
    hand_fine_deg: float
    holds_n: float
    fresh_creep_cents: float
    settled_creep_cents: float
    fret_12_cents: float
    fret_1_cents: float
    axial_stiffness_n: float
    slope: float
    path_m: float
    head_m: float


@dataclass(frozen=True, slots=True)
class Room:
    """The air the instrument comes from and the air it is in: degrees Celsius and % humidity."""

    warm_from: float
    warm_to: float
    humid_from: float
    humid_to: float

    @property
    def changes(self) -> bool:
        """Whether the air is another than the instrument is used to."""
        return self.warm_from != self.warm_to or self.humid_from != self.humid_to


@dataclass(frozen=True, slots=True, eq=False)
class Rig:
    """The instrument on the bench, as this exercise has it.

    labels: what players call the strings, string 1 first.
    frame_compliance_m_per_n: 0 where the frame does not give.
    target_strains: each string's strain with every string on its target.
    caution_strains: where each string is so far above its target that a caution may be due.
    load_n: the tension of all strings then.
    lying_m: how much longer every path is while the instrument lies.
    cents_per_strain: how far each string's pitch moves there, for a unit of strain.
    source: what sounds the reference.
    reference_cents: by how much it is out.
    tuner_a4_hz: what the tuner was left at.
    fault: what is to be found, or None.
    """

    exercise: Exercise
    instrument: Instrument
    plan: Plan
    labels: tuple[str, ...]
    strings: tuple[String, ...]
    quirks: tuple[Quirks, ...]
    room: Room
    frame_compliance_m_per_n: float
    target_strains: tuple[float, ...]
    caution_strains: tuple[float, ...]
    load_n: float
    lying_m: float
    cents_per_strain: tuple[float, ...]
    source: Source
    reference_cents: float
    tuner_a4_hz: float
    fault: Fault | None

    def on(self, behaviour: Behaviour) -> bool:
        """Whether the instrument behaves so."""
        return behaviour in self.exercise.behaviours


@lru_cache(maxsize=256)
def rig_of(exercise: Exercise) -> Rig:
    """Return what follows from an exercise."""
    plan = exercise.plan
    instrument = plan.instrument  # its frets lie where the plan wants them
    strains = tuple(
        strain_sounding(string, frequency_hz=hz, fret=0, number=1)
        for string, hz in zip(instrument.strings, plan.targets_hz, strict=True)
    )
    off = _reference_cents(exercise)
    by_tuner = plan.reference.kind == "tuner"
    fault = drawn_fault(instrument, seed=exercise.seed) if exercise.method == FAULT else None
    coupled = "coupling" in exercise.behaviours
    load_n = sum(
        tension_at_strain(string, strain)
        for string, strain in zip(instrument.strings, strains, strict=True)
    )
    return Rig(
        exercise=exercise,
        instrument=instrument,
        plan=plan,
        labels=tuple(plan.label(string.number) for string in instrument.strings),
        strings=instrument.strings,
        quirks=_with_fault(exercise, fault, _quirks(exercise, instrument)),
        room=_room(exercise),
        frame_compliance_m_per_n=instrument.frame_compliance_m_per_n if coupled else 0.0,
        target_strains=strains,
        caution_strains=tuple(
            strain_sounding(
                string,
                frequency_hz=shifted_by_cents(hz, cents=CAUTION_CENTS),
                fret=0,
                number=1,
            )
            for string, hz in zip(instrument.strings, plan.targets_hz, strict=True)
        ),
        load_n=load_n,
        lying_m=_lying_m(instrument) if "lying" in exercise.behaviours else 0.0,
        cents_per_strain=tuple(
            cents_per_strain(string, strain)
            for string, strain in zip(instrument.strings, strains, strict=True)
        ),
        source=exercise.source or exercise.sources[0],
        reference_cents=0.0 if by_tuner else off,
        # a tuner is left at whole hertz
        tuner_a4_hz=float(round(shifted_by_cents(exercise.a4_hz, cents=off)))
        if by_tuner and off
        else exercise.a4_hz,
        fault=fault,
    )


def _lying_m(instrument: Instrument) -> float:
    """Return how much longer every path is while the instrument lies."""
    longest_m = max(string.scale_m for string in instrument.strings)
    return LYING_M * (longest_m / LYING_SCALE_M) ** 2


def _reference_cents(exercise: Exercise) -> float:
    draw = random.Random(f"reference {exercise.seed}")
    right, size, side = draw.random(), draw.random(), draw.random()
    if not exercise.tests_reference or (exercise.start != "reference" and right < RIGHT_SHARE):
        return 0.0
    low, high = REFERENCE_CENTS
    return (low + (high - low) * size) * (1.0 if side < 0.5 else -1.0)


def _quirks(exercise: Exercise, instrument: Instrument) -> tuple[Quirks, ...]:
    """Draw the quirks of every string; all of them, so that one behaviour more changes no other."""
    draw, sticking = (
        random.Random(f"quirks {exercise.seed}"),
        random.Random(f"stick {exercise.seed}"),
    )
    on = exercise.behaviours

    def between(limits: tuple[float, float], by: random.Random = draw) -> float:
        low, high = limits
        return low + (high - low) * by.random()

    found = []
    nut_high = between(HIGH_NUT_CENTS)
    for string in instrument.strings:
        grip, backlash, slip = between(GRIP), between(BACKLASH_DEG), between(SLIP_SHARE)
        false, good, bad = draw.random(), between(SPLIT_CENTS), between(FALSE_SPLIT_CENTS)
        holds, fret_12 = between(HOLDS_SHARE), between(FRET_12_CENTS)
        creep = creep_of(string, bowed=instrument.kind == "bowed")
        fresh = between(creep.fresh_cents)
        stick = between(STICK_DEG, sticking)
        friction = string.peg.kind.startswith("friction")
        gripping = "nut" in on and string.dead_nut_m > 0.0
        split = bad if false < FALSE_SHARE else good
        found.append(
            Quirks(
                grip=grip if gripping else 0.0,
                backlash_deg=backlash if "pegs" in on and not friction else 0.0,
                slip_share=slip if "pegs" in on and friction else 0.0,
                stick_deg=stick if "sticking" in on and friction else 0.0,
                splits_cents=_splits(exercise.seed, string.number, split) if "false" in on else (),
                hand_deg=(HAND_FRICTION_DEG if friction else HAND_GEARED_DEG)
                if "hand" in on
                else 0.0,
                hand_fine_deg=HAND_FINE_DEG if "hand" in on else 0.0,
                holds_n=holds * string.breaking_n if "breaking" in on else math.inf,
                fresh_creep_cents=fresh if "creep" in on else 0.0,
                settled_creep_cents=creep.settled_cents if "creep" in on else 0.0,
                fret_12_cents=fret_12 if "setup" in on and instrument.frets else 0.0,
                fret_1_cents=nut_high if "setup" in on and instrument.frets else 0.0,
                axial_stiffness_n=string.modulus_pa * string.load_area_m2,
                slope=string.modulus_slope,
                path_m=string.total_m - (string.dead_nut_m if gripping else 0.0),
                head_m=string.dead_nut_m if gripping else 0.0,
            )
        )
    return tuple(found)


def _with_fault(
    exercise: Exercise, fault: Fault | None, quirks: tuple[Quirks, ...]
) -> tuple[Quirks, ...]:
    """Return the strings with what is wrong; the finger and the slipping peg show as they act."""
    if fault is None:
        return quirks
    draw = random.Random(f"old {exercise.seed}")
    low, high = SIZES["old"]
    found = []
    for number, one in enumerate(quirks, start=1):
        old = low + (high - low) * draw.random()
        match fault.kind:
            case "nut":
                one = replace(one, fret_1_cents=fault.size)
            case "saddle":
                one = replace(one, fret_12_cents=fault.size)
            case "old":
                one = replace(one, splits_cents=_splits(exercise.seed, number, old))
            case "false" if number == fault.string:
                one = replace(one, splits_cents=_splits(exercise.seed, number, fault.size))
            case _:
                pass
        found.append(one)
    return tuple(found)


def _splits(seed: int, number: int, split_cents: float) -> tuple[float, ...]:
    """Return the split of every partial of a string: about the string's own, each its own."""
    draw = random.Random(f"splits {seed} {number}")
    return tuple(
        split_cents * (1.0 + SPLIT_SCATTER * (2.0 * draw.random() - 1.0))
        for _ in range(MOST_PARTIALS)
    )


def _room(exercise: Exercise) -> Room:
    """Draw the air of an attempt: from damp to dry where it starts so, else a random drift."""
    draw = random.Random(f"room {exercise.seed}")
    warm, humid = 18.0 + 3.0 * draw.random(), 45.0 + 10.0 * draw.random()
    warmer = (2.0 + 3.0 * draw.random()) * (1 if draw.random() < 0.7 else -1)
    damper = (8.0 + 8.0 * draw.random()) * (1 if draw.random() < 0.5 else -1)
    if exercise.start == "damp":
        return Room(warm - 3.0, warm + 2.0, 68.0, 32.0)
    if "room" not in exercise.behaviours:
        return Room(warm, warm, humid, humid)
    return Room(warm, warm + warmer, humid, humid + damper)
