"""All records in one file, and back again, by MariaDB's own tools.

The file is SQL, squeezed by gzip. Its last line says which form the records have, how many rows
each table has, and the digest of everything before it; so a file that is not whole is known by
itself.
"""

import contextlib
import gzip
import hashlib
import json
import re
import subprocess
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any, Final

from sqlalchemy import Engine, column, func, inspect, select, text
from sqlalchemy import table as sql_table
from sqlalchemy.exc import OperationalError

from meldrin.core.errors import Code, MeldrinError
from meldrin.store.engine import MIGRATES_WITHIN_S, migrate, open_engine, refuse_newer

LAST_LINE: Final = b"-- meldrin "
TABLE: Final = re.compile(rb"INSERT INTO `(\w+)`")
SQUEEZE: Final = 3  # more makes it hardly smaller and much slower
BLOCK: Final = 1 << 20


@dataclass(frozen=True, slots=True)
class Contents:
    """What a backup says of itself: when it was made, the form of its records, rows by table."""

    made_at: str
    revision: str
    rows: dict[str, int]

    def __str__(self) -> str:
        """Say it in a few words."""
        rows = self.rows
        return (
            f"{rows.get('learners', 0)} learners, {rows.get('attempts', 0)} attempts,"
            f" {rows.get('actions', 0)} actions"
        )


def back_up(url: str, file: Path) -> Contents:
    """Write all records of a moment into a file, which must not be there yet; whoever plays
    meanwhile is not held up.

    Raises:
        MeldrinError: code ``file``, ``database`` or ``backup``.
    """
    if file.exists():
        raise MeldrinError(Code.FILE, f"{file} is there already; choose another name.")
    engine = open_engine(url)
    part = file.with_name(f"{file.name}.part")
    try:
        with _access(engine) as (options, name):
            part.touch(mode=0o600)
            command = [
                "mariadb-dump",
                f"--defaults-extra-file={options}",
                "--single-transaction",
                "--quick",
                "--skip-lock-tables",
                "--no-tablespaces",
                "--hex-blob",
                "--skip-dump-date",
                "--default-character-set=utf8mb4",
                name,
            ]
            contents = _write(command, part, revision=_revision(engine))
        check(part)
        part.rename(file)
        return contents
    except OSError as error:
        raise MeldrinError(Code.FILE, f"{file} cannot be written: {error.strerror}.") from error
    finally:
        part.unlink(missing_ok=True)
        engine.dispose()


def check(file: Path) -> Contents:
    """Read a backup through, and return what it holds.

    Raises:
        MeldrinError: code ``backup``, for a file that is no backup or not a whole one.
    """
    try:
        with gzip.open(file) as lines:
            digest, last = hashlib.sha256(), b""
            for line in lines:
                digest.update(last)
                last = line
        if not last.startswith(LAST_LINE):
            raise ValueError("its last line is missing")
        said = json.loads(last[len(LAST_LINE) :])
        if said.pop("sha256") != digest.hexdigest():
            raise ValueError("it has been changed")
        return Contents(**said)
    except FileNotFoundError:
        raise MeldrinError(Code.BACKUP, f"There is no file {file}.") from None
    except (OSError, EOFError, ValueError, TypeError, KeyError) as error:
        raise MeldrinError(
            Code.BACKUP, f"{file} is no whole backup: {error}. Nothing was changed."
        ) from None


def restore(url: str, file: Path, *, replace: bool = False) -> Contents:
    """Put the records of a backup in the place of those that are there; all of them or, where that
    fails, none.

    Args:
        replace: also where there are records, which are gone then.

    Raises:
        MeldrinError: code ``backup``, where the file is not whole, or records are there that were
            not to be replaced; ``database``, also where a newer program has written them.
    """
    contents = check(file)
    refuse_newer(contents.revision)
    engine = open_engine(url, answers_within_s=MIGRATES_WITHIN_S)
    try:
        with _access(engine) as (options, name):
            there = _learners(engine)
            if there and not replace:
                raise MeldrinError(
                    Code.BACKUP,
                    f"There are records of {there} learners here. To put the backup in their"
                    " place, say so with --replace; to keep them, back them up first.",
                )
            coming, before = f"{name}_restored", f"{name}_before"
            with engine.begin() as connection:
                connection.execute(text(f"DROP DATABASE IF EXISTS {coming}"))
                connection.execute(
                    text(
                        f"CREATE DATABASE {coming} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"
                    )
                )
            _read(["mariadb", f"--defaults-extra-file={options}", coming], file)
            with engine.begin() as connection:
                for table, many in contents.rows.items():
                    one = sql_table(table, schema=coming)
                    found = connection.scalar(select(func.count()).select_from(one))
                    if found != many:
                        raise MeldrinError(
                            Code.BACKUP,
                            f"Of {many} rows of {table} only {found} came back. Nothing was"
                            " changed.",
                        )
                # whoever plays now says hello again, and goes on from what was restored
                attempts = sql_table("attempts", column("holder"), schema=coming)
                connection.execute(attempts.update().values(holder=None))
                connection.execute(text(f"DROP DATABASE IF EXISTS {before}"))
                connection.execute(text(f"CREATE DATABASE {before}"))
                old = [f"{name}.{one} TO {before}.{one}" for one in _tables(engine, name)]
                new = [f"{coming}.{one} TO {name}.{one}" for one in _tables(engine, coming)]
                # one statement: there is no moment with half of it
                connection.execute(text(f"RENAME TABLE {', '.join(old + new)}"))
        migrate(engine)
        with engine.begin() as connection:
            for done_with in (coming, before):
                connection.execute(text(f"DROP DATABASE IF EXISTS {done_with}"))
        return contents
    except OperationalError as error:
        raise MeldrinError(
            Code.DATABASE, f"The database refuses: {error.orig}. Nothing was changed."
        ) from error
    finally:
        engine.dispose()


