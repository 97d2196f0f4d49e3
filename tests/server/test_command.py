import json
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import zipfile
from pathlib import Path
from typing import Any

import httpx2
import psutil

from meldrin import __version__

ROOT = Path(__file__).resolve().parents[2]
WELL = {"live": True, "ready": True, "trouble": None}


def tuned(client: httpx2.Client) -> int:
    """How many attempts at the bench there are; a server that is busy is asked again."""
    for _ in range(120):
        reply = client.get("/api/attempts?practice=bench")
        if reply.status_code != 503:
            break
        time.sleep(0.5)
    return len(reply.json()["attempts"])


class CommandTest(unittest.TestCase):
    def setUp(self) -> None:
        self.state = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin test ")))

    def command(self, *words: str, state: Path | None = None) -> subprocess.Popen[str]:
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        environment["MELDRIN_STATE"] = str(state or self.state)
        process = subprocess.Popen(
            [sys.executable, "-m", "meldrin", *words],
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )

        def end() -> None:
            if process.poll() is None:
                process.send_signal(signal.SIGINT)
            process.communicate(timeout=30)

        self.addCleanup(end)
        return process

    def address(self, process: subprocess.Popen[str]) -> str:
        assert process.stdout is not None
        found = re.search(r"http://127\.0\.0\.1:\d+", process.stdout.readline())
        assert found is not None
        return found.group(0)


