"""Headless Chromium, signed in by cookie, with what the browser itself measures."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from playwright.sync_api import Browser, Page, sync_playwright

FLAGS = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-sync"]

# From the event to the next frame that shows what it did (W3C Event Timing; in steps of 8 ms). It tells nothing of
# those below 16 ms, so all are counted.
UNTOLD_MS = 16.0
OBSERVE = """
window.__felt = [];
window.__made = 0;
const kinds = ['keydown', 'pointerdown', 'pointerup', 'click'];
kinds.forEach(kind => addEventListener(kind, () => { window.__made += 1; }, { capture: true, passive: true }));
new PerformanceObserver(list => list.getEntries().forEach(one => {
  if (kinds.includes(one.name)) window.__felt.push(one.duration);
})).observe({ type: 'event', durationThreshold: 16, buffered: true });
new MutationObserver((_, tiles) => {
  if (!document.querySelector('.tile')) return;
  tiles.disconnect();
  requestAnimationFrame(() => requestAnimationFrame(() => { window.__useful = performance.now(); }));
}).observe(document, { childList: true, subtree: true });
new MutationObserver((_, headings) => {
  if (!document.querySelector('h1')) return;
  headings.disconnect();
  window.__first = performance.now();
}).observe(document, { childList: true, subtree: true });
"""


@contextmanager
def chromium() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield browser
        browser.close()


def signed_in(browser: Browser, address: str, cookie: str, **options: Any) -> Page:
    """A page of a fresh browser: nothing is cached."""
    chosen = {"viewport": {"width": 1280, "height": 800}, "service_workers": "block"} | options
    context = browser.new_context(**chosen)
    context.add_cookies([{"name": os.environ["FOLIO_SESSION_COOKIE"], "value": cookie, "url": address}])
    context.add_init_script(OBSERVE)
    return context.new_page()


def useful(page: Page) -> float:
    """Seconds from asking for the page to the frame after the one with the first pages on the board."""
    page.wait_for_selector(".tile")
    page.wait_for_timeout(3000)
    return float(page.evaluate("window.__useful")) / 1000


def felt(page: Page) -> list[float]:
    """Milliseconds from key or pointer to painted of every event since last asked, ascending; `UNTOLD_MS` where it took
    less."""
    page.wait_for_timeout(150)
    told, made = page.evaluate("[window.__felt.splice(0), window.__made]")
    page.evaluate("window.__made = 0")
    return sorted([*told, *[UNTOLD_MS] * (made - len(told))])


def scripts(page: Page, *, first: bool = False) -> int:
    """Bytes of all JavaScript that was fetched, as it came over the line. ``first``: only of what was asked for before
    the screen's heading stood there; what the browser fetches when it has nothing to do comes after that."""
    return int(
        page.evaluate(
            "until => performance.getEntriesByType('resource').filter(one => one.name.endsWith('.js'))"
            ".filter(one => !until || one.startTime < window.__first)"
            ".reduce((sum, one) => sum + one.encodedBodySize, 0)",
            first,
        )
    )


_WALKING = """
let at = 0;
const label = Object.assign(document.createElement('p'), { textContent: 'Page 1' });
addEventListener('DOMContentLoaded', () => {
  const tiles = [...document.querySelectorAll('.tile-sheet')];
  document.querySelector('.board-foot').append(label);
  addEventListener('keydown', () => {
    tiles[at].classList.remove('tile-chosen');
    at = (at + 1) % tiles.length;
    tiles[at].classList.add('tile-chosen');
    label.textContent = `Page ${at + 1}`;
  });
});
"""


def static_copy(page: Page) -> Page:
    """The same elements and styles without the application: a key marks the next tile, and nothing else is done. What
    the browser needs for that on this machine is the floor of any board of so many elements."""
    bare = re.sub(r"<script\b.*?</script>|<link[^>]*modulepreload[^>]*>", "", page.content(), flags=re.DOTALL)
    copy = page.context.new_page()
    copy.add_init_script(_WALKING)
    copy.route("**/static-copy", lambda route: route.fulfill(body=bare, content_type="text/html"))
    copy.goto(f"{page.url.split('/folios/')[0]}/static-copy")
    copy.wait_for_selector(".tile img")
    return copy
