"""The floors of the server are checked by import-linter; here, that no app is missing from them."""

from __future__ import annotations

import tomllib
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

_TRIED_WITH = {
    "testing",
    "browser_tests",
    "arrival_bench",
    "attack_bench",
    "board_bench",
    "fuzz_bench",
    "marking_bench",
    "reader_bench",
    "sitting_bench",
}


class Floors(SimpleTestCase):
    def test_every_folder_of_the_server_stands_on_a_floor(self) -> None:
        linter = tomllib.loads((settings.ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]
        (floors,) = [one for one in linter["contracts"] if one["name"].startswith("The floors of the server")]
        listed = {app.strip() for floor in floors["layers"] for app in floor.split("|")}
        here = {path.parent.name for path in Path(settings.ROOT / "server").glob("*/__init__.py")}
        self.assertEqual(here - _TRIED_WITH, listed)
        self.assertTrue(listed <= set(linter["root_packages"]))