class Starting(CommandTest):
    def test_a_second_start_says_where_it_runs_and_another_folder_is_not_disturbed(self) -> None:
        first = self.address(self.command("start", "--port", "0"))
        again = self.command("start", "--port", "0")
        out, _ = again.communicate(timeout=30)
        self.assertIn(f"runs already. Open {first}", out)
        self.assertEqual(again.returncode, 0)
        elsewhere = Path(self.enterContext(tempfile.TemporaryDirectory()))
        other = self.address(self.command("start", "--port", "0", state=elsewhere))
        self.assertNotEqual(first, other)
        for address in (first, other):
            self.assertEqual(httpx2.get(f"{address}/api/health").json(), WELL)

    def test_being_ended_it_stops_everything_it_started(self) -> None:
        before = signal.signal(signal.SIGHUP, signal.SIG_DFL)  # as in a terminal, not under nohup
        self.addCleanup(signal.signal, signal.SIGHUP, before)
        for how in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP, signal.SIGQUIT):
            process = self.command("start", "--port", "0")
            address = self.address(process)
            database = int((self.state / "database" / "server.pid").read_text())
            self.assertTrue(psutil.pid_exists(database))
            process.send_signal(how)
            process.communicate(timeout=30)
            self.assertFalse(psutil.pid_exists(database), how)
            with self.assertRaises(httpx2.TransportError):
                httpx2.get(address)

    def test_interrupted_at_any_moment_of_the_first_start_the_next_one_comes_up_whole(self) -> None:
        # not handed down as ignored, as under nohup: it may come before the first line of ours runs
        before = signal.signal(signal.SIGINT, signal.default_int_handler)
        self.addCleanup(signal.signal, signal.SIGINT, before)
        for after_s in (0.15, 0.4, 0.8, 1.2, 1.7, 2.3, 3.0, 4.0):
            process = self.command("demo", "--port", "0")
            time.sleep(after_s)
            process.send_signal(signal.SIGINT)
            process.communicate(timeout=60)
        process = self.command("demo", "--port", "0")
        self.addCleanup(process.communicate)
        self.addCleanup(process.terminate)
        address = self.address(process)
        assert process.stdout is not None
        door = process.stdout.readline().rsplit(" ", 1)[-1].strip()
        with httpx2.Client(base_url=address, follow_redirects=True, trust_env=False) as client:
            client.get(door)
            self.assertEqual(tuned(client), 14)
        teacher = re.search(r"http://\S+/enter/\S+", process.stdout.readline())
        assert teacher is not None
        with httpx2.Client(base_url=address, follow_redirects=True) as client:
            client.get(teacher.group(0))
            (studio,) = client.get("/api/studios").json()
            self.assertEqual((studio["name"], studio["role"]), ("Skerrow Boathouse", "owner"))
            page = client.get(f"/api/studios/{studio['id']}").json()
            pupils = [one for one in page["members"] if one["role"] == "pupil"]
            self.assertEqual(len(pupils), 9)
            given = client.get(f"/api/studios/{studio['id']}/given").json()["given"]
            self.assertEqual([(one["done"], one["of"]) for one in given], [(1, 2), (6, 7)])

    def test_a_second_start_during_the_first_tells_its_address_and_no_older_one(self) -> None:
        (self.state / "serving.json").write_text('{"address": "http://127.0.0.1:1", "pid": 1}')
        first = self.command("start", "--port", "0")
        while (self.state / "serving.json").read_text():
            time.sleep(0.02)  # until it has begun; it does not serve yet
        second = self.command("start", "--port", "0")
        self.assertIn(
            f"runs already. Open {self.address(first)}", second.communicate(timeout=90)[0]
        )
        first.send_signal(signal.SIGINT)
        first.communicate(timeout=30)
        self.assertEqual((self.state / "serving.json").read_text(), "")

    def test_workers_end_with_their_parent_however_it_ends(self) -> None:
        for how in (signal.SIGTERM, signal.SIGKILL):
            process = self.command("start", "--port", "0", "--workers", "2")
            address = self.address(process)
            self.assertEqual(httpx2.get(f"{address}/api/health", trust_env=False).json(), WELL)
            all_of_them = psutil.Process(process.pid).children(recursive=True)
            workers = [one for one in all_of_them if one.name() != "mariadbd"]
            self.assertGreaterEqual(len(workers), 2)
            process.send_signal(how)
            process.communicate(timeout=30)
            _, alive = psutil.wait_procs(workers, timeout=30)
            self.assertEqual(alive, [], how)
        # what a kill left of the database is found again, and ends in order
        self.address(last := self.command("start", "--port", "0"))
        last.send_signal(signal.SIGTERM)
        last.communicate(timeout=30)

    def test_nohup_in_the_background_of_a_shell_it_ends_as_anywhere(self) -> None:
        # such a shell hands SIGINT down as ignored
        environment = {
            **os.environ,
            "PYTHONPATH": str(ROOT / "src"),
            "MELDRIN_STATE": str(self.state),
        }
        shell = subprocess.run(
            [
                "sh",
                "-c",
                'nohup "$0" -m meldrin start --port 0 >out 2>&1 & echo $!',
                sys.executable,
            ],
            cwd=self.state,
            env=environment,
            capture_output=True,
            text=True,
            check=True,
        )
        process = psutil.Process(int(shell.stdout))
        deadline = time.monotonic() + 60
        while "is ready" not in (self.state / "out").read_text():
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.05)
        database = int((self.state / "database" / "server.pid").read_text())
        process.send_signal(signal.SIGINT)
        while psutil.pid_exists(database):
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.05)

    def test_the_demo_prints_a_door_to_its_pupil(self) -> None:
        process = self.command("demo", "--port", "0")
        address = self.address(process)
        assert process.stdout is not None
        door = re.search(r"http://\S+/enter/\S+", process.stdout.readline())
        assert door is not None
        with httpx2.Client(base_url=address, follow_redirects=True) as client:
            client.get(door.group(0))
            self.assertEqual(tuned(client), 14)

    def test_secrets_are_readable_by_their_owner_only(self) -> None:
        self.address(self.command("demo", "--port", "0"))
        for name in ("demo-secret", "database/access.json", "database/grants.sql"):
            self.assertEqual((self.state / name).stat().st_mode & 0o077, 0, name)


