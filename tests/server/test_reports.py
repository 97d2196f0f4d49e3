"""Files out: plans, retunings and adjustments as records, sentences and PDF."""

import io
import json
import unittest
from dataclasses import asdict
from functools import partial
from typing import Any

from pypdf import PdfReader
from reportlab.pdfbase.pdfmetrics import getFont, stringWidth

from meldrin.core.adjust import Observation, adjust
from meldrin.core.budget import EARS, expected
from meldrin.core.catalogue import instrument, instruments
from meldrin.core.methods import METHODS, Wanted, plan_by, serves
from meldrin.core.retune import retune
from meldrin.core.temperament import Temperament
from meldrin.reports.adjust_record import adjustment_record, adjustment_sentences
from meldrin.reports.catalogue import instrument_page, retuning_page
from meldrin.reports.paper import BOLD, PLAIN
from meldrin.reports.plan import PlanPage, plan_page
from meldrin.reports.plan_pdf import plan_pdf
from meldrin.reports.shape import number
from meldrin.reports.slips_pdf import PrintedSlip, slips_pdf
from meldrin.services.prepare import Asked, plan_for


def record(name: str, method: str, temperament: Temperament | None = None) -> dict[str, Any]:
    return asdict(page(name, method, temperament))


def page(name: str, method: str, temperament: Temperament | None = None) -> PlanPage:
    made = instrument(name)
    plan = plan_by(method, Wanted(made, made.tuning(), temperament=temperament))
    return plan_page(plan, expected(plan, EARS["practised"]))


class Plans(unittest.TestCase):
    def test_every_plan_is_plain_json_and_says_the_same_of_each_string_twice(self) -> None:
        for made in instruments():
            for method in METHODS:
                if not serves(method, Wanted(made, made.tuning())):
                    continue
                found = record(made.id, method)
                with self.subTest(instrument=made.id, method=method):
                    self.assertEqual(json.loads(json.dumps(found, allow_nan=False)), found)
                    numbers = [one["number"] for one in found["strings"]]
                    self.assertEqual(
                        numbers, [one["number"] for one in found["expected"]["strings"]]
                    )
                    self.assertEqual(
                        sorted(step["own"]["string"] for step in found["steps"]), numbers
                    )
                    for step in found["steps"]:
                        self.assertEqual(step["kind"], "step")
                        self.assertTrue(step["instruction"].endswith("."))
                        self.assertTrue(step["caution"])

    def test_sides_of_a_comparison(self) -> None:
        def sides(name: str, method: str, step: int) -> list[dict[str, Any]]:
            found = record(name, method)["steps"][step]
            return [found["own"], found["other"]]

        touched = sides("cello", "harmonics", 1)
        self.assertEqual([side["node_share"] for side in touched], [0.333333, 0.5])
        self.assertEqual([side["fret"] for side in touched], [None, None])
        stopped = sides("bass", "unison", 1)
        self.assertEqual([side["fret"] for side in stopped], [0, 5])
        self.assertEqual([side["node_share"] for side in stopped], [None, None])
        fork = sides("violin", "fifths", 0)[1]
        self.assertEqual((fork["string"], fork["fret"], fork["hz"]), (None, None, 440.0))

    def test_the_temperament_in_words(self) -> None:
        self.assertEqual(record("guitar", "harmonics")["temperament"], "pure intervals")
        self.assertEqual(record("violin", "fifths")["temperament"], "pure fifths")
        self.assertEqual(record("sitar", "drone")["temperament"], "just over the tonic")
        for cents, words in ((-1.0, "fifths 1.0 cent narrower"), (2.5, "fifths 2.5 cents wider")):
            own = Temperament("fifths", fifth_cents=cents)
            self.assertIn(words, record("violin", "fifths", own)["temperament"])

    def test_a_sweetened_plan_keeps_its_reason(self) -> None:
        asked = Asked("guitar", method="tuner", temperament="sweetened", tonic="G")
        planned = plan_for(asked, instrument("guitar"))
        found = asdict(plan_page(planned.plan, planned.expected))
        self.assertEqual(found["temperament"], "chosen offsets: sweetened for G")
        by_number = {one["number"]: one["equal_cents"] for one in found["strings"]}
        # B is the third over G: half of -13.686; the G itself stays
        self.assertAlmostEqual(by_number[2], -6.843, places=3)
        self.assertEqual(by_number[3], 0.0)

    def test_no_negative_zero(self) -> None:
        self.assertEqual(str(number(-0.0)), "0.0")
        self.assertEqual(str(number(-1e-9)), "0.0")


def measured(sizes: list[float], text: str, _cm: Any, _tm: Any, _font: Any, size: float) -> None:
    """Take down how large a text is printed."""
    if text.strip():
        sizes.append(size)


class Cards(unittest.TestCase):
    def pages(self, name: str, method: str) -> list[str]:
        reader = PdfReader(io.BytesIO(plan_pdf(page(name, method))))
        return [page.extract_text() for page in reader.pages]

    def test_all_there_is_to_do_is_on_the_first_page_up_to_six_strings(self) -> None:
        for made in instruments():
            if len(made.strings) > 6:
                continue
            for method in METHODS:
                if serves(method, Wanted(made, made.tuning())):
                    with self.subTest(instrument=made.id, method=method):
                        first, second = self.pages(made.id, method)
                        for step in page(made.id, method).steps:
                            self.assertIn(step.title.split(",")[0], first.replace("\n", " "))
                        self.assertIn("The result", second)

    def test_it_is_read_from_a_music_stand(self) -> None:
        for name, method in (("violin", "fifths"), ("sitar", "drone")):
            smallest: list[float] = []
            for sheet in PdfReader(io.BytesIO(plan_pdf(page(name, method)))).pages:
                sheet.extract_text(visitor_text=partial(measured, smallest))
            self.assertGreaterEqual(min(smallest), 12.0, name)

    def test_twenty_strings_take_more_pages_and_lose_nothing(self) -> None:
        pages = self.pages("sitar", "drone")
        self.assertLessEqual(len(pages), 6)
        words = " ".join(pages)
        for label in ("T1 (", "T13 (", "Sympathetic Ma:", "Highest Sa:", "15/8 over the tonic"):
            self.assertIn(label, words)

    def test_every_step_and_its_caution_once(self) -> None:
        first, _ = self.pages("violin", "fifths")
        self.assertEqual(first.count("Push the peg in"), 1)
        for title in ("A from the fork", "E from A", "D from A", "G from D"):
            self.assertIn(title, first)


