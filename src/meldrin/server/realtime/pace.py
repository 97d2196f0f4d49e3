"""How fast a tab is heard: what comes faster waits, and nothing is lost by it."""

MOST_PER_S = 120.0  # a held key sends 20 a second; several times that is no hand
MOST_BURST = 600.0  # what a browser kept while the line was down begins at once
USUAL_S = 0.0005  # of processor time, what a message may take; one that takes more counts as more
HELLO_COST = 60.0  # a hello plays the attempt from its beginning


class Pace:
    """A store of allowance that fills with time. Each message takes of it, and waits where it has
    run out; a client that is read late is slowed down by its own connection.
    """

    def __init__(self, *, now_s: float) -> None:
        self._allowance = MOST_BURST
        self._at_s = now_s

    def wait_s(self, cost: float, *, now_s: float) -> float:
        """Take `cost` messages of the store, and return how many seconds to wait first."""
        filled = self._allowance + (now_s - self._at_s) * MOST_PER_S
        self._allowance, self._at_s = min(filled, MOST_BURST) - cost, now_s
        return max(0.0, -self._allowance / MOST_PER_S)

    def took(self, seconds: float) -> None:
        """Take of the store what a message took beyond the usual."""
        self._allowance -= max(0.0, seconds / USUAL_S - 1.0)
