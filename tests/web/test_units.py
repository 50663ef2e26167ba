"""Runs the tests that stand beside the front end's code, and reports each of them."""

import json
import subprocess
from pathlib import Path
from unittest import TestCase

WEB = Path(__file__).parents[2] / "web"


class FrontEnd(TestCase):
    def test_units(self) -> None:
        done = subprocess.run(
            ["npx", "vitest", "run", "--reporter=json"], cwd=WEB, capture_output=True, text=True
        )
        report = json.loads(done.stdout[done.stdout.index("{") :])
        self.assertGreater(report["numTotalTests"], 0)
        for file in report["testResults"]:
            for test in file["assertionResults"]:
                with self.subTest(test["fullName"]):
                    self.assertEqual(test["status"], "passed", "\n".join(test["failureMessages"]))
        self.assertTrue(report["success"])
