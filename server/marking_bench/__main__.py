"""`./folio bench marking`: a class of 300: first paint, from Enter to the next answer, from pointer to ink, scrolling,
and how many keys twelve answers take."""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path

import numpy as np
from arrival_bench.stand import Stand, stand
from board_bench.chromium import chromium, signed_in
from board_bench.handed_in import handed_in
from playwright.sync_api import Browser, Page

from ops.running import manage

_STUDENTS = 300
_PAUSE_MS = 400  # a marker looks before the next key; what comes is fetched meanwhile
_AIMS_MS = {"first": 1000, "next": 100, "ink": 50}
_AIM_KEYS = 2  # an answer
_WATCH = (Path(__file__).parent / "watch.js").read_text()


def main() -> int:
    parser = argparse.ArgumentParser(prog="./folio bench marking", description=__doc__)
    parser.add_argument("--students", type=int, default=_STUDENTS)
    chosen = parser.parse_args()
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"  # Playwright runs an event loop in this thread
    with stand(Stand) as ready, chromium() as browser:
        work, _, cookie = handed_in("Marked", people=chosen.students, pages=4)
        manage(ready.environment, "collectstatic", "--noinput", "--verbosity", "0")
        ready.start("web")
        ready.wait_until_answering()
        address = f"http://127.0.0.1:{ready.port}/marking/{work}#3"
        print(f"{chosen.students} students, on loopback; no worker beside")
        print("| | times | median | 95th percentile | aim |\n|---|--:|--:|--:|--:|")
        good = _first(browser, address, cookie)
        page = _opened(browser, address, cookie)
        good &= _told("from Enter to the next answer painted, ms", _keys(page), _AIMS_MS["next"])
        good &= _told("from pointer to ink, ms", _ink(page), _AIMS_MS["ink"])
        blank, seen = _scrolled(page)
        print(f"| strips without any picture while scrolling, of {seen} seen | | {blank} | | 0 |")
        pressed = _twelve(page)
        print(f"| keys for twelve answers | | {pressed} | | {12 * _AIM_KEYS} |")
        good &= blank == 0 and pressed <= 12 * _AIM_KEYS
    return 0 if good else 1


def _opened(browser: Browser, address: str, cookie: str) -> Page:
    page = signed_in(browser, address.split("/marking")[0], cookie)
    page.add_init_script(_WATCH)
    page.goto(address)
    page.wait_for_selector(".answer-line-at .cut img")
    page.wait_for_timeout(2500)
    return page


def _first(browser: Browser, address: str, cookie: str) -> bool:
    """Without anything kept by the browser, and opened again, as on every day but the first."""
    fresh, again = [], []
    for _ in range(4):
        page = _opened(browser, address, cookie)
        fresh.append(float(page.evaluate("window.__first")))
        for _ in range(2):
            page.reload()
            page.wait_for_selector(".answer-line-at .cut img")
            page.wait_for_timeout(2500)
            again.append(float(page.evaluate("window.__first")))
        page.context.close()
    _told("first paint of marking, nothing kept yet, ms", fresh, _AIMS_MS["first"])
    return _told("first paint of marking, opened again, ms", again, _AIMS_MS["first"])


def _told(what: str, found: list[float], aim: int) -> bool:
    median, high = np.percentile(found, [50, 95])
    print(f"| {what} | {len(found)} | {median:.0f} | {high:.0f} | {aim} |")
    return bool(high <= aim)


def _keys(page: Page) -> list[float]:
    for at in range(60):
        page.keyboard.type(str(at % 5))
        page.keyboard.press("Enter")
        page.wait_for_timeout(_PAUSE_MS)
    return [float(one) for one in page.evaluate("window.__next.splice(0)")]


def _ink(page: Page) -> list[float]:
    box = page.locator(".answer-line-at .drawing-layer").first.bounding_box()
    assert box
    for stroke in range(12):
        y = box["y"] + 20 + 4 * stroke
        page.mouse.move(box["x"] + 40, y)
        page.mouse.down()
        for step in range(40):
            page.mouse.move(box["x"] + 40 + 9 * step, y + 6 * np.sin(step / 3))
            page.wait_for_timeout(16)
        page.mouse.up()
    return [float(one) for one in page.evaluate("window.__ink.splice(0)")]


def _scrolled(page: Page) -> tuple[int, int]:
    """By the wheel, as fast as a hand turns it, to the foot."""
    page.evaluate("window.__watchBlank()")
    page.mouse.move(500, 400)
    height = page.evaluate("document.querySelector('.marking-roll').scrollHeight")
    for _ in range(int(height // 240) + 1):
        page.mouse.wheel(0, 240)
        page.wait_for_timeout(40)
    blank, seen = page.evaluate("window.__blank")
    return int(blank), int(seen)


def _twelve(page: Page) -> int:
    """Keys until twelve more answers have points."""
    page.goto(page.url.split("#")[0] + "#4")
    page.wait_for_selector(".answer-line-at .points-field")
    page.wait_for_timeout(1500)
    pressed = 0
    for _ in range(12):
        for key in ("3", "Enter"):
            page.keyboard.press(key)
            pressed += 1
        page.wait_for_timeout(_PAUSE_MS)
    marked = page.locator(".marking-foot strong").inner_text()
    if not marked.startswith("12 of"):
        raise SystemExit(f"After {pressed} keys {marked} answers are marked, and not twelve.")
    return pressed


if __name__ == "__main__":
    sys.exit(main())
