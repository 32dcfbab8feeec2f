/**
 * The language of a cutter as it arrives: bytes in, commands out, broken pieces kept until the rest comes.
 * Device control (ESC . x) is answered at once, out of turn, as the standard says (HP-GL, device-control
 * instructions); everything else takes its turn in the buffer. Unknown commands are counted and skipped.
 */
import type { MarkShape } from './camera.ts';

export type CutterCommand =
  | { readonly kind: 'initialise' }
  | { readonly kind: 'tool'; readonly tool: number }
  | { readonly kind: 'speed'; readonly mmPerS: number }
  | { readonly kind: 'force'; readonly grams: number }
  | { readonly kind: 'move'; readonly x: number; readonly y: number; readonly down: boolean }
  | { readonly kind: 'lift'; readonly down: boolean }
  | { readonly kind: 'ask'; readonly what: string }
  /** Questions to the camera. */
  | { readonly kind: 'read-code' }
  | { readonly kind: 'look'; readonly x: number; readonly y: number; readonly shape: MarkShape };

const ESCAPE = 0x1b;
const MM_PER_UNIT = 0.025;
/** A command longer than this is damage. */
const LONGEST = 100_000;

export interface ReaderEvents {
  /** ESC . x, to be answered at once. */
  onControl(letter: string): void;
}

export class HpglReader {
  private text = '';
  private absolute = true;
  private x = 0;
  private y = 0;
  private down = false;
  unknown = 0;
  private readonly events: ReaderEvents;

  constructor(events: ReaderEvents) {
    this.events = events;
  }

  /** Takes bytes as they come. @returns the commands that became whole */
  push(bytes: Uint8Array): CutterCommand[] {
    for (let i = 0; i < bytes.length; i++) {
      const byte = bytes[i] as number;
      if (byte === ESCAPE && i + 2 < bytes.length && bytes[i + 1] === 0x2e) {
        this.events.onControl(String.fromCharCode(bytes[i + 2] as number));
        i += 2;
      } else this.text += String.fromCharCode(byte);
    }
    const out: CutterCommand[] = [];
    for (let end = this.text.indexOf(';'); end >= 0; end = this.text.indexOf(';')) {
      out.push(...this.command(this.text.slice(0, end).trim()));
      this.text = this.text.slice(end + 1);
    }
    if (this.text.length > LONGEST) {
      this.text = '';
      this.unknown++;
    }
    return out;
  }

  /** Forgets what is half read. */
  clear(): void {
    this.text = '';
  }

  private command(text: string): CutterCommand[] {
    if (text === '') return [];
    const name = text.slice(0, 2).toUpperCase();
    const numbers = text
      .slice(2)
      .split(/[\s,]+/)
      .filter(Boolean)
      .map(Number);
    if (numbers.some((n) => !Number.isFinite(n))) {
      this.unknown++;
      return [];
    }
    switch (name) {
      case 'IN':
        Object.assign(this, { x: 0, y: 0, down: false, absolute: true });
        return [{ kind: 'initialise' }];
      case 'PA':
      case 'PR':
        this.absolute = name === 'PA';
        return this.moves(numbers);
      case 'PU':
      case 'PD':
        this.down = name === 'PD';
        return [{ kind: 'lift', down: this.down }, ...this.moves(numbers)];
      case 'SP':
        return [{ kind: 'tool', tool: numbers[0] ?? 0 }];
      case 'VS':
        return [{ kind: 'speed', mmPerS: 10 * (numbers[0] ?? 40) }];
      case 'FS':
        return [{ kind: 'force', grams: numbers[0] ?? 80 }];
      case 'OS':
      case 'OA':
      case 'OI':
      case 'OH':
      case 'OE':
        return [{ kind: 'ask', what: name }];
      default:
        return this.camera(name, numbers);
    }
  }

  /** Questions to the camera. */
  private camera(name: string, numbers: readonly number[]): CutterCommand[] {
    if (name === 'RC') return [{ kind: 'read-code' }];
    if (name !== 'LM') {
      this.unknown++;
      return [];
    }
    const [x = 0, y = 0, kind = 0, arm = 0, thickness = 0, tx = 1, ty = 1] = numbers;
    const shape = { kind, armMm: arm * MM_PER_UNIT, thicknessMm: thickness * MM_PER_UNIT, tx: tx < 0 ? -1 : 1, ty: ty < 0 ? -1 : 1 };
    return [{ kind: 'look', x: x * MM_PER_UNIT, y: y * MM_PER_UNIT, shape }];
  }

  private moves(numbers: readonly number[]): CutterCommand[] {
    const out: CutterCommand[] = [];
    for (let i = 0; i + 1 < numbers.length; i += 2) {
      const [x, y] = [(numbers[i] as number) * MM_PER_UNIT, (numbers[i + 1] as number) * MM_PER_UNIT];
      this.x = this.absolute ? x : this.x + x;
      this.y = this.absolute ? y : this.y + y;
      out.push({ kind: 'move', x: this.x, y: this.y, down: this.down });
    }
    return out;
  }
}