class Type(unittest.TestCase):
    def test_a_name_in_greek_cyrillic_or_vietnamese_is_printed_in_letters_not_boxes(self) -> None:
        names = ("Żaneta O’Größe", "Νίκη", "Зоя Їжак", "Hiền Đỗ")
        slips = [
            PrintedSlip(name, name, ("boat", "owl", "kite", "drum"), "CDFG", "address")
            for name in names
        ]
        (page,) = PdfReader(io.BytesIO(slips_pdf(slips, heading="H", address="a"))).pages
        words = page.extract_text()
        for name in names:
            self.assertIn(name, words)
            for type_ in (PLAIN, BOLD):
                font: Any = getFont(type_)
                self.assertEqual([one for one in name if ord(one) not in font.face.charToGlyph], [])

    def test_what_is_bold_is_printed_bold(self) -> None:
        for printed in (
            slips_pdf([PrintedSlip("Oda", "Oda", ("boat",), "CD", "a")], heading="H", address="a"),
            plan_pdf(page("violin", "fifths")),
        ):
            sheet = PdfReader(io.BytesIO(printed)).pages[0]
            fonts: Any = sheet["/Resources"]["/Font"]  # type: ignore[index]
            named = {str(one.get_object()["/BaseFont"]).split("-")[-1] for one in fonts.values()}
            self.assertLessEqual({"Regular", "Bold"}, named)
            self.assertGreater(stringWidth("mmm", BOLD, 10.0), stringWidth("mmm", PLAIN, 10.0))


class Retunings(unittest.TestCase):
    def test_the_keys_of_a_row(self) -> None:
        made = instrument("guitar")
        change = retune(made, before=made.tuning(), after=made.tuning("open-g"), a4_hz=440.0)
        found = asdict(retuning_page(change))
        self.assertLessEqual(
            {"number", "from_note", "to_note", "semitones", "tension_before_n", "tension_after_n"},
            set(found["strings"][0]),
        )
        notes = [(row["from_note"], row["to_note"]) for row in found["strings"]]
        self.assertEqual(notes[0], ("E4", "D4"))
        self.assertEqual(notes[4], ("A2", "G2"))
        self.assertAlmostEqual(
            found["load_change_n"], found["load_after_n"] - found["load_before_n"], places=5
        )


class Adjustments(unittest.TestCase):
    def loop(self, gap: float) -> list[Observation]:
        return [
            Observation(40, 45, 1.0, cents=0.0),
            Observation(45, 50, 1.0, cents=0.0),
            Observation(40, 50, 1.0, cents=gap),
        ]

    def test_agreement(self) -> None:
        said = adjustment_sentences(adjust(self.loop(1.0)))
        self.assertEqual(said, ["All comparisons agree within their errors."])

    def test_nothing_checked(self) -> None:
        said = adjustment_sentences(adjust(self.loop(0.0)[:2]))
        self.assertIn("Nothing closes a loop yet", said[0])

    def test_not_to_be_told_apart(self) -> None:
        found = adjust(self.loop(9.0))
        said = adjustment_sentences(found)
        # a gap of 9 over three of 1 cent: 9 / sqrt 3 times as much
        self.assertIn("your comparisons scatter 5.2 times as much as you said", said[0])
        self.assertIn("A further check of", said[1])
        kept = adjustment_record(found)
        self.assertEqual(kept["suspects"], [])
        self.assertEqual(json.loads(json.dumps(kept, allow_nan=False)), kept)

    def test_one_culprit(self) -> None:
        rows = [*self.loop(9.0), Observation(40, 50, 1.0, cents=0.0)]
        rows.append(Observation(40, 50, 1.0, cents=0.2))
        said = adjustment_sentences(adjust(rows))
        self.assertEqual(said[0], "E2-D3 is likely wrong: measure it again.")

    def test_more_than_one_direction_fits(self) -> None:
        # two unsigned beats that may go either way with the third
        rows = [
            Observation(40, 45, 0.5, (4, 3), beats_hz=0.2),
            Observation(45, 50, 0.5, (4, 3), beats_hz=0.2),
            Observation(40, 50, 3.0, cents=0.0),
        ]
        found = adjust(rows)
        self.assertGreater(len(found.choices), 1)
        said = adjustment_sentences(found)
        self.assertIn("do not tell which way", said[0])
        self.assertRegex(said[1], "^Possible: E2-A2 (wide|narrow), A2-D3 (wide|narrow)")
        self.assertRegex(said[-1], "A check of .* would decide it")


class Catalogue(unittest.TestCase):
    def test_what_is_said_of_an_instrument(self) -> None:
        found = asdict(instrument_page(instrument("cello")))
        self.assertEqual((found["kind"], found["fretting"], found["frets"]), ("bowed", "none", 0))
        low = found["strings"][3]
        self.assertEqual(
            (low["note"], low["fine_tuner"], low["scale_mm"]), ("C2", "tail lever", 690)
        )
        self.assertEqual(found["tunings"][0]["notes"], "C2 G2 D3 A3")
