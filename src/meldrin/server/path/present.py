"""From the path of a learner to its shapes."""

from meldrin.core.practice import Path, stages
from meldrin.core.practice.path import Standing
from meldrin.server.path.schemas import PathNow, PathPage, StageSeen, StepSeen


def now_of(path: Path) -> PathNow:
    """Return where a learner stands."""
    ahead = set(path.next)
    return PathNow(
        stage=path.stage.name,
        proven=sum(one.proven is not None for one in path.steps),
        next=[_step(one) for one in path.steps if one.step in ahead],
    )


def page_of(path: Path) -> PathPage:
    """Return all steps."""
    return PathPage(
        now=now_of(path),
        stages=[
            StageSeen(
                id=stage.id,
                name=stage.name,
                steps=[_step(one) for one in path.steps if one.step.stage == stage.id],
            )
            for stage in stages()
        ],
    )


def _step(one: Standing) -> StepSeen:
    return StepSeen(id=one.step.id, can=one.step.can, shown_by=one.step.shown_by, proven=one.proven)
