/** What is printed: the colours of items on a print, and the lines that a blade follows round them. */
import {
  addEdgeCut,
  isPrinted,
  isShaped,
  leavesOf,
  pageOf,
  setItemFields,
  setPaint,
  type Colour,
  type CutLine,
  type EdgeCutItem,
  type LeafItem,
  type Paint,
  type PictureItem,
} from '@lorvek/model';
import { asksForGround } from '@lorvek/model/edge-cuts';
import type { LengthUnit } from '@lorvek/core/units';
import { Scissors } from 'lucide-react';
import { dispatch, useDocument } from '../../document/store.ts';
import { gestureOf } from '../../document/gesture.ts';
import { LINE_LOOKS } from '../../drawing/paint.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { ColourFields, NamedInkField } from './colour-fields.tsx';
import { resultOf, useDerivedVersion } from '../../worker/derived.ts';
import { clipToOutline, cutRound, liftGround } from '../../document/print-work.ts';

/** Values in process inks that a colour came with; they are printed until another colour is chosen. */
function ProcessValues({ colour }: { colour: Colour }) {
  if (!colour.cmyk) return null;
  const text = colour.cmyk.map((share, i) => `${'CMYK'[i]} ${Math.round(100 * share)}`).join(' · ');
  return <Figure name="Inks as they came">{text} %</Figure>;
}

