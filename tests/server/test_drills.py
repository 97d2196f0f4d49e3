"""A sitting over its line: what is told, what is kept, and what is known by who reads all of it."""

import base64
from typing import Any

import numpy as np

from meldrin.core.drills import DRILLS, MEASURED
from tests.server.base import ServerTest

BEFORE_JUDGED = {"kind", "number", "scene", "sounds", "trial", "example", "rate", "samples"}


class Drills(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        self.number = 0
        self.waited_s = 0.0

    def sitting(self, **wanted: Any) -> str:
        reply = self.client.post("/api/drills", json={"drill": "higher", "string": 3, **wanted})
        self.assertEqual(reply.status_code, 201, reply.text)
        return str(reply.json()["id"])

    def act(self, socket: Any, action: dict[str, Any], *, until: str) -> list[dict[str, Any]]:
        """Do something; all that is told up to a kind of message, but for what is saved."""
        self.number += 1
        socket.send_json(
            {
                "kind": "act",
                "number": self.number,
                "at_s": self.number + self.waited_s,
                "action": action,
            }
        )
        told: list[dict[str, Any]] = []
        while not told or told[-1]["kind"] != until:
            message = socket.receive_json()
            if message["kind"] != "saved":
                told.append(message)
        return told

    def sit_through(
        self,
        sitting: str,
        answer: Any,
        *,
        trials: int = 8,
        end: bool = True,
        amount: float | None = None,
    ) -> tuple[list[list[dict[str, Any]]], list[dict[str, Any]]]:
        """Go through a sitting; what was told before each judgement, and each truth."""
        before, truths = [], []
        with self.client.websocket_connect(f"/api/drills/{sitting}/line") as socket:
            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            self.assertEqual(socket.receive_json()["kind"], "welcome")
            told = self.act(socket, {"kind": "start_trials"}, until="now")
            for trial in range(trials):
                if told[-1]["scene"]["asked"]["parts"]:
                    told += self.act(socket, {"kind": "hear_trial"}, until="sound")
                before.append(told)
                judged = {"kind": "judge_trial", "answer": answer(told[-1]), "sure": "sure"}
                if amount is not None:
                    judged["amount"] = amount
                (now,) = self.act(socket, judged, until="now")
                truths.append(now["scene"]["truth"])
                if trial + 1 < trials:
                    told = self.act(socket, {"kind": "next_trial"}, until="now")
            if end:
                self.act(socket, {"kind": "end_sitting"}, until="now")
            while socket.receive_json() != {"kind": "saved", "number": self.number}:
                pass
        return before, truths

    def test_nothing_is_told_before_the_judgement_but_the_sound(self) -> None:
        """Somebody who reads everything: by length, size, name, order or number all trials are the
        same, whatever their truths are.
        """
        for drill in MEASURED:
            if drill.id in ("way", "hold"):  # they play tables, as the bench does
                continue
            with self.subTest(drill.id):
                interval = "fifth" if drill.id == "width" else "unison"
                sitting = self.sitting(drill=drill.id, interval=interval, trials=12)
                amount = 2.0 if drill.id == "count" else None
                page = self.client.get(f"/api/drills/{sitting}")
                self.assertIsNone(page.json()["result"])
                self.assertNotIn("seed", page.text)
                before, truths = self.sit_through(sitting, lambda _: 1, trials=12, amount=amount)
                told_of = "says" if amount else "answer"
                self.assertGreaterEqual(len({one[told_of] for one in truths}), 2)
                seen = set()
                for told in before:
                    for message in told:
                        self.assertLessEqual(set(message), BEFORE_JUDGED)
                        self.assertFalse(message.get("sounds"))
                        if "scene" in message:
                            scene = {**message["scene"], "number": 0}
                            self.assertIsNone(scene["truth"])
                            seen.add(str(sorted(scene.items())))
                    seen.add(str([message["kind"] for message in told]))
                    seen.add(str({one: len(str(told[-1][one])) for one in ("samples", "rate")}))
                # asked and asked again when heard: two scenes; one order; one size
                self.assertEqual(len(seen), 4, seen)

    def test_a_question_tells_its_answer_by_nothing_but_what_is_asked(self) -> None:
        """Of two trials that ask the same in other words, all is alike but the words, the picture
        and the samples; where the strings and the pegs are, nothing says which way they turn.
        """
        for drill in ("which", "names", "readings", "alone", "whole"):
            with self.subTest(drill):
                sitting = self.sitting(drill=drill, trials=12)
                page = self.client.get(f"/api/drills/{sitting}")
                self.assertNotIn("seed", page.text)
                self.assertNotIn("tightens", page.text)
                before, truths = self.sit_through(sitting, lambda _: 0, trials=12)
                self.assertGreaterEqual(len({one["answer"] for one in truths}), 2)
                sizes: dict[tuple[str, ...], set[int]] = {}
                for told in before:
                    scene = next(one for one in told[::-1] if "scene" in one)["scene"]
                    self.assertIsNone(scene["truth"])
                    for part in scene["asked"]["parts"]:
                        self.assertIsNone(part["cents"])
                        self.assertIsNone(part["beats_hz"])
                    sound = next((one for one in told if one["kind"] == "sound"), None)
                    names = tuple(part["name"] for part in scene["asked"]["parts"])
                    size = len(sound["samples"]) if sound else 0
                    sizes.setdefault(names, set()).add(size)
                for names, found in sizes.items():
                    self.assertEqual(len(found), 1, (drill, names))
                result = self.client.get(f"/api/drills/{sitting}").json()["result"]
                self.assertEqual(result["right"], sum(one["answer"] == 0 for one in truths))
                self.assertIsNone(result["middle"])

    def test_a_string_is_turned_over_the_line_and_waits_for_its_note(self) -> None:
        sitting = self.sitting(drill="hold")
        with self.client.websocket_connect(f"/api/drills/{sitting}/line") as socket:
            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            socket.receive_json()
            self.act(socket, {"kind": "start_trials"}, until="now")
            (heard,) = self.act(socket, {"kind": "hear_trial"}, until="now")
            turn = heard["scene"]["asked"]["turn"]
            starts = [one for one in heard["sounds"] if one["kind"] == "start"]
            begins_s = max(one["delay_s"] for one in starts)
            self.assertEqual(turn["begins_s"], begins_s)
            self.assertIsNone(heard["scene"]["truth"])
            (refused,) = self.act(socket, {"kind": "turn_trial", "steps": 1}, until="refused")
            self.assertEqual(refused["code"], "not_heard")
            self.waited_s += begins_s
            (turned,) = self.act(socket, {"kind": "turn_trial", "steps": -3}, until="now")
            self.assertEqual(turned["scene"]["steps"], -3)
            (glide,) = turned["sounds"]
            string = max(starts, key=lambda one: one["delay_s"])
            self.assertEqual((glide["kind"], glide["voice"]), ("retune", string["voice"]))
            ratio = glide["fundamental_hz"] / string["table"]["fundamental_hz"]
            self.assertAlmostEqual(1200.0 * np.log2(ratio), -6.0, places=3)
            judged = {"kind": "judge_trial", "answer": 0, "sure": "guess"}
            (now,) = self.act(socket, judged, until="now")
            truth = now["scene"]["truth"]
            self.assertRegex(truth["says"], "^You (left it [0-9]+ cents? (low|high)|brought)")
            # now it is samples: the note, and the string as it was left
            *_, sound = self.act(socket, {"kind": "hear_trial"}, until="sound")
            samples = np.frombuffer(base64.b64decode(sound["samples"]), "<i2") / 32768.0
            rate, (first, second) = sound["rate"], truth["parts"]
            one, other = (
                samples[int((part["begin_s"] + 0.1) * rate) : int((part["end_s"] - 0.2) * rate)]
                for part in (first, second)
            )
            cents = 1200.0 * np.log2(pitch_hz(other, rate) / pitch_hz(one, rate))
            self.assertAlmostEqual(float(cents), second["cents"], delta=2.0)

    def test_a_sitting_that_was_left_is_offered_again_and_counts(self) -> None:
        sitting = self.sitting(trials=12)
        self.sit_through(sitting, lambda _: 1, trials=6, end=False)
        (left,) = self.client.get("/api/drills").json()["left"]
        self.assertEqual((left["id"], left["drill"]), (sitting, "higher"))
        self.assertIn("viola", left["name"])
        again = self.sitting(trials=8)
        self.sit_through(again, lambda _: 1)
        result = self.client.get(f"/api/drills/{again}").json()["result"]
        self.assertIsNotNone(result["before"])

    def test_the_samples_are_what_the_truth_says(self) -> None:
        sitting = self.sitting(trials=8)
        before, truths = self.sit_through(sitting, lambda _: 1)
        for told, truth in zip(before, truths, strict=True):
            self.assertAlmostEqual(_second_above_cents(told[-1]), truth["difference"], delta=2.0)

    def test_the_result_is_there_when_it_is_over_and_the_next_one_goes_on(self) -> None:
        sitting = self.sitting(trials=8)
        said: list[int] = []

        def listen(sound: dict[str, Any]) -> int:
            said.append(int(_second_above_cents(sound) > 0.0))
            return said[-1]

        _, truths = self.sit_through(sitting, listen)
        result = self.client.get(f"/api/drills/{sitting}").json()["result"]
        self.assertEqual(len(result["trials"]), 8)
        right = [one["answer"] == answer for one, answer in zip(truths, said, strict=True)]
        self.assertEqual(result["right"], sum(right))
        self.assertIsNone(result["before"])
        listed = self.client.get("/api/drills").json()
        self.assertEqual([one["id"] for one in listed["drills"]], list(DRILLS))
        (heard,) = listed["heard"]
        self.assertEqual((heard["drill"], heard["known_by"]), ("higher", "middle"))
        self.assertAlmostEqual(heard["middle"], result["middle"], places=6)
        again = self.sitting(trials=8)
        self.sit_through(again, lambda _: 1)
        before = self.client.get(f"/api/drills/{again}").json()["result"]["before"]
        self.assertAlmostEqual(before / result["middle"], 1.0, delta=0.05)
        other = self.sitting(trials=8, string=1)  # in another register nothing is known yet
        self.sit_through(other, lambda _: 1)
        self.assertIsNone(self.client.get(f"/api/drills/{other}").json()["result"]["before"])

    def test_it_is_resumed_where_it_was_left(self) -> None:
        sitting = self.sitting(trials=8)
        with self.client.websocket_connect(f"/api/drills/{sitting}/line") as socket:
            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            socket.receive_json()
            self.act(socket, {"kind": "start_trials"}, until="now")
            first = self.act(socket, {"kind": "hear_trial"}, until="sound")[-1]
            while socket.receive_json() != {"kind": "saved", "number": self.number}:
                pass
        with self.client.websocket_connect(f"/api/drills/{sitting}/line") as socket:
            socket.send_json({"kind": "hello", "tab": "tab-0002"})
            scene = socket.receive_json()["scene"]
            self.assertEqual((scene["stage"], scene["number"], scene["listens"]), ("asked", 1, 1))
            again = self.act(socket, {"kind": "hear_trial"}, until="sound")[-1]
            self.assertEqual(first["samples"], again["samples"])

    def test_what_cannot_be_is_refused_in_a_sentence(self) -> None:
        for wanted, status in (
            ({"drill": "nothing"}, 422),
            ({"drill": "higher", "string": 9}, 404),
            ({"drill": "higher", "interval": "fifth"}, 422),
            ({"drill": "higher", "instrument": "theremin"}, 404),
            ({"drill": "higher", "trials": 21}, 422),
        ):
            reply = self.client.post("/api/drills", json={"instrument": "viola", **wanted})
            self.assertEqual(reply.status_code, status, reply.text)
            self.assertTrue(reply.json()["detail"].endswith("."), reply.text)
        # an attempt at the bench is no sitting, and a sitting no attempt at the bench
        self.assertEqual(self.client.get(f"/api/drills/{self.begin()}").status_code, 404)
        self.assertEqual(self.client.get(f"/api/attempts/{self.sitting()}").status_code, 404)


def pitch_hz(samples: Any, rate: int) -> float:
    """Return where the first partial of a G lies, by a long transform and a parabola."""
    windowed = samples * np.hanning(len(samples))
    spectrum = np.abs(np.fft.rfft(windowed, 8 * len(samples)))
    hz = np.fft.rfftfreq(8 * len(samples), 1 / rate)
    near = (hz > 150.0) & (hz < 235.0)
    at = int(np.argmax(np.where(near, spectrum, 0.0)))
    low, middle, high = np.log(spectrum[at - 1 : at + 2])
    return float(hz[at] + 0.5 * (low - high) / (low - 2 * middle + high) * (hz[1] - hz[0]))


def _second_above_cents(sound: dict[str, Any]) -> float:
    """Return how far the second note that was sent lies above the first."""
    samples = np.frombuffer(base64.b64decode(sound["samples"]), "<i2") / 32768.0
    rate = sound["rate"]
    first, second = samples[: int(1.1 * rate)], samples[int(1.6 * rate) : int(2.7 * rate)]
    return float(1200.0 * np.log2(pitch_hz(second, rate) / pitch_hz(first, rate)))
