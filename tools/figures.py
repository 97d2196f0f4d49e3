"""Measured figures, and what they were measured on."""

import os
import platform
import re
from dataclasses import dataclass
from pathlib import Path

import psutil


@dataclass(frozen=True, slots=True)
class Figure:
    """One measured thing with its aim."""

    what: str
    measured: str
    aim: str


def machine() -> str:
    """Return what this is, in a few words."""
    memory = psutil.virtual_memory().total / 2**30
    return (
        f"{os.cpu_count()} cores ({_processor()}), {memory:.0f} GiB, {platform.system()},"
        f" Python {platform.python_version()}"
    )


def _processor() -> str:
    try:
        text = Path("/proc/cpuinfo").read_text(encoding="utf-8")
    except OSError:
        return platform.machine()
    found = re.search(r"model name\s*: (.+)", text)
    return found.group(1) if found else platform.machine()
