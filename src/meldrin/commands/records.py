"""The records that a command works on: those of this checkout, running or not, or of another server
that the environment names.
"""

import contextlib
from collections.abc import Iterator


@contextlib.contextmanager
def records() -> Iterator[str]:
    """Yield the address of the database; the checkout's own is started for as long as it takes."""
    from meldrin.serve import STATE
    from meldrin.settings import Settings
    from meldrin.store.mariadb import MariaDb

    given = Settings().database_url
    if given:
        yield given
        return
    STATE.mkdir(exist_ok=True)
    own = MariaDb(STATE / "database")
    try:
        yield own.start().url
    finally:
        if own.found:
            own.leave()
        own.stop()
