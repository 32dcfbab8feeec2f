/**
 * Frame times of the drawing with 5 000 items and 200 000 nodes all in view, in the real page: panning, zooming,
 * dragging one item. The reference is the same flattened paths drawn with bare canvas calls on a canvas of that size.
 */
import { chromium } from '@playwright/test';
import { PAGE_ID, emptyDrawing, pack, type Film, type Page, type ShapeItem } from '@lorvek/model';

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
const NODES = 40;

/** A wavy ring of 40 curves, about 9 mm across. */
function wavyPath(): string {
  const point = (k: number, far: number): string => {
    const angle = (2 * Math.PI * k) / NODES;
    const r = 3.6 + 0.7 * Math.cos(angle * 7) + far;
    return `${(4.5 + r * Math.cos(angle)).toFixed(3)} ${(4.5 + r * Math.sin(angle)).toFixed(3)}`;
  };
  const spans = Array.from({ length: NODES }, (_, k) => `C ${point(k + 1 / 3, 0.02)} ${point(k + 2 / 3, 0.02)} ${point(k + 1, 0)}`);
  return `M ${point(0, 0)} ${spans.join(' ')} Z`;
}

const path = wavyPath();
const items: ShapeItem[] = Array.from({ length: 5000 }, (_, k) => ({
  type: 'item',
  kind: 'shape',
  id: `item-${k}`,
  name: `Ring ${k}`,
  layer: film.id,
  matrix: [1, 0, 0, 1, 12 * (k % 100), 12 * Math.floor(k / 100)],
  // each its own path, so that nothing is shared between items
  path: path.replace(/Z$/, `L ${(4.5 + 4.3).toFixed(3)} ${(4.5 + k * 1e-7).toFixed(7)} Z`),
}));
const page = emptyDrawing()[PAGE_ID] as Page;
const patch = {
  [PAGE_ID]: { before: page, after: { ...page, layers: [film.id], root: items.map((item) => item.id) } },
  [film.id]: { before: null, after: film },
  ...Object.fromEntries(items.map((item) => [item.id, { before: null, after: item }])),
};
await post(`/jobs/${id}/changes`, { changeId: `bench-${Date.now()}`, baseRevision: 0, origin: 'bench.fill', patch: pack(patch) });

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
// the TypeScript loader names functions by a helper that the page does not have
await view.addInitScript('globalThis.__name = (f) => f');
await view.goto(`${base}/jobs/${id}/draw`);
await view.getByRole('application', { name: 'Drawing' }).waitFor();
await view.waitForTimeout(3000);

/** Mean time between frames while something is done in each. */
const frames = (what: 'pan' | 'zoom' | 'bare'): Promise<number> =>
  view.evaluate(
    async ([kind, nodes]) => {
      const host = document.querySelector('[data-drawing]') as HTMLElement;
      const size = host.getBoundingClientRect();
      const bare = document.createElement('canvas');
      bare.width = size.width;
      bare.height = size.height;
      const context = bare.getContext('2d') as CanvasRenderingContext2D;
      if (kind === 'bare') {
        bare.style.cssText = 'position:fixed;inset:0;z-index:99';
        document.body.append(bare);
      }
      const ring = Array.from({ length: nodes * 3 }, (_, k) => {
        const angle = (2 * Math.PI * k) / (nodes * 3);
        const r = 3.6 + 0.7 * Math.cos(angle * 7);
        return [4.5 + r * Math.cos(angle), 4.5 + r * Math.sin(angle)] as const;
      });
      const paint = (shift: number): void => {
        context.setTransform(1, 0, 0, 1, 0, 0);
        context.fillStyle = '#e9e3d5';
        context.fillRect(0, 0, bare.width, bare.height);
        context.fillStyle = '#0f5e66';
        const scale = Math.min(size.width / 1250, size.height / 650);
        for (let item = 0; item < 5000; item++) {
          context.setTransform(scale, 0, 0, scale, shift + scale * 12 * (item % 100), scale * 12 * Math.floor(item / 100));
          context.beginPath();
          ring.forEach(([x, y], k) => (k === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
          context.fill();
        }
      };
      const wheel = (options: WheelEventInit): void =>
        void host.dispatchEvent(
          new WheelEvent('wheel', {
            clientX: size.x + size.width / 2,
            clientY: size.y + size.height / 2,
            bubbles: true,
            cancelable: true,
            ...options,
          }),
        );
      const drawn = kind === 'bare' ? bare : (host.querySelector('canvas') as HTMLCanvasElement);
      const times: number[] = [];
      let last = performance.now();
      for (let k = 0; k < 60; k++) {
        if (kind === 'pan') wheel({ deltaX: k % 2 ? 9 : -9, shiftKey: true });
        else if (kind === 'zoom') wheel({ deltaY: k % 2 ? 20 : -20 });
        else paint(k % 2 ? 9 : 0);
        await new Promise(requestAnimationFrame);
        // asks for a pixel, so that the picture is really there and not only noted down
        drawn.getContext('2d')?.getImageData(1, 1, 1, 1);
        const now = performance.now();
        times.push(now - last);
        last = now;
      }
      bare.remove();
      return times.reduce((sum, ms) => sum + ms, 0) / times.length;
    },
    [what, NODES] as const,
  );

/** Mean time between frames while one item is dragged with the mouse. */
async function dragging(): Promise<number> {
  const box = await view.getByRole('application', { name: 'Drawing' }).boundingBox();
  if (!box) throw new Error('no drawing');
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  // the nearest ring to the middle: look for a place that takes hold of one
  for (let k = 0; k < 40; k++) {
    await view.mouse.click(x + (k % 8) * 2, y + Math.floor(k / 8) * 2);
    if ((await view.getByTestId('selection').count()) > 0) break;
  }
  const frame = await view.getByTestId('selection').locator('polygon').last().boundingBox();
  if (!frame) throw new Error('nothing was taken hold of');
  await view.evaluate(() => {
    const times: number[] = [];
    let last = performance.now();
    const tick = (): void => {
      const now = performance.now();
      times.push(now - last);
      last = now;
      if (times.length < 600) requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
    (window as unknown as { benchTimes: number[] }).benchTimes = times;
  });
  await view.mouse.move(frame.x + 1.5, frame.y + frame.height / 2);
  await view.mouse.down();
  for (let k = 0; k < 60; k++) await view.mouse.move(frame.x + 2 + k, frame.y + frame.height / 2 + (k % 3));
  const times = await view.evaluate(() => (window as unknown as { benchTimes: number[] }).benchTimes);
  await view.mouse.up();
  return times.reduce((sum, ms) => sum + ms, 0) / times.length;
}

const bare = await frames('bare');
const panned = await frames('pan');
const zoomed = await frames('zoom');
const dragged = await dragging();
const line = (what: string, ms: number): string =>
  `${what}\n    ${ms.toFixed(1)} ms a frame; the same flattened paths with bare canvas calls: ${bare.toFixed(1)} ms; ratio ${(ms / bare).toFixed(2)}\n`;
process.stdout.write(
  line('Panning 5 000 items of 200 000 nodes', panned) + line('Zooming them', zoomed) + line('Dragging one of them', dragged),
);
await browser.close();
