"""Where things lie in a checkout."""

from __future__ import annotations

import os
from pathlib import Path

ROOT = Path(os.environ["FOLIO_ROOT"])
STATE = Path(os.environ.get("FOLIO_STATE", ROOT / ".folio"))
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"
SERVER = ROOT / "server"
CORE = ROOT / "core"
LOGS = STATE / "logs"


class Stop(Exception):
    """Ends the command with a word on what happened, why and what to do."""
