"""What things are called on screen, once: a short name, and a few words about it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, get_args

from meldrin.core.bench.actions import Aid, Verdict
from meldrin.core.bench.exercise import FAULT, FREE, Behaviour, Exercise, StartKind
from meldrin.core.bench.fault import FaultKind, Remedy
from meldrin.core.bench.limits import Ripple, Tolerance, limits
from meldrin.core.budget import EARS
from meldrin.core.methods import METHODS
from meldrin.core.methods.wanted import ForkAt, Order
from meldrin.core.pitch import Naming
from meldrin.core.scoring.findings import Basis


@dataclass(frozen=True, slots=True)
class Name:
    """A thing's id, its name, and a few words about it."""

    id: str
    name: str
    about: str = ""


def _names(kind: object, words: Mapping[str, str | tuple[str, str]]) -> tuple[Name, ...]:
    """Return the names of all of a kind, in the order they are shown in."""
    assert set(words) == set(get_args(kind)), set(words) ^ set(get_args(kind))
    return tuple(
        Name(one, said) if isinstance(said, str) else Name(one, *said)
        for one, said in words.items()
    )


STARTS: Final = _names(
    StartKind,
    {
        "hair": ("Slightly out", "Every string a little off, low or high, all much alike"),
        "high": ("A little high", "Every string too high, some more than others"),
        "month": (
            "After a month",
            "Left on its stand: some strings far off, some less, low or high",
        ),
        "one": ("One string out", "All are in tune but one"),
        "slack": ("New strings, slack", "Just put on, not yet tight"),
        "damp": ("Moved to a drier room", "It goes on changing while you tune"),
        "octave": ("Wrong octave", "One string is an octave too low"),
        "reference": ("Wrong reference", "What gives the pitch is out; find it"),
        "group": ("Play to the group", "Their A is not the fork’s; take it over"),
        "retune": ("Retune", "From one tuning to another"),
    },
)
AIDS: Final = _names(
    Aid,
    {
        "ear": ("Ear only", "No picture of the pitch. The best score is 100."),
        "ripple": ("Ripples", "The beats as ripples, never which way. The best score is 80."),
        "level": ("Level", "Low and high, in cents. The best score is 60."),
        "tuner": ("Tuner", "A tuner that listens. The best score is 60."),
    },
)
_FOR_WHOM: Final[dict[Tolerance, str]] = {
    "first": "For the first weeks",
    "settled": "For playing alone",
    "together": "For playing with others",
    "fine": "For a recording",
}
TOLERANCES: Final = tuple(
    Name(tolerance, limits().tolerances[tolerance].name, about)
    for tolerance, about in _FOR_WHOM.items()
)
BEHAVIOURS: Final = _names(
    Behaviour,
    {
        "ringing": ("Strings ring along", "unless you keep them quiet"),
        "stroke": ("Hard strokes start sharp", "and fall to pitch"),
        "pegs": ("Pegs slip", "unless they are pushed in"),
        "hand": ("A real hand", "it turns as little as a hand can, never exactly"),
        "sticking": ("Friction pegs stick", "they jump by a degree or so"),
        "nut": ("The nut grips", "coming down leaves slack behind it"),
        "coupling": ("The frame gives", "each string moves the others"),
        "creep": ("New strings sink", "fast at first, for days"),
        "fretting": ("Fingers press", "too hard is sharp"),
        "setup": ("Frets and nut are off", "sharp at 12, or at 1 and 2"),
        "false": ("Old strings are false", "they beat with themselves"),
        "room": ("The room changes", "warmth and damp while you tune"),
        "noise": ("The room is noisy", "for the tuner"),
        "breaking": ("Strings can snap", "far above their pitch"),
        "reference": ("The reference may be wrong", "check it"),
        "lying": ("It lies at first", "held as you play, it is a little lower"),
    },
)
VERDICTS: Final = _names(Verdict, {"low": "Low", "in_tune": "In tune", "high": "High"})
RIPPLES: Final = _names(
    Ripple, {"fast": "fast", "slow": "slow", "very_slow": "very slow", "still": "still"}
)
BASES: Final = _names(
    Basis,
    {
        "ear": ("ear only", "Ear only"),
        "ripple": ("ripples", "With ripples"),
        "level": ("level", "With level"),
        "tuner": ("tuner", "With tuner"),
        "read": ("read on the tuner", "Read on the tuner"),
        "none": ("not heard", "Nothing judged"),
    },
)
FAULTS: Final = _names(
    FaultKind,
    {
        "nut": ("The nut is too high", "Frets 1 and 2 are sharp, high up it is right"),
        "saddle": ("The saddle is off", "Fret 12 is sharp against its harmonic, fret 1 is right"),
        "finger": ("The finger is too heavy", "Every fret is sharp, unless you press lightly"),
        "old": ("The strings are old", "Every string beats by itself"),
        "false": ("One string is false", "It beats by itself, the others do not"),
        "slip": ("A peg slips", "Its string sinks each time you play it"),
    },
)
REMEDIES: Final = _names(
    Remedy,
    {
        "lighter": ("Press lightly and straight", "You can do it now"),
        "string": ("Change that string", "You or your teacher"),
        "strings": ("Change all the strings", "You or your teacher"),
        "peg": ("Push the peg in as you turn", "If it still slips: a repairer"),
        "repairer": ("Take it to a repairer", "Pegs cannot mend it"),
    },
)
ORDERS: Final = _names(
    Order,
    {
        "usual": "As usual",
        "up": "From low to high",
        "down": "From high to low",
        "ear_first": "By ear first, then the tuner",
    },
)
NAMINGS: Final = _names(
    Naming,
    {
        "letters": ("C D E", "by letters"),
        "letters_h": ("C D E, with H", "H is what others call B"),
        "solfege": ("Do Re Mi", "do is always C"),
        "sargam": ("Sa Re Ga", "over a drone; without one by letters"),
    },
)
FORK_ATS: Final = _names(ForkAt, {"open": "With the open string", "harmonic": "With a harmonic"})
EAR_NAMES: Final = tuple(
    Name(one.id, one.name, f"About {one.beats_sd_cents:g} cents a comparison")
    for one in EARS.values()
)
EAR_FIRST: Final = "Ear, then tuner"
OWN_TITLES: Final = {FREE: "Free play", FAULT: "Find the fault"}


def name_of(names: tuple[Name, ...], wanted: str) -> str:
    """Return the name of a thing by its id."""
    return next(one.name for one in names if one.id == wanted)


def exercise_title(exercise: Exercise) -> str:
    """Return what stands over the plan of an exercise: its method.

    >>> exercise_title(Exercise("violin", "fifths", "hair", 1))
    'Fifths'
    """
    if exercise.method in OWN_TITLES:
        return OWN_TITLES[exercise.method]
    if exercise.order == "ear_first":
        return EAR_FIRST
    return METHODS[exercise.method].name


def exercise_name(exercise: Exercise) -> str:
    """Return what an exercise is called in a list.

    >>> exercise_name(Exercise("viola", "fifths", "month", 1))
    'Viola: after a month, by fifths'
    """
    name = exercise.instrument.name
    if exercise.method in OWN_TITLES:
        return f"{name}: {OWN_TITLES[exercise.method].lower()}"
    start = name_of(STARTS, exercise.start).lower()
    return f"{name}: {start}, {METHODS[exercise.method].how}"
