"""`./folio bench attack`: each attack against a fresh server; held or broken. Status 1 where one broke."""

from __future__ import annotations

import argparse
import sys

from arrival_bench.stand import Stand, stand


def main() -> int:
    parser = argparse.ArgumentParser(prog="./folio bench attack", description=__doc__)
    parser.add_argument("--only", default="", help="attacks whose name has this in it")
    chosen = parser.parse_args()
    broken = 0
    with stand(Stand) as ready:
        ready.start_workers()
        ready.start("web")
        ready.wait_until_answering()
        from .attacks import ATTACKS, Hall

        hall = Hall(ready)
        hall.acknowledged_in()  # everything has been loaded once
        print("| attack | | seen |\n|---|---|---|")
        for name, attack in ATTACKS.items():
            if chosen.only not in name:
                continue
            try:
                held, seen = attack(hall)
            except Exception as error:
                held, seen = False, f"{type(error).__name__}: {error}"
            broken += not held
            print(f"| {name} | {'held' if held else '**broken**'} | {seen} |", flush=True)
    return 1 if broken else 0


if __name__ == "__main__":
    sys.exit(main())
