"""The training data, drawn ahead: shards of crops with what is to be read of them."""

from __future__ import annotations

import random
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from folio_core.reading.crops import ALPHABET, BLANK, CROP_HEIGHT, CROP_WIDTH

from . import hands
from .drawing import crop_of
from .sayings import saying

LONGEST = 10  # signs of a target
_REAL_DIGITS = 0.15  # of the crops
_MIXED = 0.35  # of the crops are in a hand made of two or three


def draw_shard(fonts: Path, count: int, seed: int, *, measured: bool = False) -> tuple[NDArray[np.uint8], ...]:
    """Crops, their targets (`BLANK` pads) and the targets' lengths; of the measured hands, or of all the others."""
    chance, noise = random.Random(seed), np.random.default_rng(seed)
    use = hands.Use.MEASURING if measured else hands.Use.TRAINING
    files = list(hands.fonts_for(fonts, use).values())
    digits = hands.mnist(fonts, measured=measured)
    crops = np.empty((count, CROP_HEIGHT, CROP_WIDTH), np.uint8)
    targets, lengths = np.full((count, LONGEST), BLANK, np.uint8), np.zeros(count, np.uint8)
    for at in range(count):
        said = saying(chance)
        real = digits if chance.random() < _REAL_DIGITS else None
        hands_of = chance.choice((2, 2, 3)) if chance.random() < _MIXED else 1
        crops[at] = crop_of(said, chance.sample(files, hands_of), real, chance, noise)
        signs = [ALPHABET.index(sign) for sign in said.target][:LONGEST]
        targets[at, : len(signs)], lengths[at] = signs, len(signs)
    return crops, targets, lengths


def write_shard(path: Path, fonts: Path, count: int, seed: int, *, measured: bool = False) -> None:
    crops, targets, lengths = draw_shard(fonts, count, seed, measured=measured)
    part = path.with_suffix(".part.npz")
    np.savez(part, crops=crops, targets=targets, lengths=lengths)
    part.rename(path)
