"""How the score works."""

from fastapi import APIRouter

from meldrin.server.dependencies import Route
from meldrin.server.scores.present import rubric_page
from meldrin.server.scores.schemas import RubricPage

router = APIRouter(prefix="/api", tags=["scores"], route_class=Route)


@router.get("/rubric")
def show_rubric() -> RubricPage:
    """How the score works."""
    return rubric_page()
