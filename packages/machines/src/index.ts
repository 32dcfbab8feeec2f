/** Simulated machines that speak over TCP what real ones speak. */
export { SimulatedCutter, type CutterOptions, type CutterReport } from './simulated-cutter.ts';
export { startFrontPanel } from './front-panel.ts';
export { HpglReader, type CutterCommand } from './hpgl-reader.ts';
