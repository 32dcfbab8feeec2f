/** A machine's tool moved by buttons or arrow keys, with Shift finely. */
import { ArrowDown, ArrowLeft, ArrowRight, ArrowUp } from 'lucide-react';
import type { KeyboardEvent } from 'react';
import { IconButton } from '../ui/button.tsx';

/** With Shift, mm. */
const FINE_MM = 0.1;
const WAYS = { ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowRight: [1, 0] } as const;
const BUTTONS = [
  ['left', 'ArrowLeft', ArrowLeft],
  ['up', 'ArrowUp', ArrowUp],
  ['down', 'ArrowDown', ArrowDown],
  ['right', 'ArrowRight', ArrowRight],
] as const;

interface ToolArrowsProps {
  readonly label: string;
  /** Of a click or a key, mm. */
  readonly step: number;
  readonly disabled: boolean;
  onMove(dx: number, dy: number): void;
}

export function ToolArrows({ label, step, disabled, onMove }: ToolArrowsProps) {
  const onKey = (event: KeyboardEvent): void => {
    if (disabled || !Object.hasOwn(WAYS, event.key)) return;
    event.preventDefault();
    const [x, y] = WAYS[event.key as keyof typeof WAYS];
    const own = event.shiftKey ? FINE_MM : step;
    onMove(x * own, y * own);
  };
  return (
    <div role="group" aria-label={label} onKeyDown={onKey} className="flex">
      {BUTTONS.map(([name, key, Icon]) => (
        <IconButton
          key={name}
          label={`${label}: ${name}`}
          className="size-7!"
          // a button that goes dead would lose the keys
          aria-disabled={disabled}
          onClick={() => !disabled && onMove(WAYS[key][0] * step, WAYS[key][1] * step)}
        >
          <Icon size={14} />
        </IconButton>
      ))}
    </div>
  );
}
