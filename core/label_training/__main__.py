"""`./folio train labels`: draws the data, trains the network that reads labels, and says how it reads hands never seen.

About an hour and a half of two cores that compute in bfloat16. ``--on`` a network that was trained: one cycle more,
of other data; about half an hour.

Everything follows from the seeds below; the weights differ in the last digits from machine to machine.
"""

from __future__ import annotations

import argparse
import hashlib
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from folio_core.reading import crops

from .shards import write_shard

_SHARD = 8000
_VALIDATION_SEED = 900_001
# Shards of each cycle, none seen in another; how often they are gone through; the highest learning rate.
_CYCLES = ((80, 3, 3e-3),)
_ON_TOP, _FIRST_ON_TOP = ((40, 1, 8e-4),), 200  # and the number of its first shard


def main() -> None:
    parser = argparse.ArgumentParser(prog="./folio train labels", description=__doc__)
    parser.add_argument("--fonts", type=Path, required=True, help="where npm installed the hands")
    parser.add_argument("--shards", type=Path, required=True, help="where the drawn data is kept")
    parser.add_argument("--share", type=float, default=1.0, help="of the data, to try the recipe out")
    parser.add_argument("--out", type=Path, required=True, help="the network, as ONNX")
    parser.add_argument("--on", type=Path, help="a network, as ONNX, to go on from")
    chosen = parser.parse_args()
    cycles, first = (_ON_TOP, _FIRST_ON_TOP) if chosen.on else (_CYCLES, 0)
    chosen.shards /= _recipe()
    counts = [max(1, round(count * chosen.share)) for count, _, _ in cycles]
    draw(chosen.fonts, chosen.shards, range(first, first + sum(counts)))
    from .train import train  # PyTorch, which only training has
    from .trained import weights_of

    weights = None
    if chosen.on:
        with np.load(shard(chosen.shards, first)) as drawn:
            weights = weights_of(chosen.on, drawn["crops"], chosen.shards / "weights.pt")
    for seed, (count, (_, epochs, most)) in enumerate(zip(counts, cycles, strict=True), 1 + first):
        files = [shard(chosen.shards, number) for number in range(first, first + count)]
        weights = train(
            files, chosen.shards / "val.npz", chosen.out, epochs=epochs, most=most, seed=seed, from_=weights
        )
        first += count
    digest = hashlib.sha256(chosen.out.read_bytes()).hexdigest()
    print(f"{chosen.out}: {chosen.out.stat().st_size / 1e6:.2f} MB, SHA-256 {digest}")


def _recipe() -> str:
    """What is drawn follows from these files: what an older recipe drew is not trained on."""
    here = Path(__file__).parent
    files = [here / name for name in ("hands.py", "sayings.py", "content.py", "words.txt", "drawing.py", "shards.py")]
    files += [here / "hands_packages" / "package-lock.json", Path(crops.__file__)]
    return hashlib.sha256(b"".join(file.read_bytes() for file in files)).hexdigest()[:12]


def draw(fonts: Path, shards: Path, numbers: range) -> None:
    """What is there already is kept: drawing stops and goes on."""
    shards.mkdir(parents=True, exist_ok=True)
    jobs = [(shard(shards, number), number, _SHARD, False) for number in numbers]
    jobs.append((shards / "val.npz", _VALIDATION_SEED, 3000, True))
    with ProcessPoolExecutor(2) as pool:
        waiting = [
            pool.submit(write_shard, path, fonts, size, seed, measured=measured)
            for path, seed, size, measured in jobs
            if not path.exists()
        ]
        for one in waiting:
            one.result()


def shard(shards: Path, number: int) -> Path:
    return shards / f"{number:03}.npz"


if __name__ == "__main__":
    main()
