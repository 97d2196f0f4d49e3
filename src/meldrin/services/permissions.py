"""Who may do what, a function each. What is not allowed is not found: nobody learns what others
have.
"""

from meldrin.services.actor import Actor
from meldrin.store.tables import AttemptRow, InstrumentRow


def may_see(actor: Actor, attempt: AttemptRow) -> bool:
    """Whether somebody may open an attempt, play it back and take it along."""
    return actor.learner == attempt.learner_id


def may_play(actor: Actor, attempt: AttemptRow) -> bool:
    """Whether somebody may go on with an attempt."""
    return actor.learner == attempt.learner_id


def may_erase(actor: Actor, thing: AttemptRow | InstrumentRow) -> bool:
    """Whether somebody may erase an attempt or an instrument."""
    return actor.learner == thing.learner_id