class Refusing(CommandTest):
    def refusal(self, *words: str, **environment: str) -> str:
        done = subprocess.run(
            [sys.executable, "-m", "meldrin", *words],
            env={
                **os.environ,
                "PYTHONPATH": str(ROOT / "src"),
                "MELDRIN_STATE": str(self.state),
                **environment,
            },
            capture_output=True,
            text=True,
            timeout=60,
            check=False,
        )
        self.assertEqual(done.returncode, 2)
        self.assertNotIn("Traceback", done.stderr)
        return done.stderr

    def test_ports_and_databases_that_are_none(self) -> None:
        self.assertIn("Port 99999 is not one", self.refusal("start", "--port", "99999"))
        self.assertIn("invalid int value", self.refusal("start", "--port", "high"))
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = str(taken.getsockname()[1])
            self.assertIn(
                f"Port {port} cannot be had at 127.0.0.1: Address already in use",
                self.refusal("start", "--port", port),
            )
        self.assertIn("Choose 1 to 64 workers", self.refusal("start", "--workers", "0"))
        self.assertIn("go together", self.refusal("start", "--certificate", "/etc/hostname"))
        self.assertIn(
            "/no/file cannot be read",
            self.refusal("start", "--certificate", "/no/file", "--key", "/no/file"),
        )
        self.assertIn(
            "must be MariaDB", self.refusal("start", MELDRIN_DATABASE_URL="sqlite:///x.db")
        )
        self.assertIn(
            "The database cannot be reached",
            self.refusal(
                "start", MELDRIN_DATABASE_URL="mariadb+pymysql://nobody:no@127.0.0.1:1/none"
            ),
        )
        self.assertIn("invalid choice", self.refusal("sing"))
        self.assertIn("required", self.refusal())