@contextlib.contextmanager
def _access(engine: Engine) -> Iterator[tuple[str, str]]:
    """Yield a file with what MariaDB's tools need to come in, which nobody else can read, and the
    name of the database.
    """
    try:
        with engine.connect() as connection:
            reached: Any = connection.connection.dbapi_connection
            host, port = reached.host, reached.port
    except OperationalError as error:
        raise MeldrinError(
            Code.DATABASE, f"The database cannot be reached: {error.orig}"
        ) from error
    url = engine.url
    with tempfile.NamedTemporaryFile("w", prefix="meldrin-", suffix=".cnf") as options:
        Path(options.name).chmod(0o600)
        password = str(url.password or "").replace("\\", "\\\\").replace('"', '\\"')
        options.write(
            f'[client]\nhost={host}\nport={port}\nuser={url.username}\npassword="{password}"\n'
            "protocol=tcp\n"
        )
        options.flush()
        yield options.name, str(url.database)


def _write(command: list[str], part: Path, *, revision: str) -> Contents:
    digest, table = hashlib.sha256(), ""
    rows: dict[str, int] = {}
    with (
        subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as dump,
        gzip.open(part, "wb", compresslevel=SQUEEZE) as out,
    ):
        assert dump.stdout is not None
        assert dump.stderr is not None
        for line in dump.stdout:
            digest.update(line)
            out.write(line)
            found = TABLE.match(line)
            if found is not None:
                table = found[1].decode()
                rows.setdefault(table, 0)
            elif line.startswith(b"("):  # one row a line; in values a new line is written \n
                rows[table] += 1
        wrong = dump.stderr.read().decode(errors="replace").strip()
        if dump.wait() != 0:
            raise MeldrinError(Code.DATABASE, f"The records cannot be read: {wrong}")
        made_at = datetime.now(UTC).isoformat(timespec="seconds")
        contents = Contents(made_at, revision, rows)
        said = {
            "made_at": made_at,
            "revision": revision,
            "rows": rows,
            "sha256": digest.hexdigest(),
        }
        out.write(LAST_LINE + json.dumps(said).encode() + b"\n")
    return contents


def _read(command: list[str], file: Path) -> None:
    with (
        subprocess.Popen(command, stdin=subprocess.PIPE, stderr=subprocess.PIPE) as into,
        gzip.open(file) as lines,
    ):
        assert into.stdin is not None
        assert into.stderr is not None
        with contextlib.suppress(BrokenPipeError):  # it says itself why it has stopped
            _pour(lines, into.stdin)
        wrong = into.stderr.read().decode(errors="replace").strip()
        if into.wait() != 0:
            raise MeldrinError(Code.DATABASE, f"The backup cannot be read in: {wrong}")


def _pour(lines: Any, into: IO[bytes]) -> None:
    with into:
        while block := lines.read(BLOCK):
            into.write(block)


def _tables(engine: Engine, database: str) -> list[str]:
    return inspect(engine).get_table_names(schema=database)


def _learners(engine: Engine) -> int:
    if "learners" not in _tables(engine, str(engine.url.database)):
        return 0
    with engine.connect() as connection:
        return int(connection.scalar(text("SELECT COUNT(*) FROM learners")) or 0)


def _revision(engine: Engine) -> str:
    if "alembic_version" not in _tables(engine, str(engine.url.database)):
        raise MeldrinError(Code.BACKUP, "There are no records here yet.")
    with engine.connect() as connection:
        return str(connection.scalar(text("SELECT version_num FROM alembic_version")))
