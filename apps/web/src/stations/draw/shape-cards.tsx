/** Cards of plain shapes, of nodes, of dimension lines and of guides. */
import {
  breakAt,
  joinEnds,
  mapPoint,
  nodeCount,
  nodeKind,
  nodePlace,
  redrawSpan,
  setNodeKind,
  setSpanKind,
  type NodeAddress,
  type Outline,
} from '@lorvek/core/geometry';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import {
  itemOf,
  pageOf,
  replaceItems,
  setItemFields,
  setShapeSize,
  type ArcItem,
  type BoxItem,
  type DimensionItem,
  type OvalItem,
  type PolygonItem,
  type ShapeItem,
  type ShapeSize,
} from '@lorvek/model';
import { useState } from 'react';
import { toast } from 'sonner';
import { sentenceOf } from '../../api/client.ts';
import { plainOf } from '../../document/clean.ts';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { dimensionLine } from '../../drawing/dimensions.ts';
import { choose, chosenOf, deleteChosen, moveChosen, putOutline } from '../../drawing/node-work.ts';
import { useView } from '../../drawing/view.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { describeDeviation, ThinOut } from './thin-out.tsx';
import { outlineOf } from '../../worker/derived.ts';

type PlainShape = BoxItem | OvalItem | PolygonItem | ArcItem;

const TITLES = { box: 'Box', oval: 'Oval', arc: 'Arc' } as const;

type SetFields = (fields: Record<string, unknown>) => void;

function CornerFields({ item, unit, set }: { item: BoxItem; unit: LengthUnit; set: SetFields }) {
  return (
    <>
      <LengthField wide label="Corners taken off by" mm={item.cornerMm} unit={unit} minMm={0} onChange={(cornerMm) => set({ cornerMm })} />
      {item.cornerMm > 0 ? (
        <PickRow
          label="Kind of corners"
          value={item.corner ?? 'round'}
          options={[
            { value: 'round', label: 'Rounded', content: 'Round' },
            { value: 'cut', label: 'Cut straight', content: 'Cut' },
            { value: 'scoop', label: 'Scooped inward', content: 'Scooped' },
          ]}
          onChange={(corner) => set({ corner })}
        />
      ) : null}
    </>
  );
}

function ArcFields({ item, set }: { item: ArcItem; set: SetFields }) {
  return (
    <>
      <NumberField
        label="Start of the arc"
        short="Start"
        value={item.fromDeg}
        suffix="°"
        min={-720}
        max={720}
        onChange={(fromDeg) => set({ fromDeg })}
      />
      <NumberField
        label="Sweep of the arc"
        short="Sweep"
        value={item.sweepDeg}
        suffix="°"
        min={-360}
        max={360}
        onChange={(sweepDeg) => set({ sweepDeg })}
      />
    </>
  );
}

function EndsOfArc({ item, set }: { item: ArcItem; set: SetFields }) {
  return (
    <PickRow
      label="Ends of the arc"
      value={item.ends}
      options={[
        { value: 'open', label: 'Open', content: 'Open' },
        { value: 'chord', label: 'Closed by a chord', content: 'Chord' },
        { value: 'sector', label: 'Closed through the middle', content: 'Sector' },
      ]}
      onChange={(ends) => set({ ends })}
    />
  );
}

/** How many corners; how deep a star goes in. */
function PolygonFields({ item, set }: { item: PolygonItem; set: SetFields }) {
  return (
    <>
      <NumberField
        label="Corners"
        value={item.sides}
        decimals={0}
        min={3}
        max={200}
        onChange={(sides) => set({ sides: Math.round(sides) })}
      />
      {item.innerPct === null ? null : (
        <NumberField
          label="Depth of the star"
          short="Inner"
          value={item.innerPct}
          suffix="%"
          min={1}
          max={100}
          onChange={(innerPct) => set({ innerPct })}
        />
      )}
    </>
  );
}

