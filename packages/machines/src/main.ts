/**
 * Starts the demo shop's simulated machines and keeps them running until it is stopped.
 * LORVEK_TIME_SCALE: how many times faster than real ones (6); LORVEK_MACHINE_PORT: first of the ports (9410).
 */
import { SimulatedCutter } from './simulated-cutter.ts';
import { SimulatedDeskPrinter } from './desk-printer.ts';
import { SimulatedPrinter } from './simulated-printer.ts';
import { startFrontPanel } from './front-panel.ts';
import { Tray } from './tray.ts';

const timeScale = Number(process.env.LORVEK_TIME_SCALE ?? 6);
const firstPort = Number(process.env.LORVEK_MACHINE_PORT ?? 9410);
const tray = new Tray();
/** The demo's camera cutter was calibrated for this. */
const CAMERA_OFF = { x: 0.6, y: -0.4 };

const machines = [
  (port: number) => new SimulatedCutter({ name: 'Bench cutter 610', port, widthMm: 610, timeScale }),
  (port: number) =>
    new SimulatedCutter({ name: 'Camera cutter 1400', port, widthMm: 1400, timeScale, hasCamera: true, cameraOff: CAMERA_OFF }, tray),
  (port: number) => new SimulatedPrinter({ name: 'Wide printer 1600', port, widthMm: 1600, timeScale }, tray),
  (port: number) => new SimulatedDeskPrinter({ name: 'Desk printer', port, timeScale }),
];

for (const [index, make] of machines.entries()) {
  const port = firstPort + 2 * index;
  const machine = make(port);
  await machine.switchOn();
  await startFrontPanel(machine, port + 1);
  process.stdout.write(`${machine.options.name}: work on port ${port}, front panel http://127.0.0.1:${port + 1}\n`);
}

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0));
