"""`./folio bench board`: how quick the board is, how much it weighs, and what twenty-two parts on six pages cost."""

from __future__ import annotations

import argparse
import os
import re
import sys
import time
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from arrival_bench.stand import Stand, stand
from playwright.sync_api import Browser, Page

from ops.running import manage

from .chromium import chromium, felt, scripts, signed_in, static_copy, useful

if TYPE_CHECKING:
    from .folios import Ready

_PARTS = "1a-d, 2a-e, 3a-c, 4, 5a-d, 6a-e"  # 22
_LINES = ("1a-d", "2a-b", "2c-e, 3a", "3bc", "4, 5", "6")  # what is on each of the six pages
_KEY_MS = 120  # between two keys: a fair typist
_LOOK_MS = 600  # at each page before it is typed or swept


def main() -> int:
    parser = argparse.ArgumentParser(prog="./folio bench board", description=__doc__)
    parser.add_argument("--proposals", action="store_true", help="with one on every page, and the workers beside")
    chosen = parser.parse_args()
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"  # Playwright runs an event loop in this thread
    with stand(Stand) as ready, chromium() as browser:
        from .folios import folio, propose_all  # needs Django set up, which the stand does

        many = folio("Many", 60, ", ".join(f"{number}a-d" for number in range(1, 16)))
        manage(ready.environment, "collectstatic", "--noinput", "--verbosity", "0")
        if chosen.proposals:
            propose_all(many)
            ready.start_workers()
        ready.start("web")
        ready.wait_until_answering()
        address = f"http://127.0.0.1:{ready.port}"
        good = _opening(browser, address, many) & _quickness(browser, address, many)
        good &= _task("keyboard", 12, 20, browser, ready, _by_keyboard)
        good &= _task("pointer", 15, None, browser, ready, _by_pointer)
        _task("touch", None, None, browser, ready, _by_touch)
    return 0 if good else 1


def _opening(browser: Browser, address: str, many: Ready) -> bool:
    print("opening the board of 60 pages × 60 questions, nothing cached, on loopback")
    seconds = []
    for _ in range(5):
        page = signed_in(browser, address, many.cookie)
        page.goto(f"{address}/folios/{many.folio_id}", wait_until="commit")
        seconds.append(useful(page))
        weight = scripts(page)
        page.context.close()
    first = signed_in(browser, address, many.cookie)
    first.goto(address)
    first.wait_for_selector("h1")
    first.wait_for_timeout(500)
    first_weight = scripts(first, first=True)
    first.context.close()
    median = float(np.median(seconds))
    print("| | measured | aim |\n|---|--:|--:|")
    print(f"| first useful paint, median of 5, s | {median:.2f} | 1 |")
    print(f"| JavaScript of the first screen, kB as sent | {first_weight / 1000:.0f} | 350 |")
    print(f"| with the board, kB as sent | {weight / 1000:.0f} | 500 |")
    return median <= 1 and first_weight <= 350_000 and weight <= 500_000


def _quickness(browser: Browser, address: str, many: Ready) -> bool:
    page = signed_in(browser, address, many.cookie)
    page.goto(f"{address}/folios/{many.folio_id}")
    page.wait_for_selector(".tile img")
    page.wait_for_timeout(2500)
    floor = _floor(page)
    felt(page)
    runs: list[tuple[str, Callable[[], None]]] = [
        ("walking by key", lambda: _press(page, "ArrowRight", 59)),
        ("typing a label", lambda: _type(page, "7a-c, 9d, 11")),
        ("placing by Enter", lambda: _place(page, many.labels[:40])),
        ("a page to another place", lambda: _press(page, "Alt+ArrowLeft", 20)),
        ("undo", lambda: _press(page, "Control+z", 20)),
        ("choosing by click", lambda: _click(page)),
        ("sweeping", lambda: _sweep_some(page)),
    ]
    print("\nfrom key or pointer to painted, 60 pages × 60 questions (Event Timing; less than 16 ms counts as 16)")
    print("| | events | median ms | 95th percentile ms |\n|---|--:|--:|--:|")
    every: list[float] = []
    for name, run in runs:
        run()
        found = felt(page)
        every += found
        median, high = np.percentile(found, [50, 95]) if found else (0, 0)
        print(f"| {name} | {len(found)} | {median:.0f} | {high:.0f} |")
    high = float(np.percentile(every, 95)) if every else 0.0
    print(f"| all | {len(every)} | {np.median(every) if every else 0:.0f} | {high:.0f} (aim 50) |")
    print(f"| a static copy of the same elements, one mark moved by a key | 59 | {floor[0]:.0f} | {floor[1]:.0f} |")
    print(f"\nRatio of the 95th percentiles to the static copy: {high / floor[1]:.2f}")
    page.context.close()
    return high <= 50