/** Flat colour, line and named ink of what is printed. */
export function PaintCard({ ids }: { ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  const leaves = leavesOf(drawing, ids).filter((leaf) => isShaped(leaf) && isPrinted(drawing, leaf));
  const [first] = leaves;
  if (!first) return null;
  const { unit } = pageOf(drawing);
  const paint: Paint = first.paint ?? { fill: { hex: '#17181a' } };
  const own = leaves.map(({ id }) => id);
  const set = (fields: Partial<Paint>): void =>
    void dispatch(setPaint, { ids: own, fields }, { origin: 'item.paint', group: gestureOf('paint') });
  const { fill, stroke } = paint;
  return (
    <Card title="Printed colour">
      <Switch label="Filled" checked={fill !== null} onChange={(on) => set({ fill: on ? { hex: '#17181a' } : null })} />
      {fill ? <ColourFields label="Fill" colour={fill} onChange={(colour) => set({ fill: colour })} /> : null}
      {fill ? <ProcessValues colour={fill} /> : null}
      {fill ? <NamedInkField label="Named ink" colour={fill} onChange={(colour) => set({ fill: colour })} /> : null}
      <Switch
        label="Line"
        checked={stroke !== undefined}
        onChange={(on) => set({ stroke: on ? { hex: '#17181a', widthMm: 1 } : undefined })}
      />
      {stroke ? (
        <>
          <LengthField
            wide
            label="Width of the line"
            mm={stroke.widthMm}
            unit={unit}
            minMm={0.01}
            onChange={(widthMm) => set({ stroke: { ...stroke, widthMm } })}
          />
          <ColourFields label="Line" colour={stroke} onChange={(colour) => set({ stroke: { ...colour, widthMm: stroke.widthMm } })} />
          <NamedInkField
            label="Named ink of the line"
            colour={stroke}
            onChange={(colour) => set({ stroke: { ...colour, widthMm: stroke.widthMm } })}
          />
        </>
      ) : null}
    </Card>
  );
}

const LINES: Record<CutLine['kind'], string> = {
  kiss: 'Kiss: through the vinyl, not its liner',
  score: 'Score: a light cut to fold along',
  perforated: 'Perforated: cuts with bridges',
  through: 'Through: vinyl and liner',
};

function lineOf(kind: CutLine['kind']): CutLine {
  return kind === 'perforated' ? { kind, cutMm: 4, bridgeMm: 0.8, leastBridges: 4 } : { kind };
}

/** A picture with a ground: said there and then, with what can be done. */
function GroundNotice({ picture }: { picture: PictureItem }) {
  return (
    <Notice level="warning">
      “{picture.name}” has a ground of its own: the line is its plain rectangle.
      <span className="mt-1 flex gap-1.5">
        <Button size="small" onClick={() => void liftGround(picture)}>
          Lift the ground
        </Button>
        <Button size="small" onClick={() => void clipToOutline(picture)}>
          Clipping outline
        </Button>
      </span>
    </Notice>
  );
}

const clearBleed = (id: string): void =>
  void dispatch(setItemFields, { id, fields: { bleedMm: undefined } as Partial<EdgeCutItem> }, { origin: 'edge-cut.set' });

interface EdgeCutFieldsProps {
  readonly item: EdgeCutItem;
  readonly unit: LengthUnit;
  set(fields: Partial<EdgeCutItem>): void;
}

/** Its shape, and what kind of line it is. */
function KindFields({ item, set }: Omit<EdgeCutFieldsProps, 'unit'>) {
  const { line } = item;
  return (
    <>
      <PickRow
        label="Shape of the line"
        value={item.shape}
        options={[
          { value: 'follow', label: 'Follow the artwork', content: 'Follow' },
          { value: 'box', label: 'Box round it', content: 'Box' },
          { value: 'rounded', label: 'Box with round corners', content: 'Rounded' },
          { value: 'oval', label: 'Oval round it', content: 'Oval' },
          { value: 'circle', label: 'Circle round it', content: 'Circle' },
        ]}
        onChange={(shape) => set({ shape })}
      />
      <Pick
        label="Kind"
        value={line.kind}
        options={(Object.keys(LINES) as CutLine['kind'][]).map((kind) => ({ value: kind, text: LINES[kind] }))}
        onChange={(kind) => set({ line: lineOf(kind as CutLine['kind']) })}
      />
    </>
  );
}

/** How far the art is carried beyond it. */
function BleedFields({ item, unit, set }: EdgeCutFieldsProps) {
  return (
    <>
      <Switch
        label="Carry the art outward (bleed)"
        checked={item.bleedMm !== undefined}
        onChange={(on) => (on ? set({ bleedMm: 2 }) : clearBleed(item.id))}
      />
      {item.bleedMm !== undefined ? (
        <LengthField
          wide
          label="Bleed beyond the line"
          mm={item.bleedMm}
          unit={unit}
          minMm={0.1}
          onChange={(bleedMm) => set({ bleedMm })}
        />
      ) : null}
    </>
  );
}

/** What its shape asks for besides. */
function OwnFields({ item, unit, set }: EdgeCutFieldsProps) {
  return (
    <>
      {item.shape === 'rounded' ? (
        <LengthField wide label="Corner radius" mm={item.cornerMm} unit={unit} minMm={0} onChange={(cornerMm) => set({ cornerMm })} />
      ) : null}
      {item.shape === 'follow' ? (
        <>
          <LengthField wide label="Smoothing radius" mm={item.smoothMm} unit={unit} minMm={0} onChange={(smoothMm) => set({ smoothMm })} />
          <LengthField
            wide
            label="One piece within"
            mm={item.joinWithinMm}
            unit={unit}
            minMm={0}
            onChange={(joinWithinMm) => set({ joinWithinMm })}
          />
          <Switch label="Cut the holes too" checked={item.holes} onChange={(holes) => set({ holes })} />
        </>
      ) : null}
    </>
  );
}

/** Cuts and bridges of a perforated line. */
function PerforationFields({ line, unit, set }: Omit<EdgeCutFieldsProps, 'item'> & { line: CutLine & { kind: 'perforated' } }) {
  return (
    <div className="grid grid-cols-2 gap-2">
      <LengthField label="Cut" mm={line.cutMm} unit={unit} minMm={0.2} onChange={(cutMm) => set({ line: { ...line, cutMm } })} />
      <LengthField
        label="Bridge"
        mm={line.bridgeMm}
        unit={unit}
        minMm={0.1}
        onChange={(bridgeMm) => set({ line: { ...line, bridgeMm } })}
      />
      <NumberField
        label="Bridges at least"
        value={line.leastBridges ?? 0}
        decimals={0}
        min={0}
        max={500}
        onChange={(leastBridges) => set({ line: { ...line, leastBridges } })}
      />
    </div>
  );
}

/** What became of it. */
function EdgeCutResult({ item }: { item: EdgeCutItem }) {
  const result = resultOf(item);
  if (!result) return null;
  if (result.error !== undefined) return <Notice level="stop">{result.error}</Notice>;
  const pieces = result.outline.contours.length;
  return pieces === 0 ? (
    <Notice level="stop">Nothing is left of the line: bring it nearer to the edge.</Notice>
  ) : (
    <Figure name="Pieces">{pieces}</Figure>
  );
}

export function EdgeCutCard({ item }: { item: EdgeCutItem }) {
  useDerivedVersion();
  const drawing = useDocument((state) => state.drawing);
  const { unit } = pageOf(drawing);
  const set = (fields: Partial<EdgeCutItem>): void =>
    void dispatch(
      setItemFields,
      { id: item.id, fields },
      { origin: 'edge-cut.set', group: gestureOf(`edge cut ${Object.keys(fields).join()}`) },
    );
  const { line } = item;
  return (
    <Card title="Edge cut" aside={<span className="h-0.5 w-8" style={{ background: LINE_LOOKS[line.kind].hex }} />}>
      <KindFields item={item} set={set} />
      <LengthField
        wide
        label="Distance (minus: inward)"
        mm={item.distanceMm}
        unit={unit}
        minMm={-1000}
        onChange={(distanceMm) => set({ distanceMm })}
      />
      <BleedFields item={item} unit={unit} set={set} />
      <OwnFields item={item} unit={unit} set={set} />
      {line.kind === 'perforated' ? <PerforationFields line={line} unit={unit} set={set} /> : null}
      <EdgeCutResult item={item} />
      {item.shape === 'follow' ? asksForGround(drawing, item).map((picture) => <GroundNotice key={picture.id} picture={picture} />) : null}
    </Card>
  );
}

const isRoundable = (leaf: LeafItem): boolean => isShaped(leaf) || leaf.kind === 'picture';

/** Puts an edge cut round what is selected. */
export function CutRoundCard({ ids }: { ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  const leaves = leavesOf(drawing, ids).filter(isRoundable);
  const printed = leaves.filter((leaf) => isPrinted(drawing, leaf));
  if (printed.length === 0) return null;
  return (
    <Card title="Cut round it">
      <Button size="small" onClick={() => void cutRound(ids, (args) => dispatch(addEdgeCut, args, { origin: 'edge-cut.add' }))}>
        <Scissors size={14} /> Edge cut round the selection
      </Button>
    </Card>
  );
}

/** A picture that is on no print. */
export function LookedAtNotice({ item }: { item: PictureItem }) {
  return item.layer === null ? (
    <Notice level="note">Only looked at: this picture is on no print. Give it a print under “Goes on” to print it.</Notice>
  ) : null;
}
