"""One module a school of tuning; each turns an instrument and a reference into a Plan of Steps."""

from meldrin.core.methods.plan import Check, Plan, Step, Touch
from meldrin.core.methods.unison import unison_plan

__all__ = ["Check", "Plan", "Step", "Touch", "unison_plan"]