def _floor(page: Page) -> tuple[float, float]:
    """Median and 95th percentile of the static copy, in milliseconds."""
    copy = static_copy(page)
    copy.wait_for_timeout(2500)
    felt(copy)
    for _ in range(59):
        copy.keyboard.press("ArrowRight")
        copy.wait_for_timeout(40)
    median, high = np.percentile(felt(copy), [50, 95])
    copy.close()
    return float(median), float(high)


def _press(page: Page, key: str, times: int) -> None:
    page.locator("#label-line").focus()
    for _ in range(times):
        page.keyboard.press(key)
        page.wait_for_timeout(40)


def _type(page: Page, text: str) -> None:
    page.locator("#label-line").focus()
    page.keyboard.type(text, delay=40)
    page.keyboard.press("Escape")


def _place(page: Page, labels: tuple[str, ...]) -> None:
    page.keyboard.press("Home")
    for label in labels:
        page.keyboard.type(label, delay=15)
        page.keyboard.press("Enter")
        page.wait_for_timeout(40)


def _click(page: Page) -> None:
    tiles = page.locator(".tile-sheet")
    for number in range(0, 60, 4):
        tiles.nth(number).click()


def _sweep_some(page: Page) -> None:
    for row in range(0, 8, 2):
        _sweep(page, f"{row // 4 + 1}{'abcd'[row % 4]}", f"{row // 4 + 1}{'abcd'[row % 4]}", 1, 4)


def _sweep(page: Page, first: str, last: str, column: int, last_column: int) -> None:
    """One drag over the rows from one label to another."""
    rows = [page.locator(f'.ribbon-cells[data-labels="{label}"]') for label in (first, last)]
    rows[1].evaluate("row => row.scrollIntoView({ block: 'end' })")  # so that the rows above it are in view too
    boxes = [row.bounding_box() for row in rows]
    width = float(rows[0].get_attribute("data-width") or 0)
    if boxes[0] is None or boxes[1] is None:
        raise RuntimeError(f"The rows {first} and {last} are not in view.")
    page.mouse.move(boxes[0]["x"] + width * (column - 0.6), boxes[0]["y"] + 12)
    page.mouse.down()
    page.mouse.move(boxes[1]["x"] + width * (last_column - 0.6), boxes[1]["y"] + 14, steps=8)
    page.mouse.up()


def _task(
    name: str, most: int | None, seconds: float | None, browser: Browser, ready: Stand, way: Callable[[Page], int]
) -> bool:
    """Twenty-two parts on six pages, and whether all of them were saved where they belong."""
    from folios.models import Folio

    from .folios import folio

    work = folio(f"Task by {name}", 6, _PARTS)
    address = f"http://127.0.0.1:{ready.port}"
    phone = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
    page = signed_in(browser, address, work.cookie, **(phone if name == "touch" else {}))
    page.goto(f"{address}/folios/{work.folio_id}")
    page.wait_for_selector(".tile img")
    page.wait_for_timeout(1000)
    begun = time.monotonic()
    actions = way(page)
    took = time.monotonic() - begun
    page.wait_for_timeout(1500)
    placements = Folio.objects.get(pk=work.folio_id).arrangement["placements"]
    page.context.close()
    done = sum(len(row) == 1 for row in placements.values())
    aim = f"aim {most} actions" + (f", {seconds:.0f} s" if seconds else "") if most else "no aim"
    looks = f"{_LOOK_MS} ms of looking at each page" + (f", {_KEY_MS} ms a key" if name == "keyboard" else "")
    print(f"\n22 parts on 6 pages by {name}: {actions} actions, {took:.1f} s with {looks} ({aim}); {done} of 22 saved")
    return done == 22 and (most is None or actions <= most) and (seconds is None or took <= seconds)


def _by_keyboard(page: Page) -> int:
    for line in _LINES:
        page.wait_for_timeout(_LOOK_MS)
        page.keyboard.type(line, delay=_KEY_MS)
        page.keyboard.press("Enter")
    return len(_LINES)


def _by_pointer(page: Page) -> int:
    spans = (("1a", "1d"), ("2a", "2b"), ("2c", "3a"), ("3b", "3c"), ("4", "5d"), ("6a", "6e"))
    for column, (first, last) in enumerate(spans, 1):
        page.wait_for_timeout(_LOOK_MS)
        _sweep(page, first, last, column, column)
    return len(spans)


def _by_touch(page: Page) -> int:
    pages = (
        ("1a", "1b", "1c", "1d"), ("2a", "2b"), ("2c", "2d", "2e", "3a"), ("3b", "3c"),
        ("4", "5a", "5b", "5c", "5d"), ("6a", "6b", "6c", "6d", "6e"),
    )  # fmt: skip
    actions = 0
    for number, labels in enumerate(pages):
        page.wait_for_timeout(_LOOK_MS)
        for label in labels:
            page.locator(".phone-pad .pad-keys").get_by_role("button", name=re.compile(rf"^{label}\b")).tap()
        actions += len(labels)
        if number < len(pages) - 1:
            page.get_by_role("button", name="Next →").tap()
            actions += 1
    return actions


if __name__ == "__main__":
    sys.exit(main())