export function ShapeCard({ item }: { item: PlainShape }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const set = (fields: Record<string, unknown>): void =>
    void dispatch(setItemFields, { id: item.id, fields }, { origin: `${item.kind}.set` });
  const { anchor, ratioLock } = useView();
  const size = (to: ShapeSize): void =>
    void dispatch(setShapeSize, { id: item.id, size: to, keepRatio: ratioLock, anchor }, { origin: `${item.kind}.set` });
  const title = item.kind === 'polygon' ? (item.innerPct === null ? 'Polygon' : 'Star') : TITLES[item.kind];
  return (
    <Card title={title}>
      <div className="grid grid-cols-2 gap-2">
        {item.kind === 'box' || item.kind === 'oval' ? (
          <>
            <LengthField
              label="Shape width"
              short="W"
              mm={item.widthMm}
              unit={unit}
              minMm={0.01}
              onChange={(widthMm) => size({ widthMm })}
            />
            <LengthField
              label="Shape height"
              short="H"
              mm={item.heightMm}
              unit={unit}
              minMm={0.01}
              onChange={(heightMm) => size({ heightMm })}
            />
          </>
        ) : (
          <LengthField label="Radius" mm={item.radiusMm} unit={unit} minMm={0.01} onChange={(radiusMm) => size({ radiusMm })} />
        )}
        {item.kind === 'polygon' ? <PolygonFields item={item} set={set} /> : null}
        {item.kind === 'arc' ? <ArcFields item={item} set={set} /> : null}
      </div>
      {item.kind === 'box' ? <CornerFields item={item} unit={unit} set={set} /> : null}
      {item.kind === 'arc' ? <EndsOfArc item={item} set={set} /> : null}
    </Card>
  );
}

/** Turns any item with an outline into a plain shape, so that its nodes can be worked on. */
export function makePlain(id: string): void {
  const { drawing } = useDocument.getState();
  const item = itemOf(drawing, id);
  if (!item || item.kind === 'group') return;
  const plain = plainOf(item);
  if (!plain) return;
  const shape: ShapeItem = { ...plain, id: newId('item') };
  dispatch(replaceItems, { ids: [id], items: [shape] }, { origin: 'item.plain' });
}

/** Tries node work; a refusal is said. */
function attempt(work: () => void): void {
  try {
    work();
  } catch (error) {
    toast.warning(sentenceOf(error));
  }
}

function NodeFields({ item, outline, chosen }: { item: ShapeItem; outline: Outline; chosen: readonly NodeAddress[] }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const [first] = chosen;
  const contour = first && outline.contours[first.contour];
  if (!first || !contour) return null;
  const place = mapPoint(item.matrix, nodePlace(contour, first.node));
  return (
    <div className="grid grid-cols-2 gap-2">
      <LengthField label="Node X" short="X" mm={place.x} unit={unit} onChange={(x) => void moveChosen(x - place.x, 0, '')} />
      <LengthField label="Node Y" short="Y" mm={place.y} unit={unit} onChange={(y) => void moveChosen(0, y - place.y, '')} />
    </div>
  );
}

interface NodeWorkProps {
  readonly item: ShapeItem;
  readonly outline: Outline;
  readonly chosen: readonly NodeAddress[];
  onRedrawn(deviation: number): void;
}

