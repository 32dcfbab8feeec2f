/** The tool bench: the tools of the station, with words, floating over the lower edge of the drawing. */
import { pageOf } from '@lorvek/model';
import {
  ChevronUp,
  Circle,
  Hexagon,
  Magnet,
  Maximize,
  Minus,
  Pencil,
  PenTool,
  Plus,
  Ruler,
  Scaling,
  Slash,
  Spline,
  Square,
  SquareDashed,
  Star,
  Tangent,
  Type,
  Waypoints,
} from 'lucide-react';
import { Popover } from 'radix-ui';
import { useEffect, type ReactNode } from 'react';
import { useDocument } from '../document/store.ts';
import { setSnap, useSnap } from '../drawing/snap.ts';
import { showTrueSize, TRUE_SCALE, useView, zoomMiddle, type ShapeTool, type ToolName, type ViewName } from '../drawing/view.ts';
import { Hint, IconButton } from '../ui/button.tsx';
import { Menu } from '../ui/menu.tsx';
import { Switch } from '../ui/choices.tsx';
import { LengthField, NumberField } from '../ui/fields.tsx';

interface ToolEntry {
  readonly tool: ToolName;
  readonly name: string;
  readonly key: string;
  readonly icon: ReactNode;
  readonly says: string;
}

const SHAPES: readonly (ToolEntry & { readonly tool: ShapeTool })[] = [
  { tool: 'box', name: 'Box', key: 'B', icon: <Square size={15} />, says: 'Drag from corner to corner; Shift makes it square' },
  { tool: 'oval', name: 'Oval', key: 'O', icon: <Circle size={15} />, says: 'Drag from corner to corner; Shift makes it round' },
  { tool: 'polygon', name: 'Polygon', key: 'P', icon: <Hexagon size={15} />, says: 'Drag from the middle to a corner' },
  { tool: 'star', name: 'Star', key: 'R', icon: <Star size={15} />, says: 'Drag from the middle to a tip' },
  { tool: 'line', name: 'Line', key: 'I', icon: <Slash size={15} />, says: 'Drag from end to end; Shift keeps to 15°' },
  { tool: 'arc', name: 'Arc', key: 'A', icon: <Tangent size={15} />, says: 'Drag from end to end; radius and angles by number afterwards' },
  {
    tool: 'freehand',
    name: 'Freehand',
    key: 'H',
    icon: <Pencil size={15} />,
    says: 'Draw; it is smoothed, and closed when you come back to the start',
  },
];

const BEFORE: readonly ToolEntry[] = [
  {
    tool: 'select',
    name: 'Select',
    key: 'S',
    icon: <SquareDashed size={15} />,
    says: 'Click takes, drag moves or marks out, double click goes in',
  },
  { tool: 'lettering', name: 'Lettering', key: 'L', icon: <Type size={15} />, says: 'Click where the first letter stands, then write' },
];
const AFTER: readonly ToolEntry[] = [
  {
    tool: 'curve',
    name: 'Curve',
    key: 'C',
    icon: <PenTool size={15} />,
    says: 'Click for corners, drag for handles; on the first node it closes',
  },
  { tool: 'nodes', name: 'Nodes', key: 'N', icon: <Waypoints size={15} />, says: 'Move, add and take away the nodes of a shape' },
];

const MEASURES: readonly ToolEntry[] = [
  {
    tool: 'measure',
    name: 'Measure',
    key: 'M',
    icon: <Ruler size={15} />,
    says: 'Drag from one place to another; Shift keeps level or upright',
  },
  {
    tool: 'known-length',
    name: 'Known length',
    key: 'K',
    icon: <Scaling size={15} />,
    says: 'Two points on a picture whose distance was measured on the job',
  },
];

const isShapeTool = (tool: ToolName): tool is ShapeTool => SHAPES.some((entry) => entry.tool === tool);

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

export function Bench({ label, above, children }: { label: string; above?: ReactNode; children: ReactNode }) {
  return (
    <div className="pointer-events-none absolute inset-x-0 bottom-3 z-10 flex flex-col items-center gap-1.5 pr-[134px] pl-2">
      {above}
      <div role="toolbar" aria-label={label} className="panel pointer-events-auto flex h-10 items-center gap-0.5 pr-2 pl-1 drop-shadow-sm">
        {children}
      </div>
    </div>
  );
}

export const BenchRule = () => <span className="mx-1 h-6 w-px bg-line" aria-hidden />;

const LOOK =
  'flex h-8 items-center gap-1 border border-transparent px-[5px] text-[13px] whitespace-nowrap hover:bg-teal-wash aria-pressed:border-teal aria-pressed:bg-teal aria-pressed:text-sheet';

function ToolButton({ entry }: { entry: ToolEntry }) {
  const on = useView((state) => state.tool === entry.tool);
  return (
    <Hint side="top" text={`${entry.says} (${entry.key})`}>
      <button
        type="button"
        aria-label={entry.name}
        aria-pressed={on}
        onClick={() => useView.setState({ tool: entry.tool })}
        className={LOOK}
      >
        {entry.icon}
        {entry.name}
      </button>
    </Hint>
  );
}

