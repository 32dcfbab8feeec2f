/** What a tool of the Draw station is: what it does with the pointer, and what it shows over the drawing. */
import type { Point } from '@lorvek/core/geometry';
import type { ReactNode } from 'react';
import type { Drawing } from '@lorvek/model';
import type { View } from '../../../drawing/view.ts';
import type { PointerInfo } from '../../../drawing/viewport.tsx';
import type { Snapped } from '../../../drawing/snap.ts';

export interface Tool {
  onDown(info: PointerInfo): void;
  onMove?(info: PointerInfo): void;
  onUp?(info: PointerInfo): void;
  /** Takes back what the pointer began. */
  onCancel?(): void;
  onDoubleClick?(info: { at: Point; screen: Point }): void;
  readonly cursor: string;
  /** Over the drawing. */
  readonly overlay?: ReactNode;
  /** Numbers at the pointer. */
  readonly note?: string;
  readonly snapped?: Snapped | undefined;
}

export interface ToolSetting {
  readonly drawing: Drawing;
  readonly selection: readonly string[];
  readonly view: View | undefined;
}

/** A press that moves less than this is a click, px. */
export const CLICK_PX = 3;

/** Level, upright or aslant by 15 degrees from a place. */
export function straightened(from: Point, to: Point, stepDeg = 15): Point {
  const length = Math.hypot(to.x - from.x, to.y - from.y);
  const step = (stepDeg * Math.PI) / 180;
  const angle = Math.round(Math.atan2(to.y - from.y, to.x - from.x) / step) * step;
  return { x: from.x + length * Math.cos(angle), y: from.y + length * Math.sin(angle) };
}