class Computing(unittest.TestCase):
    def run_command(self, *words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "meldrin", *words],
            env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
            capture_output=True,
            text=True,
            timeout=60,
            check=False,
        )

    def record(self, *words: str) -> Any:
        done = self.run_command(*words, "--json")
        self.assertEqual(done.returncode, 0, done.stderr)
        return json.loads(done.stdout)

    def test_a_plan_as_json(self) -> None:
        plan = self.record("plan", "guitar", "--method", "harmonics")
        self.assertLessEqual(
            {"instrument", "tuning", "method", "a4_hz", "strings", "steps", "checks", "expected"},
            set(plan),
        )
        low_e = plan["strings"][5]
        self.assertLessEqual(
            {"number", "course", "note", "frequency_hz", "equal_cents", "stiff_cents", "tension_n"},
            set(low_e),
        )
        self.assertAlmostEqual(low_e["equal_cents"], 1.955, places=3)
        step = plan["steps"][1]
        self.assertEqual(step["index"], 2)
        # a third and a quarter of the string: 12 log2(3/2) and 12 log2(4/3) frets from the nut
        third = {"node_fret": 7.01955, "node_share": 0.333333}
        fourth = {"node_fret": 4.98045, "node_share": 0.25}
        self.assertEqual(
            [step["own"], step["other"]],
            [
                {"string": 4, "fret": None, "partial": 3, "hz": None, **third},
                {"string": 5, "fret": None, "partial": 4, "hz": None, **fourth},
            ],
        )
        self.assertIn("chain_sd_cents", plan["expected"])

    def test_a_plan_in_words(self) -> None:
        done = self.run_command("plan", "viola", "--method", "fifths", "--a4", "442")
        self.assertIn("A4 = 442 Hz", done.stdout)
        self.assertIn("C from G (pure fifth)", done.stdout)
        self.assertRegex(done.stdout, r"4\s+C3\s+130\.96\s+-5\.87")

    def test_a_plan_card(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "card.pdf"
            done = self.run_command("plan", "banjo", "--method", "unison", "--pdf", str(path))
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertTrue(path.read_bytes().startswith(b"%PDF-"))

    def test_retuning(self) -> None:
        found = self.record("retune", "guitar", "--from", "standard", "--to", "dadgad")
        row = found["strings"][5]
        self.assertEqual((row["from_note"], row["to_note"], row["semitones"]), ("E2", "D2", -2))
        self.assertLess(row["aim_cents"], 0.0)
        self.assertEqual(found["order"], [6, 2, 1])
        self.assertLess(found["load_change_n"], 0.0)
        self.assertIn(
            "Order: low D, high A, high D",
            self.run_command("retune", "guitar", "--to", "dadgad").stdout,
        )

    def test_beats(self) -> None:
        # 3 * 146.8324 = 440.4972 Hz; two cents below equal: 698 cents, 1.005 beats
        found = self.record("beats", "D3", "A3", "--partials", "3:2", "--cents", "-2")
        self.assertAlmostEqual(found["meeting_hz"], 440.4972, places=3)
        self.assertAlmostEqual(found["beats_hz"], 1.0050, places=3)
        self.assertAlmostEqual(found["interval_cents"], 698.0, places=6)

    def test_the_size_of_the_fifths_is_what_is_asked_for(self) -> None:
        pure, narrow = (
            self.record("plan", "cello", "--method", "fifths", *more)
            for more in ((), ("--fifth-cents", "-1.5"))
        )
        said = self.record(
            "plan",
            "cello",
            "--method",
            "fifths",
            "--temperament",
            "fifths",
            "--fifth-cents",
            "-1.5",
        )
        self.assertEqual(narrow["steps"], said["steps"])
        self.assertNotEqual(narrow["steps"], pure["steps"])
        # D3-A3 narrowed by 1.5 cents: 440 (1 - 2^(-1.5/1200)) = 0.381 beats a second
        self.assertAlmostEqual(narrow["steps"][1]["beats_hz"], 0.381, delta=0.001)

    def test_adjusting(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "seen.csv"
            rows = ["lower,upper,partials,beats_per_s,cents,sd", "E2,A2,,,0,1", "A2,D3,,,0,1"]
            path.write_text("\n".join([*rows, "E2,D3,,,9,1"]) + "\n", encoding="utf-8")
            found = self.record("adjust", str(path))
            words = self.run_command("adjust", str(path)).stdout
        # a gap of 9 cents, a third of it to each
        self.assertAlmostEqual(found["strings"][2]["offset_cents"], 3.0)
        self.assertEqual(found["suspects"], [])
        self.assertIn("scatter 5.2 times as much as you said", words)

    def test_the_catalogue(self) -> None:
        self.assertIn("sitar", {one["id"] for one in self.record("instruments")})
        self.assertIn("dadgad", self.run_command("instruments").stdout)

    def test_one_line_and_code_2_for_what_cannot_be(self) -> None:
        for words, said in (
            (("plan", "cello", "--method", "unison"), "What can serve: fifths"),
            (
                ("plan", "cello", "--temperament", "equal", "--fifth-cents", "-1.5"),
                "goes with the temperament fifths, not equal",
            ),
            (("plan", "kazoo"), "Unknown instrument “kazoo”"),
            (("plan", "violin", "--a4", "480"), "it must lie between 390 and 470"),
            (("plan", "guitar", "--ear", "golden"), "Unknown ear “golden”"),
            (("plan", "guitar", "--pdf", "/nowhere/card.pdf"), "cannot be written"),
            (("retune", "guitar", "--to", "E9 A2 D3 G3 B3 E4"), "string 6 at E9"),
            (("beats", "D3", "A3", "--partials", "3"), "are no partials"),
            (("beats", "D3", "D#3"), "No low partials"),
            (("beats", "D3", "X3"), "not a note"),
            (("adjust", "/nowhere.csv"), "cannot be read"),
        ):
            done = self.run_command(*words)
            self.assertEqual(done.returncode, 2, words)
            self.assertIn(said, done.stderr)
            self.assertEqual(done.stderr.count("\n"), 1, done.stderr)

    def test_computing_needs_no_web_server_and_no_database(self) -> None:
        self.assert_needs_none(
            "from meldrin.commands import main; main(['plan', 'guitar'])",
            ["fastapi", "pydantic", "sqlalchemy", "numpy", "reportlab"],
        )

    def test_serving_needs_what_prints_only_when_something_is_printed(self) -> None:
        self.assert_needs_none("import meldrin.server.app", ["reportlab", "PIL"])

    def assert_needs_none(self, program: str, packages: list[str]) -> None:
        """A program ends without having loaded any of these."""
        shows = f"print([one for one in {packages} if one in sys.modules], file=sys.stderr)"
        done = subprocess.run(
            [sys.executable, "-c", f"import sys; {program}; {shows}"],
            env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
            capture_output=True,
            text=True,
            check=True,
        )
        self.assertEqual(done.stderr.strip(), "[]")


def commands_there() -> set[str]:
    """Every word of the command, for users and for developers."""
    found: set[str] = set()
    for module in ("meldrin", "tools"):
        done = subprocess.run(
            [sys.executable, "-m", module, "--help"],
            env={**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"},
            capture_output=True,
            text=True,
            check=True,
        )
        found |= set(re.findall(r"^    ([a-z]+)\b", done.stdout, flags=re.MULTILINE))
    return found - {"command"}


class WrongWords(CommandTest):
    def test_they_are_answered_and_nothing_is_installed_for_them(self) -> None:
        alone = self.state / "meldrin"
        shutil.copy(ROOT / "meldrin", alone)  # no lock file, no source: nothing could be installed
        for words, code in (((), 2), (("perform",), 2), (("--help",), 0)):
            done = subprocess.run(
                [alone, *words], capture_output=True, text=True, check=False, timeout=20
            )
            self.assertEqual(done.returncode, code, words)
            self.assertIn("Usage: ./meldrin demo", done.stdout + done.stderr)
        self.assertEqual([path.name for path in self.state.iterdir()], ["meldrin"])

    def test_usage_names_every_command(self) -> None:
        usage = (ROOT / "meldrin").read_text().partition("usage() {")[2].partition("}")[0]
        named = commands_there()
        self.assertLessEqual(named, set(re.findall(r"\w+", usage)))
        self.assertGreater(len(named), 10)


class Packaged(unittest.TestCase):
    def test_the_package_holds_its_data_and_one_version(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for name in ("pyproject.toml", "README.md"):
            shutil.copy(ROOT / name, folder)
        for name in ("src", "requirements"):
            shutil.copytree(ROOT / name, folder / name)
        subprocess.run(
            [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation",
             "--no-index", "--disable-pip-version-check", "-w", folder / "made", folder],
            capture_output=True,
            check=True,
            cwd=folder,
        )  # fmt: skip
        (made,) = (folder / "made").iterdir()
        self.assertEqual(made.name, f"meldrin-{__version__}-py3-none-any.whl")
        with zipfile.ZipFile(made) as wheel:
            held = set(wheel.namelist())
        data = {
            path.relative_to(ROOT / "src").as_posix()
            for path in (ROOT / "src").rglob("*")
            if path.suffix in (".toml", ".mako")
        }
        self.assertGreater(len(data), 20)
        self.assertLessEqual(data, held)


class Documented(unittest.TestCase):
    def test_every_option_of_a_plan_is_in_the_manual_and_the_other_way_round(self) -> None:
        manual = (ROOT / "docs" / "cli.md").read_text(encoding="utf-8")
        section = manual.partition("### plan")[2].partition("### retune")[0]
        done = subprocess.run(
            [sys.executable, "-m", "meldrin", "plan", "--help"],
            env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
            capture_output=True,
            text=True,
            check=True,
        )
        there = set(re.findall(r"(--[a-z][a-z0-9-]+)", done.stdout)) - {"--help", "--json"}
        named = set(re.findall(r"^\| `(--[a-z0-9-]+)|(?<= )(--reason)", section, re.MULTILINE))
        self.assertEqual({one or other for one, other in named}, there)

    def test_every_command_exists_and_is_in_the_manual(self) -> None:
        readme = (ROOT / "docs" / "cli.md").read_text(encoding="utf-8")
        there = commands_there()
        named = set(re.findall(r"\./meldrin ([a-z]+)", readme))
        self.assertEqual(named, there)

    def test_every_picture_of_the_readme_is_there_and_the_other_way_round(self) -> None:
        readme = (ROOT / "README.md").read_text(encoding="utf-8")
        named = set(re.findall(r"docs/screenshots/([a-z-]+\.png)", readme))
        there = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
        self.assertEqual(named, there)
        self.assertLess(len(there), 20)

    def test_what_runs_is_what_was_tested(self) -> None:
        run, dev = (
            dict(re.findall(r"^(\S+)==(\S+)", (ROOT / "requirements" / name).read_text(), re.M))
            for name in ("run.lock", "dev.lock")
        )
        self.assertGreater(len(run), 30)
        self.assertEqual({name: dev.get(name) for name in run}, run)

    def test_lock_files_name_no_place_to_fetch_from(self) -> None:
        for lock in (ROOT / "requirements").glob("*.lock"):
            self.assertNotRegex(lock.read_text(encoding="utf-8"), r"https?://|--index|--find-links")
        packages = json.loads((ROOT / "web" / "package-lock.json").read_text())["packages"]
        self.assertFalse([name for name, entry in packages.items() if "resolved" in entry])
        self.assertTrue(all("integrity" in entry for name, entry in packages.items() if name))
