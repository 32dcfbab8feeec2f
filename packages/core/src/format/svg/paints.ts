/** Paints as flat colours: what a film can be. Gradients become their mean colour, patterns grey, with a remark. */
import type { Source } from './clips.ts';
import type { Paint } from './style.ts';
import { colour } from './values.ts';
import type { XmlElement } from './xml.ts';

export class Paints {
  private readonly source: Source;

  constructor(source: Source) {
    this.source = source;
  }

  /** The flat colour of a paint, with remarks on what was reduced. */
  flat(paint: Paint, alpha: number): string | undefined {
    if (paint.kind === 'none' || alpha === 0) return undefined;
    if (paint.kind === 'colour') {
      if (paint.alpha * alpha < 1) this.source.remark('transparency', 'Half transparent parts were taken as solid.');
      return paint.hex;
    }
    const server = this.source.find(`#${paint.id}`);
    if (!server) return colour(paint.fallback)?.hex;
    if (server.name === 'pattern') {
      this.source.remark('pattern', 'A pattern cannot be cut; its shape was taken in grey.');
      return '#808080';
    }
    const stops = this.stopsOf(server, 0);
    if (stops.length === 0) return undefined;
    if (stops.length > 1) this.source.remark('gradient', 'A gradient was reduced to its mean colour for cutting.');
    const mean = [1, 3, 5].map((i) => stops.reduce((sum, hex) => sum + Number.parseInt(hex.slice(i, i + 2), 16), 0) / stops.length);
    return `#${mean.map((n) => Math.round(n).toString(16).padStart(2, '0')).join('')}`;
  }

  private stopsOf(server: XmlElement, depth: number): string[] {
    const own = server.children.filter((child) => child.name === 'stop');
    if (own.length === 0 && depth < 16) {
      const next = this.source.find(server.attributes.href);
      return next ? this.stopsOf(next, depth + 1) : [];
    }
    return own.flatMap((stop) => {
      const values = this.source.valuesOf(stop);
      const text = values.get('stop-color') ?? 'black';
      return colour(/^currentcolor$/i.test(text) ? (values.get('color') ?? 'black') : text)?.hex ?? '#000000';
    });
  }
}