/** What can be done with the nodes that are chosen. */
function NodeWork({ item, outline, chosen, onRedrawn }: NodeWorkProps) {
  const [only] = chosen;
  const contour = only && outline.contours[only.contour];
  const kind = chosen.length === 1 && only && contour ? nodeKind(contour, only.node) : undefined;
  const put = (next: Outline, origin: string): void => void putOutline(item, next, origin);
  const redraw = (): void =>
    attempt(() => {
      const { outline: next, deviation } = redrawSpan(outline, chosen);
      if (putOutline(item, next, 'node.redraw')) {
        onRedrawn(deviation);
        choose(item.id, []);
      }
    });
  const breakLine = (): void => attempt(() => only && put(breakAt(outline, only), 'node.break'));
  const join = (): void =>
    attempt(() => {
      put(joinEnds(outline, chosen[0] as NodeAddress, chosen[1] as NodeAddress), 'node.join');
      choose(item.id, []);
    });
  return (
    <>
      <PickRow
        label="Kind of node"
        value={kind ?? ('' as 'corner')}
        options={[
          { value: 'corner', label: 'Corner: handles on their own', content: 'Corner' },
          { value: 'smooth', label: 'Smooth: handles in line', content: 'Smooth' },
          { value: 'even', label: 'Even: handles in line and of one length', content: 'Even' },
        ]}
        onChange={(next) => put(setNodeKind(outline, chosen, next), 'node.kind')}
      />
      <div className="grid grid-cols-2 gap-1.5">
        <Button size="small" onClick={() => put(setSpanKind(outline, chosen, 'line'), 'node.line')}>
          Make straight
        </Button>
        <Button size="small" onClick={() => put(setSpanKind(outline, chosen, 'curve'), 'node.curve')}>
          Make curve
        </Button>
        <Button size="small" disabled={chosen.length !== 1} onClick={breakLine}>
          Break
        </Button>
        <Button size="small" disabled={chosen.length !== 2} onClick={join}>
          Join ends
        </Button>
        <Button size="small" disabled={chosen.length < 2} onClick={redraw}>
          Redraw span
        </Button>
        <Button size="small" onClick={() => void deleteChosen()}>
          Take away
        </Button>
      </div>
    </>
  );
}

export function NodesCard({ item }: { item: ShapeItem }) {
  useView((state) => state.nodes);
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const [redrawn, setRedrawn] = useState<number>();
  const outline = outlineOf(item);
  if (!outline) return null;
  const chosen = chosenOf(item.id);
  return (
    <Card title="Nodes">
      <Figure name={chosen.length === 0 ? 'Click or mark out nodes' : 'Chosen'}>
        {chosen.length > 0 ? `${chosen.length} of ` : ''}
        {nodeCount(outline)}
      </Figure>
      <NodeFields item={item} outline={outline} chosen={chosen} />
      {chosen.length > 0 ? <NodeWork item={item} outline={outline} chosen={chosen} onRedrawn={setRedrawn} /> : null}
      {redrawn === undefined ? null : <Notice level="note">Redrawn; {describeDeviation(redrawn, unit)} off at most.</Notice>}
      <ThinOut item={item} outline={outline} />
    </Card>
  );
}

export function DimensionCard({ item }: { item: DimensionItem }) {
  const drawing = useDocument((state) => state.drawing);
  const { unit } = pageOf(drawing);
  const line = dimensionLine(drawing, item);
  const fastened = [item.from, item.to].filter((end) => end.item !== undefined && itemOf(drawing, end.item)).length;
  const set = (fields: Partial<DimensionItem>): void => void dispatch(setItemFields, { id: item.id, fields }, { origin: 'dimension.set' });
  return (
    <Card title="Dimension line">
      <Figure name="Measures" strong>
        {describeLength(Math.round(line.mm * 100) / 100, unit)}
      </Figure>
      <PickRow
        label="Measured"
        value={item.measure}
        options={[
          { value: 'straight', label: 'Straight from end to end', content: 'Straight' },
          { value: 'level', label: 'Level', content: 'Level' },
          { value: 'upright', label: 'Upright', content: 'Upright' },
        ]}
        onChange={(measure) => set({ measure })}
      />
      <LengthField wide label="Stands off by" mm={item.standOffMm} unit={unit} onChange={(standOffMm) => set({ standOffMm })} />
      <p className="text-[13px] text-ink-soft">
        {fastened === 0 ? 'It stays where it is.' : fastened === 2 ? 'It follows what it measures.' : 'One end follows its item.'} Printed
        on proofs, never cut.
      </p>
    </Card>
  );
}
