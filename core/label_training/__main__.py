"""`./folio train labels`: draws the data, trains the network that reads labels, and says how it reads hands never seen.

Everything follows from the seeds below; the weights differ in the last digits from machine to machine.
"""

from __future__ import annotations

import argparse
import hashlib
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from .shards import write_shard

_SHARD = 8000
_VALIDATION_SEED = 900_001


def main() -> None:
    parser = argparse.ArgumentParser(prog="./folio train labels", description=__doc__)
    parser.add_argument("--fonts", type=Path, required=True, help="where npm installed the hands")
    parser.add_argument("--shards", type=Path, required=True, help="where the drawn data is kept")
    parser.add_argument("--count", type=int, default=24, help=f"shards of {_SHARD} crops")
    parser.add_argument("--epochs", type=int, default=2)
    parser.add_argument("--out", type=Path, required=True, help="the network, as ONNX")
    chosen = parser.parse_args()
    draw(chosen.fonts, chosen.shards, chosen.count)
    from .train import train  # PyTorch, which only training has

    train(chosen.shards, chosen.out, epochs=chosen.epochs)
    digest = hashlib.sha256(chosen.out.read_bytes()).hexdigest()
    print(f"{chosen.out}: {chosen.out.stat().st_size / 1e6:.2f} MB, SHA-256 {digest}")


def draw(fonts: Path, shards: Path, count: int) -> None:
    """What is there already is kept: drawing stops and goes on."""
    shards.mkdir(parents=True, exist_ok=True)
    jobs = [(shards / f"{number:03}.npz", number, _SHARD, False) for number in range(count)]
    jobs.append((shards / "val.npz", _VALIDATION_SEED, 3000, True))
    with ProcessPoolExecutor(2) as pool:
        waiting = [
            pool.submit(write_shard, path, fonts, size, seed, measured=measured)
            for path, seed, size, measured in jobs
            if not path.exists()
        ]
        for one in waiting:
            one.result()


if __name__ == "__main__":
    main()
