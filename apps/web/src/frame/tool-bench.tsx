/** The tool bench: the tools of the station, with words, floating over the lower edge of the drawing. */
import { useEffect, type ReactNode } from 'react';
import { Maximize, Minus, Plus, Spline, SquareDashed, Type, Square, Circle } from 'lucide-react';
import { showTrueSize, TRUE_SCALE, useView, zoomMiddle, type ToolName, type ViewName } from '../drawing/view.ts';
import { Hint, IconButton } from '../ui/button.tsx';

const TOOLS: readonly { tool: ToolName; name: string; key: string; icon: ReactNode; says: string }[] = [
  {
    tool: 'select',
    name: 'Select',
    key: 'S',
    icon: <SquareDashed size={15} />,
    says: 'Click takes, drag moves or marks out, double click goes in',
  },
  { tool: 'lettering', name: 'Lettering', key: 'L', icon: <Type size={15} />, says: 'Click where the first letter stands, then write' },
  { tool: 'box', name: 'Box', key: 'B', icon: <Square size={15} />, says: 'Drag from corner to corner; Shift makes it square' },
  { tool: 'oval', name: 'Oval', key: 'O', icon: <Circle size={15} />, says: 'Drag from corner to corner; Shift makes it round' },
];

export function ZoomGroup({ name, onFit }: { name: ViewName; onFit(): void }) {
  const scale = useView((state) => state.views[name]?.scale ?? TRUE_SCALE);
  const percent = (100 * scale) / TRUE_SCALE;
  return (
    <div className="flex items-center">
      <IconButton label="Smaller" onClick={() => zoomMiddle(name, 1 / 1.4)}>
        <Minus size={15} />
      </IconButton>
      <Hint text="Show at true size (0)">
        <button
          type="button"
          aria-label={`Zoom ${Math.round(percent)} percent; show at true size`}
          className="numerals h-7 w-14 text-center text-xs hover:bg-teal-wash"
          onClick={() => showTrueSize(name)}
        >
          {percent >= 10 ? Math.round(percent) : percent.toFixed(1)} %
        </button>
      </Hint>
      <IconButton label="Larger" onClick={() => zoomMiddle(name, 1.4)}>
        <Plus size={15} />
      </IconButton>
      <IconButton label="Fit" keys="F" onClick={onFit}>
        <Maximize size={15} />
      </IconButton>
    </div>
  );
}

export function Bench({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="pointer-events-none absolute inset-x-0 bottom-3 z-10 flex justify-center pr-[136px] pl-6">
      <div role="toolbar" aria-label={label} className="panel pointer-events-auto flex h-10 items-center gap-0.5 pr-3 pl-1 drop-shadow-sm">
        {children}
      </div>
    </div>
  );
}

export const BenchRule = () => <span className="mx-1 h-6 w-px bg-line" aria-hidden />;

export function DrawBench() {
  const { tool, blade } = useView();
  useEffect(() => () => useView.setState({ tool: 'select' }), []);
  return (
    <Bench label="Tools">
      {TOOLS.map((one) => (
        <Hint key={one.tool} side="top" text={one.says}>
          <button
            type="button"
            aria-pressed={tool === one.tool}
            onClick={() => useView.setState({ tool: one.tool })}
            className="flex h-8 items-center gap-1.5 border border-transparent px-2.5 hover:bg-teal-wash aria-pressed:border-teal aria-pressed:bg-teal aria-pressed:text-sheet"
          >
            {one.icon}
            {one.name}
            <kbd className="text-2xs opacity-60">{one.key}</kbd>
          </button>
        </Hint>
      ))}
      <BenchRule />
      <Hint side="top" text="The drawing as the blade follows it: lines, nodes, starts, direction, order">
        <button
          type="button"
          aria-pressed={blade}
          onClick={() => useView.setState({ blade: !blade })}
          className="flex h-8 items-center gap-1.5 border border-transparent px-2.5 hover:bg-teal-wash aria-pressed:border-teal aria-pressed:bg-teal-wash aria-pressed:font-semibold"
        >
          <Spline size={15} /> Blade view <kbd className="text-2xs opacity-60">V</kbd>
        </button>
      </Hint>
    </Bench>
  );
}
