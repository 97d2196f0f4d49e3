"""Preparing: from what somebody asks for in plain values to a plan, a comparison or a retuning."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Final, Literal, get_args

from meldrin.core.budget import Expected, ear, expected
from meldrin.core.catalogue import (
    Instrument,
    Tuning,
    instrument,
    tonic_of,
    tuning_of_notes,
    tuning_said,
)
from meldrin.core.catalogue.tuning import tonic_name
from meldrin.core.choose import Ranked, Situation, rank
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import Plan, Wanted, plan_by
from meldrin.core.methods.reference import starting_string
from meldrin.core.methods.wanted import ForkAt, Order
from meldrin.core.retune import Retuning, retune
from meldrin.core.sweeten import chosen_said, sweeten
from meldrin.core.temperament import EQUAL, Temperament, sweetened

TemperamentName = Literal["own", "equal", "fifths", "just", "sweetened", "piece", "custom"]
TEMPERAMENTS: Final = get_args(TemperamentName)


@dataclass(frozen=True, slots=True)
class Asked:
    """What is asked for. `notes` instead of a named tuning; `method` None: the fittest one.

    `temperament`: own (the method's), equal, fifths (made `fifth_cents` wider than pure), just
    (over `tonic`), sweetened (a `share` of the way to just over `tonic`), piece (the intervals that
    `piece` names are made pure), custom (`offsets_cents` by string number, with a `reason`).
    `second_pass`: strings are far out or the frame gives, so all are gone through once more;
    `far`: the strings known to be far out. `sounded`: a pipe, a piano or a player gives the note,
    not a fork.
    """

    instrument: str
    tuning: str = "standard"
    notes: str | None = None
    method: str | None = None
    a4_hz: float = 440.0
    temperament: str = "own"
    fifth_cents: float = 0.0
    tonic: str | None = None
    share: float = 0.5
    offsets_cents: Mapping[int, float] = field(default_factory=dict)
    reason: str = ""
    start: int | None = None
    itself: bool = False
    sounded: bool = False
    order: Order = "usual"
    fork_at: ForkAt = "open"
    second_pass: bool = False
    far: tuple[int, ...] = ()
    piece: str = ""
    ear: str = "practised"


@dataclass(frozen=True, slots=True)
class Planned:
    """A plan, and what to expect of it."""

    plan: Plan
    expected: Expected


def plan_for(asked: Asked) -> Planned:
    """Return the plan asked for, with what an ear can expect of it.

    Raises:
        MeldrinError: for whatever there is none of, cannot be served or is not safe.
    """
    by = ear(asked.ear)
    wanted = wanted_of(asked)
    method = asked.method or rank(Situation(), wanted)[0].method
    plan = plan_by(method, wanted)
    return Planned(plan, expected(plan, by))


def methods_for(asked: Asked, situation: Situation) -> tuple[Ranked, ...]:
    """Return the methods ranked for a situation, on this instrument in this tuning."""
    return rank(situation, wanted_of(asked))


def retuning_for(
    instrument_id: str, *, before: str, after: str, a4_hz: float = 440.0
) -> tuple[Instrument, Retuning]:
    """Return how to go from one tuning to another, each an id or a line of notes."""
    made = instrument(instrument_id)
    change = retune(
        made, before=tuning_said(made, before), after=tuning_said(made, after), a4_hz=a4_hz
    )
    return made, change


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


def wanted_of(asked: Asked) -> Wanted:
    """Return what the methods are asked for."""
    made = instrument(asked.instrument)
    if asked.notes is None:
        tuning = made.tuning(asked.tuning)
    else:
        tuning = tuning_of_notes(made.strings, asked.notes, tonic=asked.tonic)
    tonic = None if asked.tonic is None else tonic_of(asked.tonic)
    wanted = Wanted(
        instrument=made,
        tuning=tuning,
        a4_hz=asked.a4_hz,
        start=asked.start,
        itself=asked.itself,
        sounded=asked.sounded,
        order=asked.order,
        tonic=tonic,
        fork_at=asked.fork_at,
        twice=asked.second_pass or bool(asked.far),
        far=asked.far,
    )
    return replace(wanted, temperament=_temperament(asked, wanted))


def _temperament(asked: Asked, wanted: Wanted) -> Temperament | None:
    tuning, tonic = wanted.tuning, wanted.tonic
    match asked.temperament:
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
            for number in asked.offsets_cents:
                if not 1 <= number <= len(tuning.midis):
                    raise MeldrinError(
                        Code.NO_SUCH_STRING, f"Unknown string {number}; it cannot be offset."
                    )
            return Temperament("custom", custom=asked.offsets_cents, reason=asked.reason)
        case _:
            raise MeldrinError(
                Code.TEMPERAMENT,
                f"Unknown temperament “{asked.temperament}”. Available: {', '.join(TEMPERAMENTS)}.",
            )


def _needed(tonic: int | None, tuning: Tuning) -> int:
    if tonic is not None:
        return tonic
    if tuning.tonic is not None:
        return tuning.tonic
    raise MeldrinError(Code.TEMPERAMENT, "Just intervals need a tonic to stand on, such as D.")
