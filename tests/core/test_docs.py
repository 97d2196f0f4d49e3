import doctest
import importlib
import pkgutil
import unittest

import meldrin.core


class Examples(unittest.TestCase):
    def test_every_example_in_a_docstring_of_the_core_is_so(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(meldrin.core.__path__, "meldrin.core."):
            found = doctest.testmod(importlib.import_module(module.name))
            self.assertEqual(found.failed, 0, module.name)
            tried += found.attempted
        self.assertGreater(tried, 20)
