/**
 * A cut file in pieces that a machine does in a moment, so that little lies in its buffers and a pause or a stop comes
 * soon. Each piece ends where the tool's place is known. Moves longer than a piece are parted on the way; parted places
 * are rounded to the language's unit, so a line strays by half a unit (0.0125 mm) at most.
 * Absolute HP-GL as `writeHpgl` of the core writes it; a command it does not write passes as it is.
 */

export interface CutPiece {
  readonly text: string;
  /** Where the tool is when the piece is done, plotter units; undefined while no move has said so. */
  readonly end: readonly [number, number] | undefined;
  /** Way of the tool, down and up, mm. */
  readonly wayMm: number;
}

const UNITS_PER_MM = 40;
/** Way in one piece, mm. */
export const PIECE_MM = 60;
const PIECE_COMMANDS = 80;

class Cutter {
  readonly pieces: CutPiece[] = [];
  private text = '';
  private commands = 0;
  private way = 0;
  private at: readonly [number, number] | undefined;

  put(command: string): void {
    this.text += command;
    this.commands++;
    if (this.commands >= PIECE_COMMANDS) this.close();
  }

  /** A move, parted where it is long. */
  move(name: 'PU' | 'PD', x: number, y: number): void {
    const from = this.at ?? [0, 0];
    const long = Math.hypot(x - from[0], y - from[1]) / UNITS_PER_MM;
    const parts = Math.max(1, Math.ceil(long / PIECE_MM));
    for (let k = 1; k <= parts; k++) {
      const [px, py] = [Math.round(from[0] + ((x - from[0]) * k) / parts), Math.round(from[1] + ((y - from[1]) * k) / parts)];
      this.way += long / parts;
      this.at = [px, py];
      this.put(`${name}${px},${py};`);
      if (this.way >= PIECE_MM) this.close();
    }
  }

  close(): void {
    if (this.text !== '') this.pieces.push({ text: this.text, end: this.at, wayMm: this.way });
    this.text = '';
    this.commands = 0;
    this.way = 0;
  }
}

/**
 * @param bytes a whole cut file
 * @param origin where its own origin lies on the machine, mm
 * @complexity its length
 */
export function cutPieces(bytes: Uint8Array, origin: { readonly x: number; readonly y: number } = { x: 0, y: 0 }): CutPiece[] {
  const [left, low] = [origin.x, origin.y].map((mm) => Math.round(mm * UNITS_PER_MM)) as [number, number];
  const cutter = new Cutter();
  for (const raw of Buffer.from(bytes).toString('latin1').split(';')) {
    const command = raw.trim();
    if (command === '') continue;
    const name = command.slice(0, 2).toUpperCase();
    const numbers = name === 'PU' || name === 'PD' ? command.slice(2).split(',').map(Number) : [];
    if ((name === 'PU' || name === 'PD') && numbers.length >= 2 && numbers.every(Number.isFinite))
      for (let i = 0; i + 1 < numbers.length; i += 2) cutter.move(name, (numbers[i] as number) + left, (numbers[i + 1] as number) + low);
    else cutter.put(`${command};`);
  }
  cutter.close();
  return cutter.pieces;
}
