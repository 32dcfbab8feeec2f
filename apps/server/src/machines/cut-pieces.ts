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

/** What is left of a file that was begun. */
export interface RestOfCut {
  /** The piece of the whole file that it begins in. */
  readonly from: number;
  readonly pieces: readonly CutPiece[];
}

const commandsOf = ({ text }: CutPiece): string[] => text.split(/(?<=;)/);
const isTravel = (command: string): boolean => /^PU-?\d/.test(command);

/**
 * A cut that stopped goes on at the beginning of the line that was under way: the blade runs once more through what it cut
 * of it, and leaves no gap. Nothing is initialised, for the sheet and the machine's origin are to stay; the last tool and
 * what was said of it are chosen again.
 * @param pieces a whole cut file @param done so many of them were done for certain
 */
export function restOf(pieces: readonly CutPiece[], done: number): RestOfCut {
  const begun = pieces.slice(0, Math.min(done, pieces.length - 1) + 1);
  let [setup, setupThere]: [string[], string[]] = [[], []];
  let start = { piece: 0, command: 0 };
  begun.forEach((piece, p) => {
    const commands = commandsOf(piece);
    // of the piece that may have been cut in part: what comes before its first line
    const known = p < done ? commands.length : commands.findIndex((command) => command.startsWith('PD'));
    commands.slice(0, known < 0 ? commands.length : known).forEach((command, c) => {
      if (command.startsWith('SP')) setup = [];
      if (isTravel(command)) [start, setupThere] = [{ piece: p, command: c }, setup];
      else if (!/^(IN|PA|PU|PD)/.test(command)) setup = [...setup, command];
    });
  });
  const first = pieces[start.piece];
  if (!first) return { from: 0, pieces };
  const text = ['PU;PA;', ...setupThere, ...commandsOf(first).slice(start.command)].join('');
  return { from: start.piece, pieces: [{ ...first, text }, ...pieces.slice(start.piece + 1)] };
}
