import doctest
import importlib
import pkgutil
import unittest

import meldrin.core


def load_tests(
    loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str | None
) -> unittest.TestSuite:
    """Every example in a docstring of the core is run."""
    del loader, pattern
    for module in pkgutil.walk_packages(meldrin.core.__path__, "meldrin.core."):
        tests.addTests(doctest.DocTestSuite(importlib.import_module(module.name)))
    return tests
