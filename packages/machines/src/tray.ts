/** Printed sheets of the shop, from any printer, for any cutter that takes them. */
import type { PrintedSheet } from './printed-sheet.ts';

const MOST = 30;

export class Tray {
  private readonly sheets: PrintedSheet[] = [];

  put(sheet: PrintedSheet): void {
    this.sheets.unshift(sheet);
    this.sheets.length = Math.min(this.sheets.length, MOST);
  }

  /** Newest first. */
  list(): readonly PrintedSheet[] {
    return this.sheets;
  }

  get(id: string): PrintedSheet | undefined {
    return this.sheets.find((sheet) => sheet.id === id);
  }
}
