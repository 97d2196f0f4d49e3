import doctest
import importlib
import pkgutil
import unittest
from pathlib import Path

import meldrin.core


class Examples(unittest.TestCase):
    def test_every_example_in_a_docstring_of_the_core_is_so(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(meldrin.core.__path__, "meldrin.core."):
            found = doctest.testmod(importlib.import_module(module.name))
            self.assertEqual(found.failed, 0, module.name)
            tried += found.attempted
        self.assertGreater(tried, 20)


class Decisions(unittest.TestCase):
    def test_each_stands_in_a_file_named_by_its_day(self) -> None:
        found = sorted((Path(__file__).parents[2] / "docs" / "decisions").iterdir())
        self.assertGreater(len(found), 50)
        for one in found:
            self.assertRegex(one.name, r"^2026-\d\d-\d\d-[a-z-]+\.md$")
            title, rest = one.read_text(encoding="utf-8").split("\n\n", 1)
            self.assertRegex(title, r"^# [^.]+$", one.name)
            self.assertGreater(len(rest.split()), 12, one.name)
