"""How somebody gets on, from the figures that are kept of what they did."""

from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from meldrin.core.practice import Progress, progress
from meldrin.core.practice.progress import WEEKS_SHOWN
from meldrin.services.actor import Actor
from meldrin.services.figures import figures_of


def progress_of(
    session: Session,
    actor: Actor,
    *,
    weeks: int,
    now: datetime,
    instrument: str | None = None,
    method: str | None = None,
    who: str = "",
) -> Progress:
    """Return the progress of a learner over some weeks; the session is closed.

    Args:
        instrument, method: to look at these alone.
        who: their name, where somebody else is told.
    """
    back = timedelta(weeks=max(WEEKS_SHOWN, 2 * weeks))
    sat, tuned = figures_of(session, actor, since=now - back)
    session.close()
    if instrument:
        sat = [one for one in sat if one.instrument == instrument]
        tuned = [one for one in tuned if one.instrument == instrument]
    if method:
        tuned = [one for one in tuned if one.method == method]
    return progress(sat, tuned, now=now, weeks=weeks, who=who)
