"""Where partials are touched, and which string follows which outward from the first."""

import math
from collections.abc import Callable, Sequence

from meldrin.core.catalogue import Instrument, Tuning


def node_fret(partial: int, *, nut_fret: int = 0) -> float:
    """Return over which fret partial n is touched nearest the nut: 12 log2(n/(n - 1)) above it.

    The node lies 1/n of the string from the nut. Not defined for n = 1, which has no node.

    >>> round(node_fret(3), 2), round(node_fret(4), 2)
    (7.02, 4.98)
    """
    return nut_fret + 12.0 * math.log2(partial / (partial - 1))


def leaders(instrument: Instrument) -> list[int]:
    """Return the first string of every course, in the order of their numbers."""
    seen: dict[int, int] = {}
    for string in instrument.strings:
        seen.setdefault(string.course, string.number)
    return list(seen.values())


def apart(instrument: Instrument, one: int, other: int) -> int:
    """Return how many courses lie from one string to another."""
    return abs(instrument.string(one).course - instrument.string(other).course)


Cost = Callable[[int, int], float | None]


def outward(
    tuning: Tuning, numbers: Sequence[int], *, start: int, cost: Cost
) -> tuple[list[tuple[int, int]], list[int]]:
    """Return from which string each other one is reached, outward from `start`.

    A cheapest spanning tree (Prim, 1957): always the cheapest comparison of a string already tuned
    with a new one. Among equals those upward come first, and then the lower note.

    Returns:
        Pairs (new string, string it is compared with) in order, and the strings out of reach.
    """
    done, waiting, pairs = [start], [n for n in numbers if n != start], []
    while waiting:
        best: tuple[float, bool, int, int, int] | None = None
        for new in waiting:
            for old in done:
                price = cost(new, old)
                if price is None:
                    continue
                key = (price, tuning.midi(new) < tuning.midi(old), tuning.midi(new), new, old)
                best = key if best is None else min(best, key)
        if best is None:
            break
        _, _, _, new, old = best
        pairs.append((new, old))
        done.append(new)
        waiting.remove(new)
    return pairs, waiting
