import json
import os
import re
import signal
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import httpx2
import psutil

ROOT = Path(__file__).resolve().parents[2]


class CommandTest(unittest.TestCase):
    def setUp(self) -> None:
        self.state = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin test ")))

    def command(self, *words: str, state: Path | None = None) -> subprocess.Popen[str]:
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        environment["MELDRIN_STATE"] = str(state or self.state)
        process = subprocess.Popen(
            [sys.executable, "-m", "meldrin.cli", *words],
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
            self.assertEqual(httpx2.get(f"{address}/api/health").json(), {"well": True})

    def test_being_ended_it_stops_everything_it_started(self) -> None:
        for how in (signal.SIGINT, signal.SIGTERM):
            process = self.command("start", "--port", "0")
            address = self.address(process)
            database = int((self.state / "database" / "server.pid").read_text())
            self.assertTrue(psutil.pid_exists(database))
            process.send_signal(how)
            process.communicate(timeout=30)
            self.assertFalse(psutil.pid_exists(database), how)
            with self.assertRaises(httpx2.TransportError):
                httpx2.get(address)

    def test_the_demo_prints_a_door_to_its_pupil(self) -> None:
        process = self.command("demo", "--port", "0")
        address = self.address(process)
        assert process.stdout is not None
        door = re.search(r"http://\S+/enter/\S+", process.stdout.readline())
        assert door is not None
        with httpx2.Client(base_url=address, follow_redirects=True) as client:
            client.get(door.group(0))
            self.assertEqual(len(client.get("/api/attempts").json()), 13)

    def test_secrets_are_readable_by_their_owner_only(self) -> None:
        self.address(self.command("demo", "--port", "0"))
        for name in ("demo-secret", "database/access.json", "database/grants.sql"):
            self.assertEqual((self.state / name).stat().st_mode & 0o077, 0, name)


class Refusing(CommandTest):
    def refusal(self, *words: str, **environment: str) -> str:
        done = subprocess.run(
            [sys.executable, "-m", "meldrin.cli", *words],
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


class Documented(unittest.TestCase):
    def test_every_command_of_the_readme_exists_and_every_command_is_in_it(self) -> None:
        readme = (ROOT / "README.md").read_text(encoding="utf-8")
        done = subprocess.run(
            [sys.executable, "-m", "meldrin.cli", "--help"],
            env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
            capture_output=True,
            text=True,
            check=True,
        )
        there = set(re.findall(r"^    ([a-z]+) ", done.stdout, flags=re.MULTILINE))
        named = set(re.findall(r"\./meldrin ([a-z]+)", readme))
        self.assertEqual(named, there)

    def test_every_picture_of_the_readme_is_there_and_the_other_way_round(self) -> None:
        readme = (ROOT / "README.md").read_text(encoding="utf-8")
        named = set(re.findall(r"docs/screenshots/([a-z-]+\.png)", readme))
        there = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
        self.assertEqual(named, there)
        self.assertLess(len(there), 20)

    def test_lock_files_name_no_place_to_fetch_from(self) -> None:
        for lock in (ROOT / "requirements").glob("*.lock"):
            self.assertNotRegex(lock.read_text(encoding="utf-8"), r"https?://|--index|--find-links")
        packages = json.loads((ROOT / "web" / "package-lock.json").read_text())["packages"]
        self.assertFalse([name for name, entry in packages.items() if "resolved" in entry])
        self.assertTrue(all("integrity" in entry for name, entry in packages.items() if name))
