/** Frame time of the drawing while 5 000 items are panned, in the real page, against clearing the same canvas. */
import { chromium } from '@playwright/test';
import { PAGE_ID, emptyDrawing, type BoxItem, type Film, type Page } from '@lorvek/model';

const base = process.env.LORVEK_URL ?? 'http://127.0.0.1:7410';
const post = async (path: string, body: unknown): Promise<{ id: string }> =>
  (await (
    await fetch(`${base}/api${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
  ).json()) as { id: string };

const { id } = await post('/jobs', { name: 'Bench: 5 000 items' });
const film: Film = {
  type: 'film',
  id: 'film-a',
  stockId: 'bench',
  name: 'Bench',
  series: 'Bench',
  hex: '#0f5e66',
  transfer: false,
  visible: true,
  locked: false,
};
const items: BoxItem[] = Array.from({ length: 5000 }, (_, k) => ({
  type: 'item',
  kind: 'box',
  id: `item-${k}`,
  name: `Box ${k}`,
  film: film.id,
  matrix: [1, 0, 0, 1, 12 * (k % 100), 12 * Math.floor(k / 100)],
  widthMm: 9,
  heightMm: 9,
  cornerMm: 2,
}));
const page = emptyDrawing()[PAGE_ID] as Page;
const patch = {
  [PAGE_ID]: { before: page, after: { ...page, films: [film.id], root: items.map((item) => item.id) } },
  [film.id]: { before: null, after: film },
  ...Object.fromEntries(items.map((item) => [item.id, { before: null, after: item }])),
};
await post(`/jobs/${id}/changes`, { changeId: `bench-${Date.now()}`, baseRevision: 0, origin: 'bench.fill', patch });

const browser = await chromium.launch({
  executablePath: process.env.LORVEK_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const view = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await view.goto(`${base}/jobs/${id}/draw`);
await view.getByRole('application', { name: 'Drawing' }).waitFor();
await view.waitForTimeout(3000);

/** Median time between frames while the page is kept busy by `work`. */
const frames = (kind: 'pan' | 'clear'): Promise<number> =>
  view.evaluate(async (what) => {
    const host = document.querySelector('[data-drawing]') as HTMLElement;
    const canvas = host.querySelector('canvas') as HTMLCanvasElement;
    const times: number[] = [];
    let last = performance.now();
    for (let k = 0; k < 90; k++) {
      if (what === 'pan')
        host.dispatchEvent(new WheelEvent('wheel', { deltaX: k % 2 ? 9 : -9, shiftKey: true, bubbles: true, cancelable: true }));
      else canvas.getContext('2d')?.clearRect(0, 0, canvas.width, canvas.height);
      await new Promise(requestAnimationFrame);
      const now = performance.now();
      times.push(now - last);
      last = now;
    }
    return times.sort((a, b) => a - b)[45] ?? 0;
  }, kind);

const panned = await frames('pan');
const cleared = await frames('clear');
process.stdout.write(
  `Panning 5 000 items\n    ${panned.toFixed(1)} ms a frame; clearing the same canvas: ${cleared.toFixed(1)} ms; ratio ${(panned / cleared).toFixed(2)}\n`,
);
await browser.close();
