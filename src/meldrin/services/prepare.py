"""Preparing: from what somebody asks for in plain values to a plan, a comparison or a retuning."""

from dataclasses import dataclass, replace
from typing import Annotated, Final, Literal, get_args

from annotated_types import Ge, Le, MaxLen
from typing_extensions import Doc

from meldrin.core.budget import Expected, ear, expected
from meldrin.core.catalogue import (
    Instrument,
    Tuning,
    tonic_of,
    tuning_of_notes,
    tuning_said,
)
from meldrin.core.catalogue.tuning import tonic_name
from meldrin.core.choose import Ranked, rank
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import Plan, Situation, Wanted, plan_by
from meldrin.core.methods.reference import starting_string
from meldrin.core.methods.wanted import Options
from meldrin.core.pitch import HIGHEST_A4_HZ, LOWEST_A4_HZ
from meldrin.core.retune import Retuning, retune
from meldrin.core.sweeten import chosen_said, sweeten
from meldrin.core.temperament import EQUAL, MOST_FIFTH_CENTS, Temperament, sweetened

TemperamentName = Literal["own", "equal", "fifths", "just", "sweetened", "piece", "custom"]
TEMPERAMENTS: Final = get_args(TemperamentName)
EarName = Literal["beginner", "practised", "trained"]
Name = Annotated[str, MaxLen(40)]
A4 = Annotated[float, Ge(LOWEST_A4_HZ), Le(HIGHEST_A4_HZ), Doc("390 to 470 Hz")]
Tonic = Annotated[
    str | None, MaxLen(4), Doc("the tonic of a drone or of just intervals, such as D")
]
TuningName = Annotated[Name, Doc("a tuning of the catalogue")]
Notes = Annotated[
    str | None, MaxLen(200), Doc("your own tuning, last string first: 'D2 A2 D3 G3 A3 D4'")
]


@dataclass(frozen=True, slots=True)
class Asked(Options):
    """The plan that is asked for, in plain values: the options of `./meldrin plan` and the query of
    /api/plan.
    """

    instrument: Annotated[Name, Doc("see ./meldrin instruments")]
    tuning: TuningName = "standard"
    notes: Notes = None
    method: Annotated[str | None, MaxLen(40), Doc("a method; without it, the fittest")] = None
    a4_hz: A4 = 440.0
    temperament: Annotated[
        TemperamentName,
        Doc(
            "own is the method's; piece makes the intervals of --piece pure, custom takes --offsets"
        ),
    ] = "own"
    fifth_cents: Annotated[
        float,
        Ge(-MOST_FIFTH_CENTS),
        Le(MOST_FIFTH_CENTS),
        Doc("fifths: by how much wider (narrower: -) than pure"),
    ] = 0.0
    tonic: Tonic = None
    share: Annotated[float, Ge(0.0), Le(1.0), Doc("sweetened: how far towards just, 0 to 1")] = 0.5
    offsets: Annotated[
        str, MaxLen(400), Doc("custom: cents by string number, such as 6:-2,1:1.5")
    ] = ""
    reason: Annotated[str, MaxLen(120), Doc("custom: what the offsets are for")] = ""
    far: Annotated[str, MaxLen(60), Doc("strings known to be far out, such as 6,1")] = ""
    piece: Annotated[
        str, MaxLen(60), Doc("piece: intervals to make pure, such as 3-2,6-3:1 (string:fret)")
    ] = ""
    ear: Annotated[EarName, Doc("for the errors to expect")] = "practised"


@dataclass(frozen=True, slots=True)
class TuningAsked:
    """An instrument in a tuning, for which the methods are ranked."""

    instrument: Name
    tuning: TuningName = "standard"
    notes: Notes = None
    tonic: Tonic = None


@dataclass(frozen=True, slots=True)
class Planned:
    """A plan, and what to expect of it."""

    plan: Plan
    expected: Expected


def plan_for(asked: Asked, made: Instrument) -> Planned:
    """Return the plan asked for on an instrument, with what an ear can expect of it.

    Raises:
        MeldrinError: for what is unknown, cannot serve or is not safe.
    """
    by = ear(asked.ear)
    wanted = wanted_of(asked, made)
    method = asked.method or rank(Situation(), wanted)[0].method
    plan = plan_by(method, wanted)
    return Planned(plan, expected(plan, by))


