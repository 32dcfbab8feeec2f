/**
 * Fingers on a drawing: one does what a pen or mouse does, once it is clear that it stays alone; two move and size the
 * view. A first finger that turns out to be one of two has done nothing.
 */
import type { Point } from '@lorvek/core/geometry';
import type { View } from './view.ts';

/** A finger that moves farther than this is meant to drag, px. */
const STILL_PX = 8;

export interface FingerEvent {
  readonly pointerId: number;
  readonly clientX: number;
  readonly clientY: number;
}

export interface FingerPorts<E extends FingerEvent> {
  /** What the one finger does. */
  down(event: E): void;
  move(event: E): void;
  up(event: E): void;
  /** The finger that was dragging is one of two: what it began is taken back. */
  cancel(): void;
  view(): View | undefined;
  setView(view: View): void;
  /** The corner of the drawing on the screen, px. */
  corner(): Point;
}

interface Spread {
  readonly middle: Point;
  readonly apart: number;
  readonly view: View;
}

export class Fingers<E extends FingerEvent> {
  private readonly at = new Map<number, Point>();
  /** The first finger, not yet told of. */
  private held: E | undefined;
  private dragging = false;
  private spread: Spread | undefined;
  private readonly ports: FingerPorts<E>;

  constructor(ports: FingerPorts<E>) {
    this.ports = ports;
  }

  down(event: E): void {
    this.at.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (this.at.size === 1) {
      this.held = event;
      return;
    }
    this.held = undefined;
    if (this.dragging) this.ports.cancel();
    this.dragging = false;
    this.spread = this.measured();
  }

  move(event: E): void {
    if (!this.at.has(event.pointerId)) return;
    this.at.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (this.spread) return this.follow(this.spread);
    const { held } = this;
    if (held && Math.hypot(event.clientX - held.clientX, event.clientY - held.clientY) > STILL_PX) {
      this.held = undefined;
      this.dragging = true;
      this.ports.down(held);
    }
    if (this.dragging) this.ports.move(event);
  }

  up(event: E): void {
    this.at.delete(event.pointerId);
    if (this.spread) {
      // what is left of two fingers does nothing until all are away
      if (this.at.size === 0) this.spread = undefined;
      else this.spread = this.measured() ?? this.spread;
      return;
    }
    if (this.held) this.ports.down(this.held);
    if (this.held || this.dragging) this.ports.up(event);
    this.held = undefined;
    this.dragging = false;
  }

  private measured(): Spread | undefined {
    const [a, b] = [...this.at.values()];
    const view = this.ports.view();
    if (!a || !b || !view) return undefined;
    return { middle: { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 }, apart: Math.max(1, Math.hypot(a.x - b.x, a.y - b.y)), view };
  }

  /** The place of the drawing between the fingers stays between them. */
  private follow({ middle, apart, view }: Spread): void {
    const now = this.measured();
    if (!now) return;
    const k = now.apart / apart;
    const corner = this.ports.corner();
    const [x, y] = [middle.x - corner.x, middle.y - corner.y];
    this.ports.setView({
      scale: view.scale * k,
      x: now.middle.x - corner.x + (view.x - x) * k,
      y: now.middle.y - corner.y + (view.y - y) * k,
    });
  }
}
