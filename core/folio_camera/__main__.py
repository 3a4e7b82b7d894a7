"""`./folio camera`: the phone's camera without a phone. Chromium opens the link with photographs as its camera."""

from __future__ import annotations

import argparse
import os
import shlex
import subprocess
import sys
import tempfile
from pathlib import Path

from .film import film, flags


def main() -> int:
    parser = argparse.ArgumentParser(prog="./folio camera", description=__doc__)
    parser.add_argument(
        "address", help="the short one beside the code, at “Photograph by phone”; its window asks for the six figures"
    )
    parser.add_argument(
        "pictures", nargs="*", type=Path, help="photographs; without any, those on Ilse's phone of the demo"
    )
    parser.add_argument("--film", type=Path, help="where to put the film (default: a temporary file)")
    chosen = parser.parse_args()
    roll = Path(os.environ.get("FOLIO_STATE", ".folio")) / "demo-photos" / "on-ilses-phone"
    pictures = chosen.pictures or sorted(roll.glob("*.jpg"))
    if not pictures:
        parser.error(f"there is no photograph in {roll}. Run ./folio demo first, or name some.")
    path = chosen.film or Path(tempfile.gettempdir()) / "inked-folio-camera.y4m"
    with path.open("wb") as out:
        for chunk in film(picture.read_bytes() for picture in pictures):
            out.write(chunk)
    print(f"{len(pictures)} photographs, four seconds each, in {path}", flush=True)
    root = ["--no-sandbox"] if os.geteuid() == 0 else []
    command = ["chromium", *root, *flags(str(path)), "--window-size=420,900", chosen.address]
    if not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        print(f"There is no screen here. Where there is one:\n{shlex.join(command)}")
        return 0
    return subprocess.run(command).returncode


if __name__ == "__main__":
    sys.exit(main())
