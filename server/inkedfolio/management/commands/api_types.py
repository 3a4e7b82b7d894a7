"""Write the OpenAPI document and the front end's types from it; with --check, say whether they are stale."""

from __future__ import annotations

import json
import subprocess
from argparse import ArgumentParser
from pathlib import Path
from tempfile import TemporaryDirectory

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from inkedfolio.api import api

_WEB = settings.ROOT / "web"
_SCHEMA, _TYPES = _WEB / "openapi.json", _WEB / "src" / "shared" / "api" / "schema.d.ts"


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--check", action="store_true")

    def handle(self, *, check: bool, **_: object) -> None:
        document = json.dumps(api.get_openapi_schema(), indent=1, default=str, sort_keys=True) + "\n"
        if not check:
            _SCHEMA.write_text(document)
            _generate(_SCHEMA, _TYPES)
            return
        with TemporaryDirectory() as folder:
            schema, types = Path(folder) / "openapi.json", Path(folder) / "schema.d.ts"
            schema.write_text(document)
            _generate(schema, types)
            if _SCHEMA.read_text() != document or _TYPES.read_text() != types.read_text():
                raise CommandError("The API's types are stale. Run ./folio manage api_types and commit the two files.")


def _generate(schema: Path, types: Path) -> None:
    types.parent.mkdir(parents=True, exist_ok=True)
    generator = _WEB / "node_modules" / ".bin" / "openapi-typescript"
    subprocess.run([str(generator), str(schema), "-o", str(types)], check=True, capture_output=True)