def methods_for(asked: TuningAsked, situation: Situation, made: Instrument) -> tuple[Ranked, ...]:
    """Return the methods ranked for a situation, on this instrument in this tuning."""
    tuning, tonic = _tuning(asked, made)
    return rank(situation, Wanted(made, tuning, tonic=tonic))


def retuning_for(made: Instrument, *, before: str, after: str, a4_hz: float = 440.0) -> Retuning:
    """Return how to go from one tuning to another, each an id or a line of notes."""
    return retune(
        made, before=tuning_said(made, before), after=tuning_said(made, after), a4_hz=a4_hz
    )


def offsets_said(text: str) -> dict[int, float]:
    """Return cents by string number from a text such as ``6:-2,1:1.5``; none for an empty one.

    Raises:
        MeldrinError: code ``offsets``.
    """
    offsets = {}
    for part in text.split(","):
        if not part.strip():
            continue
        number, _, cents = part.partition(":")
        try:
            offsets[int(number)] = float(cents)
        except ValueError:
            raise MeldrinError(
                Code.OFFSETS, f"“{part.strip()}” is no offset; write string:cents, such as 6:-2."
            ) from None
    return offsets


def strings_said(text: str) -> tuple[int, ...]:
    """Return string numbers from a text such as ``6, 1``; none for an empty one.

    Raises:
        MeldrinError: code ``strings``.
    """
    try:
        return tuple(dict.fromkeys(int(part) for part in text.replace(",", " ").split()))
    except ValueError:
        message = f"“{text.strip()}” is no list of strings; write their numbers, such as 6, 1."
        raise MeldrinError(Code.STRINGS, message) from None


def wanted_of(asked: Asked, made: Instrument) -> Wanted:
    """Return what the methods are asked for."""
    tuning, tonic = _tuning(asked, made)
    far, offsets = strings_said(asked.far), offsets_said(asked.offsets)
    chosen = asked.chosen()
    chosen["second_pass"] |= bool(far)
    wanted = Wanted(made, tuning, asked.a4_hz, tonic=tonic, far=far, **chosen)
    return replace(wanted, temperament=_temperament(asked, wanted, offsets))


def _tuning(asked: Asked | TuningAsked, made: Instrument) -> tuple[Tuning, int | None]:
    """Return the tuning that is asked for, and the tonic, if one is."""
    if asked.notes:
        tuning = tuning_of_notes(made.strings, asked.notes, tonic=asked.tonic or None)
    else:
        tuning = made.tuning(asked.tuning)
    return tuning, tonic_of(asked.tonic) if asked.tonic else None


def _temperament(asked: Asked, wanted: Wanted, offsets: dict[int, float]) -> Temperament | None:
    tuning, tonic = wanted.tuning, wanted.tonic
    if asked.fifth_cents and asked.temperament not in ("own", "fifths"):
        raise MeldrinError(
            Code.TEMPERAMENT,
            f"The size of the fifths goes with the temperament fifths, not {asked.temperament}.",
        )
    match asked.temperament:
        case "own" if asked.fifth_cents:  # who says how wide the fifths are wants them so
            return Temperament("fifths", fifth_cents=asked.fifth_cents)
        case "own":
            return None
        case "equal":
            return EQUAL
        case "fifths":
            return Temperament("fifths", fifth_cents=asked.fifth_cents)
        case "just":
            return Temperament("just", tonic=_needed(tonic, tuning))
        case "sweetened":
            key = _needed(tonic, tuning)
            reason = asked.reason.strip()
            midis = dict(enumerate(tuning.midis, start=1))
            return sweetened(
                midis,
                tonic=key,
                share=asked.share,
                reason=reason or f"sweetened for {tonic_name(key)}",
            )
        case "piece":
            held = starting_string(wanted)
            return sweeten(wanted.instrument, tuning, chosen_said(asked.piece), held=held)
        case "custom":
            for number in offsets:
                if not 1 <= number <= len(tuning.midis):
                    raise MeldrinError(
                        Code.NO_SUCH_STRING, f"Unknown string {number}; it cannot be offset."
                    )
            return Temperament("custom", custom=offsets, reason=asked.reason)
        case unknown:
            raise MeldrinError(
                Code.TEMPERAMENT,
                f"Unknown temperament “{unknown}”. Available: {', '.join(TEMPERAMENTS)}.",
            )


def _needed(tonic: int | None, tuning: Tuning) -> int:
    if tonic is not None:
        return tonic
    if tuning.tonic is not None:
        return tuning.tonic
    raise MeldrinError(Code.TEMPERAMENT, "Just intervals need a tonic to stand on, such as D.")
