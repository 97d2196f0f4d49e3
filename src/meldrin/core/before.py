"""What a player should know before the first turn: strings, pegs, hands, fork, and what to mind.

One page and one card for each instrument, in an order that can be read aloud.
"""

from dataclasses import dataclass
from typing import Final, assert_never

from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.methods.naming import string_label
from meldrin.core.pitch import Naming, note_name
from meldrin.core.strings import String
from meldrin.core.words import capital, listed


@dataclass(frozen=True, slots=True)
class CardPart:
    """A part of the page: its title and its sentences."""

    title: str
    sentences: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class PegRow:
    """One string on the card: what it is called, its note, and its peg.

    written: what players write for its number.
    where: the place of its peg.
    tightens: which way, as one looks at the end of its knob.
    """

    number: int
    written: str
    label: str
    note: str
    where: str
    tightens: str


SHORT: Final = 0.94  # of the longest: what is shorter begins in the neck
SCREWED_M: Final = 0.0065  # a post so thin stands in a plain hole, held by a screw


def peg_rows(made: Instrument, tuning: Tuning, *, naming: Naming = "letters") -> tuple[PegRow, ...]:
    """Return a row for each string, in the order of their numbers."""
    return tuple(
        PegRow(
            string.number,
            string.written,
            string_label(made, string.number, tuning, naming=naming),
            note_name(tuning.midi(string.number), naming=naming, tonic=tuning.tonic),
            _where(made, string),
            string.peg.tightens,
        )
        for string in made.strings
    )


def before(made: Instrument, tuning: Tuning, *, naming: Naming = "letters") -> tuple[CardPart, ...]:
    """Return what to know and do before tuning this instrument."""
    word = made.strings[0].peg.word
    parts = [
        _names(made, tuning, naming),
        _pegs(made),
        CardPart("Your place", _place(made)),
        CardPart("Your hands", _hands(made)),
    ]
    if any(one.peg.kind == "friction peg" for one in made.strings):
        parts.append(CardPart("A peg that slips", _slipping(made)))
    kinds = {one.fine.kind for one in made.strings if one.fine is not None}
    if "bead" in kinds:
        parts.append(
            CardPart(
                "The beads",
                (
                    "Use them for the last bit: towards the string's end is higher.",
                    f"If one is at its end, bring it to its middle and use the {word}.",
                ),
            )
        )
    if kinds - {"bead"}:
        parts.append(
            CardPart(
                "The fine tuners",
                (
                    "Use them for the last bit: inwards is higher.",
                    f"If one is screwed in far, bring it to its middle and use the {word}.",
                ),
            )
        )
    parts += [
        CardPart(
            "The fork",
            (
                "Hold it by its stem, never by a prong.",
                "Strike it on your knee, never on the instrument or a table.",
                "Set the stem’s foot on the instrument’s body, or hold it near your ear.",
            ),
        ),
        CardPart(
            "Stay safe",
            (
                "A string can snap: turn your face and eyes away while you tighten.",
                "Make small turns, and listen after each.",
                f"If the sound does not follow, stop: you may have the wrong {word}.",
                "If a peg, the neck or the bridge creaks or leans, stop: see a repairer.",
                "A child tunes with an adult beside.",
            ),
        ),
    ]
    return tuple(parts)


def _names(made: Instrument, tuning: Tuning, naming: Naming) -> CardPart:
    playing = [one for one in made.strings if one.role != "sympathetic"]
    names = [string_label(made, one.number, tuning, naming=naming) for one in playing]
    first = "1 is the string nearest the floor as you play."
    if made.kind == "bowed":
        first = "1 is the highest string."
    if playing[-1].scale_m < SHORT * playing[0].scale_m:
        first = f"{first[:-1]}; {playing[-1].written} is the short one."
    said = [f"From 1 to {len(playing)}: {listed(names)}.", first]
    if len({one.course for one in made.strings}) < len(made.strings):
        said.append("Two strings lie side by side as a pair, and sound as one.")
    if len(playing) < len(made.strings):
        said.append("The sympathetic strings lie under the frets and ring by themselves.")
    return CardPart("The strings", tuple(said))


def _pegs(made: Instrument) -> CardPart:
    ways = {one.peg.tightens for one in made.strings}
    word = made.strings[0].peg.word
    said = [f"Follow each string with a finger to its own {word} before you turn."]
    if len(ways) == 1:
        said.append(f"Look at the end of its knob: {ways.pop()} tightens.")
    else:
        said.append("Look at the end of its knob; the table says which way tightens.")
    said.append("Left and right are as you look at its front, the head up.")
    said.append("Yours may be strung the other way: turn a little and listen.")
    return CardPart(f"Which {word}, which way", tuple(said))


def _place(made: Instrument) -> tuple[str, ...]:
    match made.posture:
        case "chin":
            return (
                "Sit, and stand the instrument on your knee, its front towards you.",
                "Later you can tune it under your chin.",
            )
        case "upright":
            return ("Sit or stand as you play, the pegs in sight and the spike held fast.",)
        case "floor":
            return ("Sit on the floor as you play, the neck at a slant before you.",)
        case "lap":
            return ("Sit as you play, the instrument on your lap or on its strap.",)
        case _:
            assert_never(made.posture)


def _hands(made: Instrument) -> tuple[str, ...]:
    left = "If you play left-handed, swap the two."
    if made.kind == "bowed":
        return (
            "Bow with your right hand and turn with your left.",
            "At first somebody may bow for you, or you pluck with your thumb.",
            left,
        )
    return ("Pluck with your right hand and turn with your left, while it rings.", left)


def _slipping(made: Instrument) -> tuple[str, ...]:
    if made.strings[0].peg.post_m < SCREWED_M:
        return (
            "A small screw in its knob holds it: a little tighter, and it holds.",
            "If it still slips or sticks, take it to a repairer.",
        )
    return (
        "Push the peg in while you turn it, as you would a cork.",
        "Hold the other side of the head with your free fingers.",
        "Turn a little at a time, and listen after each turn.",
        "If it still slips or sticks, a repairer helps with a little peg paste.",
    )


def _where(made: Instrument, string: String) -> str:
    longest = max(one.scale_m for one in made.strings)
    if string.scale_m < SHORT * longest:
        return "in the side of the neck, where the string begins"
    same = [
        one
        for one in made.strings
        if one.peg.side == string.peg.side and one.scale_m >= SHORT * longest
    ]
    if string.peg.side == "bass":
        same.reverse()
    place = [one.number for one in same].index(string.number) + 1
    sides = {one.peg.side for one in made.strings if one.scale_m >= SHORT * longest}
    side = "" if len(sides) == 1 else f"{'right' if string.peg.side == 'treble' else 'left'} side, "
    return side + _counted(place, len(same))


def _counted(place: int, count: int) -> str:
    if place == 1:
        return "nearest the strings"
    if place == count:
        return "at the far end"
    return {2: "second", 3: "third", 4: "fourth", 5: "fifth"}.get(place, str(place)) + " from there"


def title(made: Instrument) -> str:
    """Return the title of the card."""
    return f"Before you start: {capital(made.short_name)}"
