"""`./meldrin start`: serve without the demo's data."""

import argparse
from pathlib import Path

from meldrin.ending import Ending


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be chosen."""
    parser.add_argument(
        "--host", default="127.0.0.1", help="the address to listen at; usually 127.0.0.1"
    )
    parser.add_argument("--port", type=int, help="0 for any; without it 8430 or the next free one")
    parser.add_argument("--workers", type=int, default=1, help="processes; one for each core")
    parser.add_argument(
        "--name", action="append", default=[], help="a name it is asked for under; several times"
    )
    parser.add_argument(
        "--proxy",
        action="append",
        default=[],
        help="the address of a proxy in front of it, which is trusted; several times",
    )
    parser.add_argument("--certificate", help="a file, for https without a proxy")
    parser.add_argument("--key", help="the certificate's key, a file")


def run(options: argparse.Namespace) -> int:
    """Serve until Ctrl-C."""
    return serving(options, demo=False)


def serving(options: argparse.Namespace, *, demo: bool) -> int:
    """Serve as the options say until Ctrl-C."""
    ending = Ending()
    from meldrin.core.errors import Code, MeldrinError
    from meldrin.serve import ServeOptions, serve

    if not 1 <= options.workers <= 64:
        raise MeldrinError(Code.WHOLE, "Choose 1 to 64 workers.")
    if bool(options.certificate) != bool(options.key):
        raise MeldrinError(Code.FILE, "A certificate and its key go together: give both files.")
    for file in filter(None, (options.certificate, options.key)):
        try:
            Path(file).read_bytes()
        except OSError as error:
            raise MeldrinError(Code.FILE, f"{file} cannot be read: {error.strerror}.") from None
    wanted = ServeOptions(
        host=options.host,
        port=options.port,
        workers=options.workers,
        names=tuple(options.name),
        proxies=tuple(options.proxy),
        certificate=options.certificate,
        key=options.key,
        demo=demo,
    )
    return serve(wanted, ending)
