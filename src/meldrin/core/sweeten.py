"""Sweetening for a piece: the offsets that make a few chosen intervals pure."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.naming import string_label
from meldrin.core.strings import semitones_at
from meldrin.core.temperament import MOST_CUSTOM_CENTS, Temperament, cents_of, just_ratio
from meldrin.core.words import listed

MOST_CHOSEN: Final = 3
PURE_CENTS: Final = 0.05


@dataclass(frozen=True, slots=True)
class Chosen:
    """An interval of the piece: two strings, each open (0) or stopped at a fret."""

    one: int
    other: int
    one_fret: int = 0
    other_fret: int = 0


def chosen_said(text: str) -> tuple[Chosen, ...]:
    """Return the intervals that a text such as ``3-2, 6-3:1`` names: string 3 with string 2, and
    string 6 with string 3 at fret 1.

    Raises:
        MeldrinError: code ``intervals``.
    """
    found = []
    for part in text.split(","):
        if not part.strip():
            continue
        try:
            (one, one_fret), (other, other_fret) = (_side(side) for side in part.split("-"))
        except ValueError:
            raise MeldrinError(
                Code.INTERVALS,
                f"“{part.strip()}” is not an interval. Write two strings, such as 3-2 or 6-3:1.",
            ) from None
        found.append(Chosen(one, other, one_fret, other_fret))
    return tuple(found)


def _side(text: str) -> tuple[int, int]:
    number, _, fret = text.partition(":")
    return int(number), int(fret or 0)


def sweeten(
    instrument: Instrument, tuning: Tuning, chosen: Sequence[Chosen], *, held: int
) -> Temperament:
    """Return the temperament in which the chosen intervals are pure, strings moved as little as
    that asks for.

    Each interval asks that the offsets of its two strings differ by what a pure interval differs
    from the equal one. Of all offsets that do so, these have the smallest sum of squares (least
    squares of minimal norm); intervals that contradict each other share the difference.

    Args:
        held: the string that stays where it is, since the reference gives it.

    Raises:
        MeldrinError: code ``intervals`` for none or more than three intervals, for a string with
            itself, or for strings that would have to move more than 50 cents;
            ``no_such_string``, ``no_such_fret``.
    """
    if not 1 <= len(chosen) <= MOST_CHOSEN:
        raise MeldrinError(Code.INTERVALS, f"Choose 1 to {MOST_CHOSEN} intervals.")
    import numpy as np  # a plan without sweetening answers sooner without it

    numbers = [string.number for string in instrument.strings]
    moved = [number for number in numbers if number != held]
    rows = np.zeros((len(chosen), len(moved)))
    wanted = np.zeros(len(chosen))
    names = []
    for row, one in enumerate(chosen):
        if one.one == one.other:
            raise MeldrinError(Code.INTERVALS, "An interval needs two different strings.")
        low, high = sorted(
            ((one.one, one.one_fret), (one.other, one.other_fret)),
            key=lambda side: _midi(instrument, tuning, *side),
        )
        semitones = _midi(instrument, tuning, *high) - _midi(instrument, tuning, *low)
        wanted[row] = cents_of(just_ratio(semitones)) - 100.0 * semitones
        for (number, _), sign in ((high, 1.0), (low, -1.0)):
            if number != held:
                rows[row, moved.index(number)] = sign
        names.append("–".join(_name(instrument, tuning, *side) for side in (low, high)))
    offsets = np.linalg.lstsq(rows, wanted, rcond=None)[0]
    if float(np.max(np.abs(offsets))) > MOST_CUSTOM_CENTS:
        raise MeldrinError(
            Code.INTERVALS, f"Strings would have to move more than {MOST_CUSTOM_CENTS:g} cents."
        )
    custom = {
        number: float(cents)
        for number, cents in zip(moved, offsets, strict=True)
        if abs(cents) > 1e-9
    }
    left = np.abs(rows @ offsets - wanted)
    reason = f"{listed(names)} pure"
    if float(np.max(left)) > PURE_CENTS:
        reason = f"{listed(names)} to within {float(np.max(left)):.1f} cents of pure"
    return Temperament("custom", custom=custom, reason=reason)


def _midi(instrument: Instrument, tuning: Tuning, number: int, fret: int) -> int:
    string = instrument.string(number)
    if not fret:
        return tuning.midi(number)
    last = instrument.frets if instrument.frets else 0
    if not string.nut_fret < fret <= last:
        raise MeldrinError(Code.NO_SUCH_FRET, f"There is no fret {fret} on string {number}.")
    return tuning.midi(number) + semitones_at(string, fret)


def _name(instrument: Instrument, tuning: Tuning, number: int, fret: int) -> str:
    label = string_label(instrument, number, tuning)
    return f"{label} fret {fret}" if fret else label
