// What the bench watches in the page. Painted: the field has the focus, and the whole picture of the answer it stands
// beside is there and in sight.
const painted = () => {
  const line = document.querySelector('.answer-line-at');
  const pictures = [...(line?.querySelectorAll('img[alt]:not([alt=""])') ?? [])];
  const field = line?.querySelector('.points-field');
  const box = line?.getBoundingClientRect();
  return pictures.length > 0 && pictures.every(one => one.complete && one.naturalWidth > 0) && box.top < innerHeight - 60
    && field && (field === document.activeElement || field.contains(document.activeElement)) ? line.dataset.answer : null;
};
const once = (done, test) => {
  const look = () => test() ? requestAnimationFrame(() => setTimeout(done, 0)) : requestAnimationFrame(look);
  requestAnimationFrame(look);
};
window.__first = null; window.__next = []; window.__ink = []; window.__blank = [0, 0];
once(() => { window.__first = performance.now(); }, painted);
addEventListener('keydown', event => {
  if (event.key !== 'Enter') return;
  const began = performance.now(), was = document.querySelector('.answer-line-at')?.dataset.answer;
  once(() => window.__next.push(performance.now() - began), () => { const now = painted(); return now && now !== was; });
}, true);
addEventListener('pointermove', event => {
  if (!event.buttons) return;
  const before = event.target.querySelector?.('path')?.getAttribute('d');
  requestAnimationFrame(() => setTimeout(() => {
    if (event.target.querySelector?.('path')?.getAttribute('d') !== before) window.__ink.push(performance.now() - event.timeStamp);
  }, 0));
}, true);
window.__watchBlank = () => {
  const roll = document.querySelector('.marking-roll'), box = roll.getBoundingClientRect();
  const look = () => {
    for (const cut of roll.querySelectorAll('.cut')) {
      const at = cut.getBoundingClientRect();
      if (at.bottom < box.top || at.top > box.bottom) continue;
      window.__blank[1] += 1;
      if (![...cut.querySelectorAll('img')].some(one => one.complete && one.naturalWidth > 0)) window.__blank[0] += 1;
    }
    requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
};
