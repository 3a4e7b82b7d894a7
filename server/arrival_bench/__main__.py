"""`./folio bench arrival`: first views, kill loops, a rush before the close. Status 1 where an aim is missed."""

from __future__ import annotations

import argparse
import subprocess
import sys

from . import kills
from .spread import Spread, object_storage
from .stand import Stand, stand

_KINDS = ("views", "kills", "students", "parts")


def main() -> int:
    parser = argparse.ArgumentParser(prog="./folio bench arrival", description=__doc__)
    parser.add_argument("--kills", type=int, default=60, help="spread over web, worker and database; 0: none")
    parser.add_argument("--students", type=int, default=200, help="of the rush; 0: no rush")
    parser.add_argument("--photos", type=int, default=5, help="of each student")
    parser.add_argument("--within", type=float, default=60, help="seconds over which the students begin")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--views", type=int, default=9, help="first views of single pages; 0: none")
    parser.add_argument(
        "--parts", type=int, default=60, help="photographs by each way, with one shortcut less; 0: none"
    )
    parser.add_argument("--spread", action="store_true", help="the kill loops on two machines without a common folder")
    chosen = parser.parse_args()
    if chosen.spread:
        with stand(Spread, **object_storage()) as ready:
            return 0 if kills.run(ready, chosen.kills, chosen.seed) else 1
    kinds = [kind for kind in _KINDS if getattr(chosen, kind)]
    if len(kinds) > 1:  # each with a database of its own, and Django knows one in its life
        return max(
            subprocess.run([sys.executable, "-m", "arrival_bench", *sys.argv[1:], *_only(kind)]).returncode
            for kind in kinds
        )
    with stand(Stand) as ready:
        if chosen.views:
            from . import first_view

            good = first_view.run(ready, chosen.views)
        elif chosen.kills:
            good = kills.run(ready, chosen.kills, chosen.seed)
        elif chosen.parts:
            from . import parts

            good = parts.run(ready, chosen.parts)
        else:
            from . import rush

            good = rush.run(ready, chosen.students, chosen.photos, chosen.within, chosen.seed)
    return 0 if good else 1


def _only(kind: str) -> list[str]:
    return [word for other in _KINDS if other != kind for word in (f"--{other}", "0")]


if __name__ == "__main__":
    sys.exit(main())
