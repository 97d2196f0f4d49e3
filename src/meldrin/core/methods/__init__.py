"""One module a method of tuning; each turns what is wanted into a Plan of Steps."""

from meldrin.core.methods.method import Method, Reason, Situation
from meldrin.core.methods.plan import Check, Plan, Reference, Side, Step
from meldrin.core.methods.registry import METHODS, plan_by, serves
from meldrin.core.methods.wanted import Options, Wanted
