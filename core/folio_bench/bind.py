"""`./folio bench bind`: what binding costs beside the least that must be done, in the same run."""

from __future__ import annotations

import argparse
import io
import multiprocessing
import resource
import statistics
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import img2pdf
import numpy as np
from PIL import Image

from folio_core.binding import BYTES_PER_PAGE, BoundPage, Footer, Landing, Paper, Title, bind, within
from folio_core.binding.budget import STEPS, Step, encoded

_MADE = datetime(2026, 11, 24, 15, 59, 41, tzinfo=UTC)
_SIZE = (1654, 2339)  # A4 at 200 dpi


def add_command(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    parser = commands.add_parser("bind", help="binding beside img2pdf, encoding beside one bare pass, and memory")
    parser.add_argument("--rounds", type=int, default=7)
    parser.set_defaults(run=_run)


def _run(chosen: argparse.Namespace) -> None:
    pages = [_page(number, grain=10) for number in range(20)]
    bare, ours = _in_turn(
        chosen.rounds, lambda: img2pdf.convert([page.image() for page in pages]), lambda: _bound(pages)
    )
    print(
        f"20 pages laid out: img2pdf {bare * 1000:.0f} ms, bound {ours * 1000:.0f} ms: {ours / bare:.2f} times (aim 3)"
    )
    heavy = [_page(number, grain=60) for number in range(20)]
    step = _step(heavy)
    bare, ours = _in_turn(
        chosen.rounds, lambda: [encoded(page.image(), step) for page in heavy], lambda: _lighter(heavy)
    )
    before = sum(len(page.image()) for page in heavy) / 1e6
    print(
        f"20 pages of {before:.1f} MB made to fit {BYTES_PER_PAGE * 20 / 1e6:.0f} MB: one bare pass at "
        f"{step} {bare:.2f} s, ours {ours:.2f} s: {ours / bare:.2f} times (aim 1.2)"
    )
    few, many = _peak_mb(20), _peak_mb(300)
    print(f"Memory at its peak: {few:.0f} MB for 20 pages, {many:.0f} MB for 300: {many / few:.2f} times (aim: flat)")


def _page(number: int, grain: int) -> BoundPage:
    """Writing-like strokes on paper with a camera's grain."""
    random = np.random.default_rng(number)
    sheet = np.full((_SIZE[1], _SIZE[0]), 235, np.int16)
    for row in range(150, _SIZE[1] - 150, 60):
        columns = random.integers(150, _SIZE[0] - 150, 400)
        sheet[row : row + 30, columns] = 60
    sheet += random.integers(-grain, grain + 1, sheet.shape, dtype=np.int16)
    out = io.BytesIO()
    Image.fromarray(sheet.clip(0, 255).astype(np.uint8)).convert("RGB").save(out, "JPEG", quality=85)
    return BoundPage(out.getvalue, *_SIZE, f"Page {number + 1} of 20", Footer("Ilse Marrow", f"page {number + 1}"))


def _bound(pages: list[BoundPage]) -> None:
    landings = [Landing(f"{number + 1}", number, 0.3) for number in range(len(pages))]
    with tempfile.TemporaryDirectory() as folder:
        bind(pages, landings, Title("NAV 231", "Ilse"), Paper.A4, _MADE, Path(folder) / "out.pdf", receipt_follows=True)


def _step(pages: list[BoundPage]) -> Step:
    """The first at which they fit, found by trying."""
    for step in STEPS:
        if sum(len(encoded(page.image(), step)) for page in pages) <= BYTES_PER_PAGE * len(pages):
            return step
    return STEPS[-1]


def _lighter(pages: list[BoundPage]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        within(pages, BYTES_PER_PAGE * len(pages), Path(folder))


def _in_turn(rounds: int, *ways: Callable[[], object]) -> list[float]:
    """The median seconds of each way; they take turns, so that a noisy moment falls on all."""
    seconds: list[list[float]] = [[] for _ in ways]
    for _ in range(rounds):
        for way, taken in zip(ways, seconds, strict=True):
            began = time.perf_counter()
            way()
            taken.append(time.perf_counter() - began)
    return [statistics.median(taken) for taken in seconds]


def _peak_mb(count: int) -> float:
    """Of a process of its own that binds so many pages, each read when its turn has come."""
    with multiprocessing.get_context("spawn").Pool(1) as pool:
        return pool.apply(_bind_from_files, (count,))


def _bind_from_files(count: int) -> float:
    with tempfile.TemporaryDirectory() as folder:
        pages = []
        for number in range(count):
            page, file = _page(number % 20, grain=10), Path(folder) / f"{number}.jpg"
            file.write_bytes(page.image())
            pages.append(BoundPage(file.read_bytes, *_SIZE, page.words, page.footer))
        _bound(pages)
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
