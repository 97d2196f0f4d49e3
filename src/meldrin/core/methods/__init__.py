"""One module a school of tuning; each turns what is wanted into a Plan of Steps."""

from meldrin.core.methods.plan import Check, Plan, Reference, Step, Touch
from meldrin.core.methods.schools import SCHOOLS, plan_by, serves
from meldrin.core.methods.wanted import Wanted

__all__ = [
    "SCHOOLS",
    "Check",
    "Plan",
    "Reference",
    "Step",
    "Touch",
    "Wanted",
    "plan_by",
    "serves",
]
