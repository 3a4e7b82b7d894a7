"""`./folio bench reader`: from a key to the next answer painted, to the next question and to the next student."""

from __future__ import annotations

import argparse
import os
import sys

import numpy as np
from arrival_bench.stand import Stand, stand
from board_bench.chromium import chromium, signed_in
from board_bench.handed_in import handed_in
from playwright.sync_api import Browser, Page

from ops.running import manage

_AIM_MS = 150
_PAUSE_MS = 500  # a reader looks before the next key; the one beside is fetched meanwhile
# From the key to the frame after the one that shows another question or student, with the picture of its answer whole
# and in sight.
_WATCH = """
window.__turns = [];
addEventListener('keydown', event => {
  if (event.key !== 'ArrowRight' && event.key !== 'ArrowLeft') return;
  const began = performance.now();
  const was = location.pathname + location.hash;
  const look = () => {
    const picture = document.querySelector('.reader-answer img');
    const name = document.querySelector('.reading-head h1')?.textContent;
    const there = location.pathname + location.hash !== was && name && document.title.includes(name) && picture
      && picture.complete && picture.naturalWidth > 0 && picture.getBoundingClientRect().top < innerHeight;
    if (!there) return requestAnimationFrame(look);
    requestAnimationFrame(() => setTimeout(() => window.__turns.push(performance.now() - began), 0));
  };
  requestAnimationFrame(look);
}, true);
"""


def main() -> int:
    parser = argparse.ArgumentParser(prog="./folio bench reader", description=__doc__)
    parser.parse_args()
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"  # Playwright runs an event loop in this thread
    with stand(Stand) as ready, chromium() as browser:
        few = _reading("Few", people=20, pages=8)
        many = _reading("Many", people=6, pages=60)
        manage(ready.environment, "collectstatic", "--noinput", "--verbosity", "0")
        ready.start("web")
        ready.wait_until_answering()
        address = f"http://127.0.0.1:{ready.port}"
        print("from a key to the next answer painted, on loopback")
        print("| | keys | median ms | 95th percentile ms | aim |\n|---|--:|--:|--:|--:|")
        good = True
        for words, (path, cookie), times in (("8 pages a student", few, 19), ("60 pages a student", many, 5)):
            good &= _walked(browser, address, path, cookie, words, times)
    return 0 if good else 1


def _walked(browser: Browser, address: str, path: str, cookie: str, words: str, times: int) -> bool:
    page = signed_in(browser, address, cookie)
    page.add_init_script(_WATCH)
    page.goto(address + path)
    page.wait_for_selector(".reader-answer img")
    page.wait_for_timeout(2000)
    students = _turns(page, ["Shift+ArrowRight"] * times + ["Shift+ArrowLeft"] * times)
    questions = _turns(page, ["ArrowRight"] * 7 + ["ArrowLeft"] * 7)
    page.context.close()
    good = True
    for what, found in (("student", students), ("question", questions)):
        median, high = np.percentile(found, [50, 95])
        print(f"| {words}, next {what} | {len(found)} | {median:.0f} | {high:.0f} | {_AIM_MS} |")
        good &= high <= _AIM_MS
    return good


def _turns(page: Page, keys: list[str]) -> list[float]:
    for key in keys:
        page.keyboard.press(key)
        page.wait_for_timeout(_PAUSE_MS)
    return [float(one) for one in page.evaluate("window.__turns.splice(0)")]


def _reading(title: str, *, people: int, pages: int) -> tuple[str, str]:
    """Where the first of so many handed-in folios is read, and the cookie of one who teaches the course."""
    work, folio, cookie = handed_in(title, people=people, pages=pages)
    return f"/reading/{work}/{folio}/1#1", cookie


if __name__ == "__main__":
    sys.exit(main())
