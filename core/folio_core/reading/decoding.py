"""What a network's output may say, with probabilities: connectionist temporal classification (Graves et al. 2006)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .crops import ALPHABET, BLANK

_BEAM = 14
_LEAST = 1e-3  # signs less probable at a step are not followed
_LEAST_TEXT = 1e-6  # nor texts, against the likeliest


def spellings(steps: NDArray[np.float32], most: int = 8) -> list[tuple[str, float]]:
    """The most probable texts of one output, steps × signs in log probabilities, by prefix beam search.

    Probabilities are of the whole text; "" is that nothing stands there.
    """
    beams: dict[str, tuple[float, float]] = {"": (1.0, 0.0)}  # ending in a blank, ending in its last sign
    shares = np.exp(steps.astype(np.float64))
    some = np.any(shares[:, :BLANK] > _LEAST, axis=1).tolist()
    for step, any_sign in zip(shares, some, strict=True):
        blank = float(step[BLANK])
        if not any_sign:
            beams = {text: ((in_blank + in_sign) * blank, 0.0) for text, (in_blank, in_sign) in beams.items()}
            continue
        likely = [int(sign) for sign in np.flatnonzero(step[:BLANK] > _LEAST)]
        grown: dict[str, list[float]] = {}
        for text, (in_blank, in_sign) in beams.items():
            both = in_blank + in_sign
            kept = grown.setdefault(text, [0.0, 0.0])
            kept[0] += both * blank
            if text:
                kept[1] += in_sign * float(step[ALPHABET.index(text[-1])])
            for sign in likely:
                letter = ALPHABET[sign]
                longer = grown.setdefault(text + letter, [0.0, 0.0])
                longer[1] += (in_blank if text and text[-1] == letter else both) * float(step[sign])
        best = sorted(grown.items(), key=lambda one: -(one[1][0] + one[1][1]))[:_BEAM]
        least = _LEAST_TEXT * sum(best[0][1])
        beams = {text: (sums[0], sums[1]) for text, sums in best if sums[0] + sums[1] > least}
    found = sorted(((text, sum(sums)) for text, sums in beams.items()), key=lambda one: -one[1])
    return found[:most]


def chance_of_nothing(steps: NDArray[np.float32]) -> NDArray[np.float64]:
    """Of each output, n × steps × signs, how probable it is that nothing stands there."""
    return np.exp(steps[:, :, BLANK].astype(np.float64).sum(1))
