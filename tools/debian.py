"""Files of Debian's packages that are tried and not installed: an installed server would start."""

import subprocess
from pathlib import Path
from typing import Final

FOLDER: Final = Path(__file__).resolve().parents[1] / ".meldrin" / "debian"


def from_package(package: str, file: str) -> Path:
    """Return a file of a package: the one that is installed, or one that is unpacked here."""
    installed = Path("/") / file
    if installed.exists():
        return installed
    into = FOLDER / package
    if not (into / file).exists():
        into.mkdir(parents=True, exist_ok=True)
        fetch = ["apt-get", "download", "-q", package]
        if subprocess.run(fetch, cwd=into, capture_output=True, check=False).returncode != 0:
            subprocess.run(["apt-get", "update", "-q"], capture_output=True, check=True)
            subprocess.run(fetch, cwd=into, capture_output=True, check=True)
        (found,) = into.glob(f"{package}_*.deb")
        subprocess.run(["dpkg-deb", "-x", found, into], check=True)
        found.unlink()
    return into / file
