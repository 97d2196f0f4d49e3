"""What docs/DEPLOY.md says, tried: the proxy, the units, and https without a proxy."""

import argparse
import asyncio
import json
import re
import socket
import ssl
import subprocess
import tempfile
import time
import unittest
from pathlib import Path

import httpx2
import trustme
import websockets
from tools.debian import from_package
from tools.server import Server

from meldrin.commands import start
from meldrin.server.browser import COOKIE

ROOT = Path(__file__).resolve().parents[2]
DEPLOY = ROOT / "deploy"
NAME = "tuning.school.example"


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Secure(unittest.TestCase):
    """An authority of one's own, a certificate by it, and somebody who trusts it."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin-test-")))
        self.folder.chmod(0o755)
        authority = trustme.CA()
        made = authority.issue_cert(NAME, "127.0.0.1")
        self.certificate, self.key = self.folder / "certificate.pem", self.folder / "key.pem"
        self.certificate.write_bytes(b"".join(one.bytes() for one in made.cert_chain_pems))
        self.key.write_bytes(made.private_key_pem.bytes())
        self.trusting = ssl.create_default_context()
        authority.configure_trust(self.trusting)

    def plays(self, address: str, host: str) -> None:
        """Begin an attempt and turn a peg over the line, all of it by https."""
        with httpx2.Client(
            base_url=address, verify=self.trusting, trust_env=False, headers={"Host": host}
        ) as client:
            page = client.get("/")
            self.assertEqual(page.status_code, 200)
            self.assertIn("max-age", page.headers["strict-transport-security"])
            begun = client.post("/api/attempts", json={}, headers={"Origin": f"https://{host}"})
            self.assertEqual(begun.status_code, 201, begun.text)
            self.assertIn("Secure", begun.headers["set-cookie"])
            secret = re.search(f"{COOKIE}=([^;]+)", begun.headers["set-cookie"])
            assert secret is not None

        async def play() -> list[str]:
            at, _, port = address.rpartition("//")[2].partition(":")
            url = f"wss://{host}/api/attempts/{begun.json()['id']}/bench"
            async with websockets.connect(
                url,
                ssl=self.trusting,
                proxy=None,
                host=at,
                port=int(port),
                additional_headers={"Cookie": f"{COOKIE}={secret[1]}"},
                origin=f"https://{host}",  # type: ignore[arg-type]
            ) as line:
                await line.send(json.dumps({"kind": "hello", "tab": "secure-tab"}))
                action = {"kind": "turn", "string": 5, "degrees": 2.0}
                await line.send(
                    json.dumps({"kind": "act", "number": 1, "at_s": 1.0, "action": action})
                )
                return [json.loads(await line.recv())["kind"] for _ in range(3)]

        self.assertEqual(asyncio.run(play()), ["welcome", "now", "saved"])


class OwnCertificate(Secure):
    def test_phones_can_use_it_without_a_proxy(self) -> None:
        files = ("--certificate", str(self.certificate), "--key", str(self.key))
        server = Server(self.folder / "state", *files, verify=self.trusting)
        server.start()
        self.addCleanup(server.stop)
        self.assertTrue(server.address.startswith("https://"))
        self.plays(server.address, server.address.rpartition("//")[2])


class Proxy(Secure):
    def setUp(self) -> None:
        super().setUp()
        self.server = Server(
            self.folder / "state", "--proxy", "127.0.0.1", "--name", NAME, "--workers", "2"
        )
        self.server.start()
        self.addCleanup(self.server.stop)
        self.port, plain = free_port(), free_port()
        written = (DEPLOY / "nginx.conf").read_text()
        for old, new in (
            ("127.0.0.1:8430", self.server.address.rpartition("//")[2]),
            ("listen 80;", f"listen 127.0.0.1:{plain};"),
            ("listen 443 ssl", f"listen 127.0.0.1:{self.port} ssl"),
            ("/etc/ssl/meldrin/certificate.pem", str(self.certificate)),
            ("/etc/ssl/meldrin/key.pem", str(self.key)),
        ):
            self.assertEqual(written.count(old), 1, old)
            written = written.replace(old, new)
        places = " ".join(
            f"{kind}_temp_path {self.folder};"
            for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        )
        whole = self.folder / "nginx.conf"
        whole.write_text(
            f"daemon off; pid {self.folder}/nginx.pid; error_log {self.folder}/error.log;\n"
            "events {}\n"
            f"http {{ access_log off; {places}\n{written}\n}}\n"
        )
        process = subprocess.Popen(
            [from_package("nginx", "usr/sbin/nginx"), "-e", self.folder / "error.log", "-c", whole],
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(process.wait)
        self.addCleanup(process.terminate)
        self.address = f"https://127.0.0.1:{self.port}"
        deadline = time.monotonic() + 30
        while True:
            try:
                self.get("/api/health/live")
                break
            except httpx2.TransportError:
                self.assertLess(time.monotonic(), deadline)
                time.sleep(0.05)

    def get(self, path: str, **headers: str) -> httpx2.Response:
        return httpx2.get(
            f"{self.address}{path}",
            verify=self.trusting,
            trust_env=False,
            headers={"Host": NAME, **headers},
        )

    def test_a_class_can_use_it_through_the_proxy(self) -> None:
        self.plays(self.address, NAME)
        # the word of the proxy is taken, that of its clients is not; both are of this machine here
        self.assertEqual(self.get("/api/metrics").status_code, 200)
        forged = self.get("/api/metrics", **{"X-Forwarded-For": "192.0.2.7"})
        self.assertEqual(forged.status_code, 200)
        straight = httpx2.get(
            f"{self.server.address}/api/metrics",
            headers={"X-Forwarded-For": "192.0.2.7"},
            trust_env=False,
        )
        self.assertEqual(straight.status_code, 404)
        self.assertEqual(self.get("/", Host="elsewhere.example").status_code, 400)


class Untrusted(unittest.TestCase):
    def test_without_a_proxy_nobody_s_word_on_the_address_is_taken(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin-test-")))
        server = Server(folder)
        server.start()
        self.addCleanup(server.stop)
        for address in ("192.0.2.7", "127.0.0.1"):
            reply = httpx2.get(
                f"{server.address}/api/metrics",
                headers={"X-Forwarded-For": address},
                trust_env=False,
            )
            self.assertEqual(reply.status_code, 200)  # this machine, whatever it says


class Units(unittest.TestCase):
    def test_systemd_finds_nothing_wrong_in_them(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin-test-")))
        units = []
        for one in sorted(DEPLOY.glob("meldrin*")):
            units.append(folder / one.name)
            # the command is where it will be, which is not here
            units[-1].write_text(one.read_text().replace("/srv/meldrin/meldrin", "/bin/true"))
        self.assertEqual(len(units), 3)
        done = subprocess.run(
            ["systemd-analyze", "verify", *units], capture_output=True, text=True, check=False
        )
        self.assertEqual((done.returncode, done.stdout + done.stderr), (0, ""))

    def test_what_they_start_is_understood(self) -> None:
        unit = (DEPLOY / "meldrin.service").read_text()
        command = re.search(r"^ExecStart=\S+ start (.*)$", unit, re.MULTILINE)
        assert command is not None
        parser = argparse.ArgumentParser()
        start.add_options(parser)
        options = parser.parse_args(command[1].split())
        self.assertEqual((options.workers, options.proxy, options.name), (2, ["127.0.0.1"], [NAME]))
