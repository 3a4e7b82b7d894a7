"""Preparing a 12-megapixel photograph, beside the floor: decode, one warp, one encode with OpenCV."""

from __future__ import annotations

import argparse
import multiprocessing
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from folio_camera.handwriting import HANDS, Style, write_sheet
from folio_camera.photograph import Photograph, photograph
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles
from folio_camera.surfaces import DESKS
from folio_core.page import prepare, run_limited
from folio_core.page.limits import JPEG_QUALITY, OUTPUT_LONG_SIDE_PX
from folio_core.page.straighten import homography

_A4 = (round(OUTPUT_LONG_SIDE_PX / 2**0.5), OUTPUT_LONG_SIDE_PX)


def add_command(commands: Any) -> None:
    parser = commands.add_parser("page", help="milliseconds a page and peak memory, beside the floor")
    parser.add_argument("-n", "--photographs", type=int, default=12)
    parser.add_argument("--seed", type=int, default=7000)
    parser.add_argument("--megapixels", type=int, default=12)
    parser.set_defaults(run=run)


def run(arguments: argparse.Namespace) -> None:
    shots = [_shot(arguments.seed + number, arguments.megapixels) for number in range(arguments.photographs)]
    megabytes = statistics.mean(len(shot.jpeg) for shot in shots) / 1e6
    print(f"{len(shots)} photographs of {arguments.megapixels} megapixels, {megabytes:.1f} MB each")
    with multiprocessing.get_context("spawn").Pool(1) as floor, multiprocessing.get_context("spawn").Pool(1) as ours:
        floor_ms, prepare_ms = [], []
        floor.apply(_floor, (shots[0],))
        ours.apply(_prepare, (shots[0],))
        for shot in shots:  # in turns, so that a noisy machine is noisy for both
            floor_ms.append(floor.apply(_timed, (_floor, shot)))
            prepare_ms.append(ours.apply(_timed, (_prepare, shot)))
        floor_mb, prepare_mb = floor.apply(_peak_mb), ours.apply(_peak_mb)
    print(f"floor    median {statistics.median(floor_ms):6.0f} ms a page   peak {floor_mb:4.0f} MB")
    print(f"prepare  median {statistics.median(prepare_ms):6.0f} ms a page   peak {prepare_mb:4.0f} MB")
    ratio = statistics.median(prepare_ms) / statistics.median(floor_ms)
    print(f"prepare / floor = {ratio:.2f} (aim 2.1 or less)")
    for words, quiet in (("after a quiet moment", 0.6), ("one after another", 0.0)):
        first_ms, whole_ms = (
            statistics.median(each) for each in zip(*(_limited(shot, quiet) for shot in shots), strict=True)
        )
        print(f"in a sandbox, {words}: first view {first_ms:.0f} ms, whole {whole_ms:.0f} ms, median")
    print(f"peak {prepare_mb:.0f} MB (aim under 400 MB at 12 megapixels, under 800 MB at 50)")


def _shot(seed: int, megapixels: int = 12) -> Photograph:
    style = Style(hand=list(HANDS)[seed % len(HANDS)], paper=("ruled", "squared", "plain")[seed % 3])
    size = (round((megapixels * 0.75e6) ** 0.5), round((megapixels * 1e6 / 0.75) ** 0.5))
    scene = Scene(size=size, desk=DESKS[seed % len(DESKS)], hand_shadow=seed % 2 == 0)
    return photograph(write_sheet(great_circles()[:3], style, seed), scene, seed)


def _floor(shot: Photograph) -> None:
    pixels = cv2.imdecode(np.frombuffer(shot.jpeg, np.uint8), cv2.IMREAD_COLOR)
    flat = cv2.warpPerspective(pixels, homography(shot.corners, *_A4), _A4)
    cv2.imencode(".jpg", flat, [cv2.IMWRITE_JPEG_QUALITY, JPEG_QUALITY])


def _prepare(shot: Photograph) -> None:
    prepare(shot.jpeg)


def _limited(shot: Photograph, quiet: float) -> tuple[float, float]:
    """Milliseconds to the first view and to the end, in a limited child. ``quiet``: seconds before it."""
    time.sleep(quiet)
    seen: list[float] = []
    began = time.perf_counter()
    run_limited(prepare, shot.jpeg, 0, early=lambda _: seen.append(time.perf_counter()))
    done = time.perf_counter()
    return ((seen or [done])[0] - began) * 1000, (done - began) * 1000


def _timed(work: Callable[[Photograph], None], shot: Photograph) -> float:
    began = time.perf_counter()
    work(shot)
    return (time.perf_counter() - began) * 1000


def _peak_mb() -> float:
    """VmHWM (proc(5)) of this process alone; getrusage would report the parent's peak across the exec."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return next(int(line.split()[1]) / 1024 for line in lines if line.startswith("VmHWM"))
