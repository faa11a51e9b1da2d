"""What is derived from the declarations is current."""

import unittest

from inner_tone.cli.generate import stale


class GenerateTest(unittest.TestCase):
    def test_derived_files_are_current(self) -> None:
        self.assertEqual([file.name for file in stale()], [], "run bin/generate")


if __name__ == "__main__":
    unittest.main()
