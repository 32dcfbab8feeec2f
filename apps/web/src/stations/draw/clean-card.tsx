/** Make cuttable: what a foreign outline needs, in order, with what was done; each step can be left out again. */
import { nodeCount, parsePath, type Point } from '@lorvek/core/geometry';
import { isShaped, itemOf, leavesOf, pageOf } from '@lorvek/model';
import type { CleanStep } from '@lorvek/core/clean';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { sentenceOf } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { clean, CLEAN_LIMITS, comparedOf, speckLimit, weldGroups, type Cleaning } from '../../document/clean.ts';
import { newId, select, undo, useDocument } from '../../document/store.ts';
import { ComparedKey, useCompared } from '../../drawing/compared.tsx';
import { fitBox } from '../../drawing/view.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { Switch } from '../../ui/choices.tsx';
import { Numbers } from '../../ui/numbers.tsx';

const STEPS: readonly { step: CleanStep; name: string }[] = [
  { step: 'join', name: 'Join loose ends' },
  { step: 'doubled', name: 'Drop doubled lines' },
  { step: 'weld', name: 'Weld what crosses' },
  { step: 'specks', name: 'Drop specks' },
  { step: 'thin-out', name: 'Thin out nodes' },
  { step: 'bumps', name: 'Smooth bumps' },
];

interface Made extends Cleaning {
  readonly ids: readonly string[];
  readonly group: string;
  readonly welded: number;
  readonly nodesBefore: number;
  readonly nodesAfter: number;
}

/** Nodes of the plain shapes among items, as they are on the drawing now. */
const nodesOf = (ids: readonly string[]): number =>
  leavesOf(useDocument.getState().drawing, ids).reduce(
    (sum, leaf) => sum + (leaf.kind === 'shape' ? nodeCount(parsePath(leaf.path)) : 0),
    0,
  );

/** What was taken away, each with its place. */
function Dropped({ list }: { list: Made['answer']['dropped'] }) {
  return (
    <ul className="flex flex-wrap gap-1">
      {list.slice(0, MOST_SHOWN).map(({ id, step, place }, i) => (
        <li key={`${id} ${i}`}>
          <Button size="small" title="Show where it was" onClick={() => lookAt(place)}>
            {step === 'specks' ? 'Speck' : 'Doubled line'} at {place.x.toFixed(1)}, {place.y.toFixed(1)}
          </Button>
        </li>
      ))}
      {list.length > MOST_SHOWN ? <li className="text-[13px] text-ink-soft">and {list.length - MOST_SHOWN} more</li> : null}
    </ul>
  );
}

const MOST_SHOWN = 24;
const LOOK_MM = 20;
const lookAt = ({ x, y }: Point): void => fitBox('drawing', { minX: x - LOOK_MM, minY: y - LOOK_MM, maxX: x + LOOK_MM, maxY: y + LOOK_MM });

/** Old and new lie on the drawing while what was made stands. */
function useOldAndNew(made: Made | undefined, shown: boolean): void {
  const drawing = useDocument((state) => state.drawing);
  useEffect(() => {
    const pairs = shown && made ? comparedOf(made.before, drawing) : [];
    if (pairs.length === 0) return undefined;
    useCompared.setState({ pairs });
    return () => useCompared.setState({ pairs: [] });
  }, [made, shown, drawing]);
}

/** What a step did, in words. */
function saidOf({ answer }: Made, step: CleanStep): string | undefined {
  const across = answer.joined.length;
  const own = answer.done.find((one) => one.step === step)?.text;
  if (step !== 'join' || across === 0) return own;
  return `${own ?? ''} ${across === 1 ? 'Items whose ends meet became one.' : `${across} groups of items whose ends meet became one each.`}`.trim();
}

function WhatWasMade({ made, shown, onShown }: { made: Made; shown: boolean; onShown(shown: boolean): void }) {
  return (
    <>
      <Figure name="Nodes">
        {made.nodesBefore} → {made.nodesAfter}
      </Figure>
      {made.answer.deviationMm > 0 ? <Figure name="Farthest off">{made.answer.deviationMm.toFixed(3)} mm</Figure> : null}
      {made.answer.dropped.length > 0 ? <Dropped list={made.answer.dropped} /> : null}
      {Object.keys(made.answer.paths).length > 0 ? <Switch label="Show old and new" checked={shown} onChange={onShown} /> : null}
      {shown ? <ComparedKey /> : null}
      {made.welded > 0 ? (
        <Notice level="note">
          {made.welded === 1
            ? 'Items that cross one another were welded into one.'
            : `${made.welded} groups of items that cross were welded.`}
        </Notice>
      ) : null}
    </>
  );
}

