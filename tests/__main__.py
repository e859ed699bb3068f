"""Runs every test, or those of the named files, and closes with the plain line that CI reads."""
import sys
import unittest
from pathlib import Path


class Told(unittest.TextTestResult):
    passed = 0

    def addSuccess(self, test):
        super().addSuccess(test)
        self.passed += 1


def main(names: list[str]) -> int:
    loader, here = unittest.TestLoader(), Path(__file__).parent
    suite = unittest.TestSuite()
    for name in names or sorted(p.stem.removeprefix("test_") for p in here.glob("test_*.py")):
        suite.addTests(loader.loadTestsFromName(f"tests.test_{name}"))
    result = unittest.TextTestRunner(resultclass=Told, verbosity=2).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    print(f"{result.passed + len(result.expectedFailures)} passed, {failed} failed, {len(result.skipped)} skipped", flush=True)
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