/** One tool of several of a kind, the others behind a small arrow. */
function ToolChoice({ entries, current, label }: { entries: readonly ToolEntry[]; current: ToolName; label: string }) {
  const tool = useView((state) => state.tool);
  const entry = entries.find((one) => one.tool === tool) ?? entries.find((one) => one.tool === current) ?? (entries[0] as ToolEntry);
  return (
    <div className="flex">
      <ToolButton entry={entry} />
      <Menu
        side="top"
        align="start"
        trigger={
          <button type="button" aria-label={label} className="flex h-8 w-4 items-center justify-center hover:bg-teal-wash">
            <ChevronUp size={12} />
          </button>
        }
        entries={entries.map((one) => ({
          id: one.tool,
          content: (
            <>
              {one.icon} <span className="flex-1">{one.name}</span> <kbd className="text-2xs text-ink-soft">{one.key}</kbd>
            </>
          ),
          onSelect: () => useView.setState(isShapeTool(one.tool) ? { tool: one.tool, shape: one.tool } : { tool: one.tool }),
        }))}
      />
    </div>
  );
}

function SnapMenu() {
  const snap = useSnap();
  const { unit } = pageOf(useDocument((state) => state.drawing));
  return (
    <Popover.Root>
      <Hint side="top" text="What is snapped to; hold Ctrl to move freely">
        <Popover.Trigger aria-label="Snapping" className="flex h-8 items-center gap-1.5 px-2 hover:bg-teal-wash">
          <Magnet size={15} className={snap.on ? 'text-teal' : 'opacity-50'} />
        </Popover.Trigger>
      </Hint>
      <Popover.Portal>
        <Popover.Content
          side="top"
          sideOffset={10}
          onKeyDown={(event) => event.stopPropagation()}
          className="z-50 flex w-60 flex-col gap-2 border border-line-strong bg-sheet p-3 shadow-md"
        >
          <Switch label="Snap" checked={snap.on} onChange={(on) => setSnap({ on })} />
          <Switch label="Guides" checked={snap.guides} onChange={(guides) => setSnap({ guides })} />
          <Switch label="Edges and centres of items" checked={snap.items} onChange={(items) => setSnap({ items })} />
          <Switch label="Nodes" checked={snap.nodes} onChange={(nodes) => setSnap({ nodes })} />
          <Switch label="Grid" checked={snap.grid} onChange={(grid) => setSnap({ grid })} />
          <LengthField wide label="Grid step" mm={snap.gridMm} unit={unit} minMm={0.1} onChange={(gridMm) => setSnap({ gridMm })} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** The active tool's two or three settings, above the bench. */
function ToolSettings({ children }: { children: ReactNode }) {
  const { tool, corners, starPct, smoothing } = useView();
  return (
    <>
      {tool === 'polygon' || tool === 'star' ? (
        <SettingRow>
          <NumberField
            label="Corners"
            value={corners}
            decimals={0}
            min={3}
            max={200}
            onChange={(next) => useView.setState({ corners: Math.round(next) })}
          />
          {tool === 'star' ? (
            <NumberField
              label="Depth of the star"
              short="Inner"
              value={starPct}
              suffix="%"
              min={1}
              max={100}
              onChange={(next) => useView.setState({ starPct: next })}
            />
          ) : null}
        </SettingRow>
      ) : null}
      {tool === 'freehand' ? (
        <SettingRow>
          <NumberField label="Smoothing" value={smoothing} min={1} max={40} onChange={(next) => useView.setState({ smoothing: next })} />
        </SettingRow>
      ) : null}
      {children}
    </>
  );
}

export const SettingRow = ({ children }: { children: ReactNode }) => (
  <div className="panel pointer-events-auto flex h-10 items-center gap-3 px-3 drop-shadow-sm">{children}</div>
);

/** `settings`: rows of the station for its own tools. */
export function DrawBench({ settings }: { settings?: ReactNode }) {
  const { shape, blade } = useView();
  useEffect(() => () => useView.setState({ tool: 'select' }), []);
  return (
    <Bench label="Tools" above={<ToolSettings>{settings}</ToolSettings>}>
      {BEFORE.map((entry) => (
        <ToolButton key={entry.tool} entry={entry} />
      ))}
      <ToolChoice entries={SHAPES} current={shape} label="Other shapes" />
      {AFTER.map((entry) => (
        <ToolButton key={entry.tool} entry={entry} />
      ))}
      <ToolChoice entries={MEASURES} current="measure" label="Other ways to measure" />
      <BenchRule />
      <SnapMenu />
      <Hint side="top" text="The drawing as the blade follows it: lines, nodes, starts, direction, order (V)">
        <button
          type="button"
          aria-label="Blade view"
          aria-pressed={blade}
          onClick={() => useView.setState({ blade: !blade })}
          className="flex h-8 items-center gap-1 border border-transparent px-[5px] text-[13px] whitespace-nowrap hover:bg-teal-wash aria-pressed:border-teal aria-pressed:bg-teal-wash"
        >
          <Spline size={15} /> Blade view
        </button>
      </Hint>
    </Bench>
  );
}