interface CleaningState {
  /** What was made, while it is the last that was done. */
  readonly made: Made | undefined;
  readonly busy: boolean;
  run(limits: typeof CLEAN_LIMITS, without: ReadonlySet<CleanStep>): Promise<void>;
}

/** Makes items cuttable, again and again from what was there before the first time. */
function useCleaning(ids: readonly string[]): CleaningState {
  const lastGroup = useDocument((state) => state.history.back.at(-1)?.group);
  const [busy, setBusy] = useState(false);
  const [made, setMade] = useState<Made>();
  const stands = made !== undefined && made.group === lastGroup;
  const run = async (limits: typeof CLEAN_LIMITS, without: ReadonlySet<CleanStep>): Promise<void> => {
    // a second run begins from what was there before the first
    if (stands) undo();
    const target = stands ? made.ids : ids;
    const group = newId('cuttable');
    const only = STEPS.map(({ step }) => step).filter((step) => !without.has(step));
    setBusy(true);
    try {
      const before = new Set(Object.keys(useDocument.getState().drawing));
      const nodesBefore = nodesOf(target);
      const cleaning = await clean(target, limits, only, { others: false, group });
      const welded = await weldGroups(cleaning.answer.crossing, group);
      // what came of joining and welding has names of its own
      const { drawing: after } = useDocument.getState();
      const fresh = pageOf(after).root.filter((id) => !before.has(id));
      const kept = [...target.filter((id) => itemOf(after, id)), ...fresh];
      setMade({ ...cleaning, ids: target, group, welded, nodesBefore, nodesAfter: nodesOf(kept) });
      if (kept.length > 0) select(kept);
      if (cleaning.answer.done.length === 0 && cleaning.answer.joined.length === 0 && welded === 0)
        toast.info('It is cuttable as it is: nothing had to be changed.');
    } catch (error) {
      toast.error(sentenceOf(error));
    } finally {
      setBusy(false);
    }
  };
  return { made: stands ? made : undefined, busy, run };
}

export function CleanCard({ ids }: { ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  const stock = useShop((state) => state.stock);
  const { unit } = pageOf(drawing);
  const [off, setOff] = useState<ReadonlySet<CleanStep>>(new Set());
  const [limits, setLimits] = useState<Partial<typeof CLEAN_LIMITS>>({});
  const { made, busy, run } = useCleaning(ids);
  const [shown, setShown] = useState(false);
  useOldAndNew(made, shown);
  const shapes = leavesOf(drawing, ids).filter((leaf) => leaf.kind === 'shape' && isShaped(leaf));
  if (shapes.length === 0) return null;
  const speckMm = speckLimit(drawing, ids, (stockId) => stock?.find(({ id }) => id === stockId)?.smallestPartMm);
  const now = { ...CLEAN_LIMITS, speckMm, ...limits };
  const toggle = (step: CleanStep, on: boolean): void => {
    const next = new Set(off);
    if (on) next.delete(step);
    else next.add(step);
    setOff(next);
    if (made) void run(now, next);
  };
  return (
    <Card title="Make cuttable" startsOpen={false}>
      <Numbers
        columns={1}
        values={now}
        unit={unit}
        change={(fields) => setLimits({ ...limits, ...fields })}
        asked={[
          { field: 'gapMm', label: 'Close gaps up to', as: 'length', min: 0 },
          { field: 'speckMm', label: 'Specks are below', as: 'length', min: 0 },
          { field: 'thinMm', label: 'Thin out to within', as: 'length', min: 0.001 },
        ]}
      />
      <ul className="flex flex-col gap-1">
        {STEPS.map(({ step, name }) => (
          <li key={step}>
            <Switch label={name} checked={!off.has(step)} onChange={(on) => toggle(step, on)} />
            {made && saidOf(made, step) ? <p className="pl-1 text-[13px] text-ink-soft">{saidOf(made, step)}</p> : null}
          </li>
        ))}
      </ul>
      {made ? <WhatWasMade made={made} shown={shown} onShown={setShown} /> : null}
      <Button look="main" disabled={busy} onClick={() => void run(now, off)}>
        {busy
          ? 'Working…'
          : made
            ? 'Do it again with these settings'
            : `Make ${shapes.length === 1 ? 'it' : `${shapes.length} shapes`} cuttable`}
      </Button>
      {made ? <p className="text-[13px] text-ink-soft">Switching a step off takes it alone back; Undo takes all of it back.</p> : null}
    </Card>
  );
}
