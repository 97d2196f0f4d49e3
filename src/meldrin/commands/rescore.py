"""`./meldrin rescore`: give attempts that an earlier version scored the scores of this one."""

import argparse
import os

from meldrin.ending import Ending


def add_options(parser: argparse.ArgumentParser) -> None:
    """Nothing can be chosen."""


def run(_options: argparse.Namespace) -> int:
    """Score them one after the other, beside a server that goes on; stopped, it goes on later."""
    Ending()
    from meldrin.commands.records import records
    from meldrin.services.results import Results
    from meldrin.store.engine import Sessions, open_engine

    os.nice(10)  # whoever plays comes first
    with records() as url:
        engine = open_engine(url, pool_size=2)
        done, many = 0, 0
        for done, many in Results(Sessions(engine)).rescore():
            print(f"\r{done} of {many}", end="", flush=True)
        engine.dispose()
    print("\nDone." if many else "Every attempt has the score of this version.")
    return 0
