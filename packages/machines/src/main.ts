/**
 * Starts the demo shop's simulated cutters and keeps them running until it is stopped.
 * LORVEK_TIME_SCALE: how many times faster than real ones (6); LORVEK_MACHINE_PORT: first of the ports (9410).
 */
import { SimulatedCutter, type CutterOptions } from './simulated-cutter.ts';
import { startFrontPanel } from './front-panel.ts';

const timeScale = Number(process.env.LORVEK_TIME_SCALE ?? 6);
const firstPort = Number(process.env.LORVEK_MACHINE_PORT ?? 9410);

const cutters: Omit<CutterOptions, 'port'>[] = [
  { name: 'Bench cutter 610', widthMm: 610, timeScale },
  { name: 'Camera cutter 1400', widthMm: 1400, timeScale },
];

for (const [index, options] of cutters.entries()) {
  const port = firstPort + 2 * index;
  const cutter = new SimulatedCutter({ ...options, port });
  await cutter.switchOn();
  await startFrontPanel(cutter, port + 1);
  process.stdout.write(`${options.name}: cut files on port ${port}, front panel http://127.0.0.1:${port + 1}\n`);
}

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0));
