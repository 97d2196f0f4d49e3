"""How pytest runs the tests: all, or a quick part of them."""

import pytest


def pytest_addoption(parser: pytest.Parser) -> None:
    """Let a run be quick."""
    parser.addoption("--quick", action="store_true", help="leave out whole attempts")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Leave out the slow ones of a quick run."""
    if not config.getoption("--quick"):
        return
    slow = [item for item in items if getattr(getattr(item, "cls", None), "slow", False)]
    config.hook.pytest_deselected(items=slow)
    items[:] = [item for item in items if item not in slow]
