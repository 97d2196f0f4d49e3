"""From one tuning to another: what each string carries, in which order, and how far to aim off.

Every string's path shortens by `coupling` times the tension of all strings together, since neck,
bridge and top give a little. A string brought to pitch early is moved by every string turned after
it; the aim computed here is where it must stand at its turn so that it ends on its note.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.catalogue import Instrument, Tuning, check_tuning
from meldrin.core.methods.naming import string_label
from meldrin.core.pitch import (
    cents_between,
    checked_a4_hz,
    equal_tempered_hz,
    shifted_by_cents,
)
from meldrin.core.strings import (
    EVERYDAY_SHARE,
    String,
    breaking_share,
    frequency_at_strain,
    strain_at_frequency,
    tension_at_strain,
)
from meldrin.core.words import capital, listed, whole_cents

MUCH_LOAD_SHARE: Final = 0.05  # of the whole load: from there on the wood moves and needs time
UNTOUCHED_CENTS: Final = 1.0
REMAINS_CENTS: Final = 2.0  # what may remain when all is done
MOST_PASSES: Final = 8
TIMES: Final = ("", "once", "twice", "three times", "four times", "five times", "six times")
ROUNDS: Final = 40
SETTLED_M: Final = 1e-12


@dataclass(frozen=True, slots=True)
class Retuned:
    """One string: notes (MIDI), semitones, tension before and after, share of the breaking load.

    `aim_cents`: where to leave it at its turn, against its note (0 or below: a string that later
    ones pull down is not tuned sharp, it gets another pass); `drift_cents`: what the strings turned
    after it, or all of them if it is not turned, do to it; `remains_cents`: how far from its note
    it is after the first pass.
    """

    number: int
    label: str
    midi_from: int
    midi_to: int
    semitones: int
    tension_before_n: float
    tension_after_n: float
    breaking_share: float
    aim_cents: float
    drift_cents: float
    remains_cents: float


@dataclass(frozen=True, slots=True)
class Retuning:
    """The whole change: strings by number, the order of those that are turned, total load (N).

    passes_cents: how far the worst string is from its note after each pass; as many passes as it
        takes to bring all within 2 cents. After the first, every string that is off is turned, in
        the same order and then those that were not to change.
    """

    strings: tuple[Retuned, ...]
    order: tuple[int, ...]
    load_before_n: float
    load_after_n: float
    cautions: tuple[str, ...]
    passes_cents: tuple[float, ...]

    @property
    def aims_cents(self) -> tuple[float, ...]:
        """Where to leave each string at its turn, against its note, string 1 first."""
        return tuple(row.aim_cents for row in self.strings)

    @property
    def load_change_n(self) -> float:
        """How much more (less, if negative) the instrument carries afterwards."""
        return self.load_after_n - self.load_before_n


def retune(
    instrument: Instrument,
    *,
    before: Tuning,
    after: Tuning,
    a4_hz: float,
    order: Sequence[int] | None = None,
) -> Retuning:
    """Return how to go from one tuning to another, both in equal temperament.

    Strings that go down come first, the furthest first and among equals the lowest; then those that
    go up, the lowest first, so that the likeliest to snap is turned when all else is done. `order`:
    that of a method that has its own; it names every string that changes.

    Raises:
        OutOfRange: for a calibration outside 390 to 470 Hz.
        MeldrinError: code ``unsafe_tuning``, where a string would be too tight or too slack.
    """
    checked_a4_hz(a4_hz)
    check_tuning(instrument.strings, before, a4_hz=a4_hz)
    check_tuning(instrument.strings, after, a4_hz=a4_hz)
    order = _order(instrument, before, after) if order is None else tuple(order)
    bench = _Frame(instrument, before, a4_hz)
    goals = {n: equal_tempered_hz(after.midi(n), a4_hz=a4_hz) for n in order}
    final = bench.settled(order, goals)
    drifts = bench.drifts(order, goals, final)
    aims = {n: min(0.0, -drifts[n]) for n in order}
    ended = bench.passes(order, after, a4_hz, aims)
    rows = []
    for string in instrument.strings:
        n = string.number
        hz_from = equal_tempered_hz(before.midi(n), a4_hz=a4_hz)
        hz_to = equal_tempered_hz(after.midi(n), a4_hz=a4_hz)
        tension_after = tension_at_strain(string, strain_at_frequency(string, hz_to))
        drift = drifts[n]
        rows.append(
            Retuned(
                number=n,
                label=string_label(instrument, n, after),
                midi_from=before.midi(n),
                midi_to=after.midi(n),
                semitones=after.midi(n) - before.midi(n),
                tension_before_n=tension_at_strain(string, strain_at_frequency(string, hz_from)),
                tension_after_n=tension_after,
                breaking_share=breaking_share(string, tension_n=tension_after),
                aim_cents=aims.get(n, 0.0),
                drift_cents=drift,
                remains_cents=ended[0][n],
            )
        )
    load_before = sum(row.tension_before_n for row in rows)
    load_after = sum(row.tension_after_n for row in rows)
    passes = tuple(max(abs(cents) for cents in one.values()) for one in ended)
    return Retuning(
        strings=tuple(rows),
        order=order,
        load_before_n=load_before,
        load_after_n=load_after,
        cautions=_cautions(instrument, rows, load_before, load_after, passes),
        passes_cents=passes,
    )


def _order(instrument: Instrument, before: Tuning, after: Tuning) -> tuple[int, ...]:
    change = {s.number: after.midi(s.number) - before.midi(s.number) for s in instrument.strings}
    down = sorted(
        (n for n, semitones in change.items() if semitones < 0),
        key=lambda n: (change[n], before.midi(n), -n),
    )
    up = sorted(
        (n for n, semitones in change.items() if semitones > 0),
        key=lambda n: (after.midi(n), -n),
    )
    return (*down, *up)


class _Frame:
    """The strings on an instrument that gives; `give` is how far their paths have shortened, in
    metres, against the first tuning (negative: they have lengthened).
    """

    def __init__(self, instrument: Instrument, before: Tuning, a4_hz: float) -> None:
        self._instrument = instrument
        self._unstretched: dict[int, float] = {}
        self._load_n = 0.0
        for string in instrument.strings:
            strain = strain_at_frequency(
                string, equal_tempered_hz(before.midi(string.number), a4_hz=a4_hz)
            )
            self._unstretched[string.number] = string.total_m / (1.0 + strain)
            self._load_n += tension_at_strain(string, strain)

    def settled(self, order: Sequence[int], goals: Mapping[int, float]) -> dict[int, float]:
        """Return the unstretched lengths that end with every turned string on its note."""
        tensions = {}
        strains = {}
        for number in order:
            string = self._instrument.string(number)
            strains[number] = strain_at_frequency(string, goals[number])
            tensions[number] = tension_at_strain(string, strains[number])
        give = self._give(self._unstretched, held_n=tensions)
        return {
            number: (self._instrument.string(number).total_m - give) / (1.0 + strains[number])
            for number in order
        }

    def drifts(
        self, order: Sequence[int], goals: Mapping[int, float], final: Mapping[int, float]
    ) -> dict[int, float]:
        """Return how far every string moves after its turn, in cents; before any, if not turned."""
        lengths = dict(self._unstretched)
        at_turn = {}
        for number in order:
            lengths[number] = final[number]
            give = self._give(lengths)
            at_turn[number] = self._hz(self._instrument.string(number), lengths[number], give)
        give = self._give(lengths)
        drifts = {}
        for string in self._instrument.strings:
            n = string.number
            now = self._hz(string, lengths[n], give)
            then = at_turn[n] if n in goals else self._hz(string, lengths[n], 0.0)
            drifts[n] = cents_between(now, reference_hz=then)
        return drifts

    def passes(
        self, order: Sequence[int], after: Tuning, a4_hz: float, aims: Mapping[int, float]
    ) -> list[dict[int, float]]:
        """Return how far every string is from its note after each pass, in cents, until none is
        further than it may remain.
        """
        goals = {
            one.number: equal_tempered_hz(after.midi(one.number), a4_hz=a4_hz)
            for one in self._instrument.strings
        }
        lengths, give = dict(self._unstretched), 0.0
        turns = [(n, aims[n]) for n in order]
        others = [n for n in goals if n not in aims]
        ended: list[dict[int, float]] = []
        while len(ended) < MOST_PASSES:
            for number, cents in turns:
                string = self._instrument.string(number)
                strain = strain_at_frequency(string, shifted_by_cents(goals[number], cents=cents))
                held = {number: tension_at_strain(string, strain)}
                give = self._give(lengths, held_n=held, near=give)
                lengths[number] = (string.total_m - give) / (1.0 + strain)
            ended.append(
                {
                    n: cents_between(
                        self._hz(self._instrument.string(n), lengths[n], give),
                        reference_hz=goals[n],
                    )
                    for n in goals
                }
            )
            off = [n for n in (*order, *others) if abs(ended[-1][n]) > UNTOUCHED_CENTS]
            if max(map(abs, ended[-1].values())) <= REMAINS_CENTS:
                break
            turns = [(n, 0.0) for n in off]
        return ended

    def _give(
        self,
        lengths: Mapping[int, float],
        *,
        held_n: Mapping[int, float] | None = None,
        near: float = 0.0,
    ) -> float:
        """Return where the frame comes to rest: give = coupling (total tension - first load).

        By secants from `near`: as the paths shorten the tensions fall, nearly evenly.
        """
        held = held_n or {}
        coupling = self._instrument.frame_compliance_m_per_n

        def excess(give: float) -> float:
            total = 0.0
            for string in self._instrument.strings:
                known = held.get(string.number)
                if known is None:
                    known = tension_at_strain(
                        string, (string.total_m - give) / lengths[string.number] - 1.0
                    )
                total += known
            return coupling * (total - self._load_n) - give

        before, now = near, near + 1e-5
        was, there = excess(before), excess(now)
        for _ in range(ROUNDS):
            if there == was or abs(now - before) < SETTLED_M:
                break
            before, now, was = now, now - there * (now - before) / (there - was), there
            there = excess(now)
        return now

    def _hz(self, string: String, unstretched_m: float, give: float) -> float:
        return frequency_at_strain(string, (string.total_m - give) / unstretched_m - 1.0)


def _cautions(
    instrument: Instrument,
    rows: Sequence[Retuned],
    before_n: float,
    after_n: float,
    passes_cents: Sequence[float],
) -> tuple[str, ...]:
    said = []
    up = [row for row in rows if row.semitones > 0]
    down = [row for row in rows if row.semitones < 0]
    if up:
        likeliest = max(up, key=lambda row: row.breaking_share)
        said.append(
            f"Strings that go up can snap, {likeliest.label} most likely: face turned away, nobody"
            " close, small turns near pitch."
        )
    if up or down:
        said.append("With a child an adult is beside.")
    if (up or down) and any("friction" in string.peg.kind for string in instrument.strings):
        said.append("Push each peg in while you turn it, or it slips back.")
    above = [row for row in up if row.midi_to > instrument.string(row.number).midi]
    if above:
        names = _names(above)
        said.append(
            f"{names} {'goes' if len(above) == 1 else 'go'} above the note the string is made"
            " for; a lighter string would be safer."
        )
    tight = [row for row in rows if row.breaking_share > EVERYDAY_SHARE]
    if tight:
        said.append(
            f"{_names(tight)} will carry more than {EVERYDAY_SHARE:.0%} of a straight new"
            " string’s breaking load; a bent or rusty one may not hold."
        )
    if down:
        said.append("Lowered strings creep up again for a while; tune them once more later.")
    still = [row for row in rows if row.semitones == 0 and abs(row.drift_cents) > UNTOUCHED_CENTS]
    if still:
        most = max(still, key=lambda row: abs(row.drift_cents))
        way = "rise" if most.drift_cents > 0.0 else "sink"
        by = whole_cents(round(abs(most.drift_cents)))
        said.append(
            f"Strings you do not touch {way} too, by up to {by}; go over all of them again."
        )
    sinking = [row for row in rows if row.semitones and row.drift_cents < -UNTOUCHED_CENTS]
    if sinking:
        most = min(sinking, key=lambda row: row.drift_cents)
        by = whole_cents(round(-most.drift_cents))
        said.append(
            f"The first ones sink again as the others go up, by up to {by}; they need another pass."
        )
    if len(passes_cents) > 1:
        first, last = (whole_cents(round(one, 1)) for one in (passes_cents[0], passes_cents[-1]))
        count = len(passes_cents)
        times = TIMES[count] if count < len(TIMES) else f"{count} times"
        said.append(
            f"Go round {times}: after the first pass up to {first} remain, after the last {last}."
        )
    if abs(after_n - before_n) > MUCH_LOAD_SHARE * before_n:
        more = "more" if after_n > before_n else "less"
        said.append(
            f"The instrument carries {abs(after_n - before_n):.0f} N {more}: neck and bridge go on"
            " moving for an hour. If anything creaks or leans, stop and have a repairer look."
        )
    return tuple(said)


def _names(rows: Sequence[Retuned]) -> str:
    return capital(listed([row.label for row in rows]))
