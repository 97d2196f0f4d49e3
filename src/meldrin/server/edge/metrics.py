"""The figures of all processes together: each writes its own into a folder that they share."""

import os

from prometheus_client import REGISTRY, CollectorRegistry
from prometheus_client.multiprocess import MultiProcessCollector

FOLDER = "PROMETHEUS_MULTIPROC_DIR"  # the name under which the library looks for it


def registry() -> CollectorRegistry:
    """Return what holds the figures of all processes that share the folder, or of this one."""
    if not os.environ.get(FOLDER):
        return REGISTRY
    found = CollectorRegistry()
    MultiProcessCollector(found)  # type: ignore[no-untyped-call]
    return found
