/** Simulated machines that speak over TCP what real ones speak: transport × language × faults. */
export { SimulatedCutter, type CutterOptions, type CutterReport } from './simulated-cutter.ts';
export { SimulatedPrinter, type PrinterOptions } from './simulated-printer.ts';
export { startFrontPanel } from './front-panel.ts';
export { HpglReader, type CutterCommand } from './hpgl-reader.ts';
export { FAULTS, Faults, type FaultName } from './faults.ts';
export { Tray } from './tray.ts';
export { PrintedSheet } from './printed-sheet.ts';
export { readPrint, type ReadPage } from './print-reader.ts';
export { LoadedSheet, USUAL_HIDDEN, type Hidden } from './loaded-sheet.ts';
export { seekCode, seekMark } from './camera.ts';
export { SimulatedDeskPrinter, type DeskPrinterOptions } from './desk-printer.ts';
