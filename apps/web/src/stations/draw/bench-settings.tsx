/** Rows above the bench for the tools that end in numbers: what was measured, the known length. */
import { pageOf } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { useState } from 'react';
import { useDocument } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';
import { usePlay } from '../../drawing/blade-play.tsx';
import { SettingRow } from '../../frame/tool-bench.tsx';
import { Button } from '../../ui/button.tsx';
import { Switch } from '../../ui/choices.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { applyKnownLength, planOfKnown, useKnown } from './tools/known-length-tool.tsx';
import { describeMeasured, keepMeasured, useMeasured } from './tools/measure-tool.tsx';

function MeasuredRow() {
  const measured = useMeasured((state) => state.measured);
  const { unit } = pageOf(useDocument((state) => state.drawing));
  if (!measured) return <SettingRow>Drag from one place to another.</SettingRow>;
  const shown = describeMeasured(measured, (mm) => describeLength(Math.round(mm * 100) / 100, unit));
  return (
    <SettingRow>
      <span className="numerals font-medium" data-testid="measured">
        {shown.length}
      </span>
      <span className="numerals text-ink-soft">
        {shown.angle} · → {shown.dx} · ↑ {shown.dy}
      </span>
      <Button size="small" onClick={keepMeasured}>
        Keep as dimension line
      </Button>
    </SettingRow>
  );
}

function KnownRow() {
  const drawing = useDocument((state) => state.drawing);
  const known = useKnown((state) => state.known);
  const [real, setReal] = useState(1000);
  const [level, setLevel] = useState(false);
  const { unit } = pageOf(drawing);
  const plan = known?.to ? planOfKnown(drawing) : undefined;
  if (!plan)
    return (
      <SettingRow>
        {known ? 'Now the other end of what was measured.' : 'Click on the picture where the measured length begins.'}
      </SettingRow>
    );
  return (
    <SettingRow>
      <span className="numerals whitespace-nowrap text-ink-soft">now {describeLength(Math.round(plan.nowMm * 100) / 100, unit)}</span>
      <div className="w-44">
        <LengthField label="Real length" mm={real} unit={unit} minMm={0.1} onChange={setReal} />
      </div>
      <span className="numerals whitespace-nowrap" data-testid="known-percent">
        {((100 * real) / plan.nowMm).toFixed(1)} %
      </span>
      <div className="w-28">
        <Switch label="Make level" checked={level} onChange={setLevel} />
      </div>
      <Button size="small" look="main" onClick={() => applyKnownLength(real, level)}>
        Scale the picture
      </Button>
    </SettingRow>
  );
}

function PlayRow() {
  const { at, running } = usePlay();
  return (
    <SettingRow>
      <Button
        size="small"
        onClick={() => usePlay.setState({ running: !running, at: at === undefined || at >= 1 ? 0 : at })}
        title="Runs the blade along the outlines in their order"
      >
        {running ? 'Hold' : at === undefined || at >= 1 ? 'Play the cut' : 'Go on'}
      </Button>
      <input
        type="range"
        min={0}
        max={1000}
        value={Math.round(1000 * (at ?? 0))}
        aria-label="Place in the cut"
        aria-valuetext={`${Math.round(100 * (at ?? 0))} percent`}
        className="w-56 accent-teal"
        onChange={(event) => usePlay.setState({ at: Number(event.target.value) / 1000, running: false })}
      />
      <span className="numerals w-10 text-right">{Math.round(100 * (at ?? 0))} %</span>
    </SettingRow>
  );
}

export function BenchSettings() {
  const { tool, blade } = useView();
  if (blade && tool === 'select') return <PlayRow />;
  if (tool === 'measure') return <MeasuredRow />;
  return tool === 'known-length' ? <KnownRow /> : null;
}
