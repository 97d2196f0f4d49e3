"""What commands print and read: tables, JSON, files."""

import argparse
import json
import sys
from pathlib import Path

from meldrin.core.errors import Code, MeldrinError


def add_json(parser: argparse.ArgumentParser) -> None:
    """Add the option that every computing command has."""
    parser.add_argument("--json", action="store_true", help="print JSON instead of a table")


def print_json(record: object) -> int:
    """Print a record as JSON."""
    print(json.dumps(record, ensure_ascii=False, allow_nan=False, indent=2))
    return 0


def print_table(heads: tuple[str, ...], rows: list[tuple[str, ...]]) -> None:
    """Print rows under their heads, each column as wide as it needs."""
    widths = [max(len(cell) for cell in column) for column in zip(heads, *rows, strict=True)]
    for row in (heads, *rows):
        print("  ".join(cell.rjust(width) for cell, width in zip(row, widths, strict=True)))


def read_text(path: Path) -> str:
    """Return the text of a file, or of what is piped in for ``-``.

    Raises:
        MeldrinError: code ``file``.
    """
    try:
        return sys.stdin.read() if str(path) == "-" else path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError):
        raise MeldrinError(Code.FILE, f"{path} cannot be read as text.") from None


def write_bytes(path: Path, data: bytes) -> None:
    """Write a file.

    Raises:
        MeldrinError: code ``file``.
    """
    try:
        path.write_bytes(data)
    except OSError as error:
        raise MeldrinError(Code.FILE, f"{path} cannot be written: {error.strerror}.") from None
