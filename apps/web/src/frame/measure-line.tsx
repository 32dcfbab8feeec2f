/** The measure line: place, size and turn of what is selected, exact and editable; the surface when nothing is. */
import { pageOf, setSurface, transformItems, type Drawing } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { translation } from '@lorvek/core/geometry';
import { FlipHorizontal2, FlipVertical2, Lock, LockOpen } from 'lucide-react';
import type { ReactNode } from 'react';
import { dispatch, useDocument } from '../document/store.ts';
import { anchorPlace, frameOf, mirrorInFrame, scaleInFrame, seenSizeOf, turnAbout, type Frame } from '../drawing/selection.ts';
import { whenKnown } from '../document/when-known.ts';
import { useView, type Anchor } from '../drawing/view.ts';
import { IconButton } from '../ui/button.tsx';
import { LengthField, NumberField } from '../ui/fields.tsx';
import { useDerivedVersion } from '../worker/derived.ts';

const NINE: readonly Anchor[] = [1, 0.5, 0].flatMap((y) => [0, 0.5, 1].map((x) => ({ x, y })));
const NAMES = [
  'upper left',
  'upper middle',
  'upper right',
  'middle left',
  'middle',
  'middle right',
  'lower left',
  'lower middle',
  'lower right',
];

function AnchorPicker({ anchor }: { anchor: Anchor }) {
  return (
    <div role="radiogroup" aria-label="Anchor point" className="grid grid-cols-3 gap-px border border-line-strong bg-sheet p-px">
      {NINE.map((one, i) => {
        const on = one.x === anchor.x && one.y === anchor.y;
        return (
          <button
            key={NAMES[i]}
            type="button"
            role="radio"
            aria-checked={on}
            aria-label={`Anchor ${NAMES[i]}`}
            title={`X and Y are of the ${NAMES[i]}; it stays where it is`}
            tabIndex={on ? 0 : -1}
            onClick={() => useView.setState({ anchor: one })}
            className={`size-[7px] ${on ? 'bg-teal' : 'bg-line hover:bg-line-strong'}`}
          />
        );
      })}
    </div>
  );
}

function move(ids: readonly string[], dx: number, dy: number): void {
  dispatch(transformItems, { ids, map: translation(dx, dy) }, { origin: 'item.place' });
}

/** Sizes a selection to a width or a height; while its letters are being worked out, as soon as they are. */
function size(ids: readonly string[], to: { readonly widthMm: number } | { readonly heightMm: number }): void {
  whenKnown(ids, 'widthMm' in to ? 'width' : 'height', () => {
    const { anchor, ratioLock } = useView.getState();
    const frame = frameOf(useDocument.getState().drawing, ids);
    if (!frame) return;
    const [width, height] = [frame.box.maxX - frame.box.minX, frame.box.maxY - frame.box.minY];
    const k = 'widthMm' in to ? to.widthMm / width : to.heightMm / height;
    const map = scaleInFrame(frame, anchor, ratioLock || 'widthMm' in to ? k : 1, ratioLock || 'heightMm' in to ? k : 1);
    dispatch(transformItems, { ids, map }, { origin: 'item.size' });
  });
}

function SelectionFields({ drawing, selection, frame }: { drawing: Drawing; selection: readonly string[]; frame: Frame }) {
  const { anchor, ratioLock } = useView();
  const { unit } = pageOf(drawing);
  const place = anchorPlace(frame, anchor);
  const width = frame.box.maxX - frame.box.minX;
  const height = frame.box.maxY - frame.box.minY;
  return (
    <>
      <AnchorPicker anchor={anchor} />
      <div className="w-[112px]">
        <LengthField label="X" mm={place.x} unit={unit} onChange={(x) => move(selection, x - place.x, 0)} />
      </div>
      <div className="w-[112px]">
        <LengthField label="Y" mm={place.y} unit={unit} onChange={(y) => move(selection, 0, y - place.y)} />
      </div>
      <div className="w-[116px]">
        <LengthField label="Width" short="W" mm={width} unit={unit} minMm={0.01} onChange={(widthMm) => size(selection, { widthMm })} />
      </div>
      <IconButton
        label={ratioLock ? 'Ratio is kept' : 'Ratio is free'}
        pressed={ratioLock}
        onClick={() => useView.setState({ ratioLock: !ratioLock })}
      >
        {ratioLock ? <Lock size={14} /> : <LockOpen size={14} />}
      </IconButton>
      <div className="w-[116px]">
        <LengthField label="Height" short="H" mm={height} unit={unit} minMm={0.01} onChange={(heightMm) => size(selection, { heightMm })} />
      </div>
      <div className="w-[104px]">
        <NumberField
          label="Turn"
          value={frame.turnDeg}
          suffix="°"
          onChange={(angle) =>
            dispatch(
              transformItems,
              { ids: selection, map: turnAbout(anchorPlace(frame, { x: 0.5, y: 0.5 }), angle - frame.turnDeg) },
              { origin: 'item.turn' },
            )
          }
        />
      </div>
      <IconButton label="Mirror sideways" keys="X" onClick={() => mirror('sideways')}>
        <FlipVertical2 size={15} />
      </IconButton>
      <IconButton label="Mirror upside down" keys="Shift X" onClick={() => mirror('upside-down')}>
        <FlipHorizontal2 size={15} />
      </IconButton>
    </>
  );
}

/** The size with rings and shades, beside the size of the letters themselves in the fields. */
function SeenSize({ drawing, selection, frame }: { drawing: Drawing; selection: readonly string[]; frame: Frame }) {
  const size = seenSizeOf(
    drawing,
    selection,
    frame,
    useView((view) => view.preview),
  );
  if (!size) return null;
  const { unit } = pageOf(drawing);
  const [width, height] = [describeLength(size.widthMm, unit), describeLength(size.heightMm, unit)];
  // in millimetres the unit is said once, for the line is narrow
  const text = `${unit === 'mm' ? width.replace(/ mm$/, '') : width} × ${height}`;
  return (
    <span
      className="min-w-0 truncate text-[13px] text-ink-soft"
      title={`Width and height in the fields are of the letters or shapes alone; with their rings and shades it is ${text}`}
    >
      As seen <span className="numerals">{text}</span>
    </span>
  );
}

/** Mirrors what is selected about its own middle; what has no outline yet (a fresh copy) as soon as it has one. */
export function mirror(across: 'sideways' | 'upside-down'): void {
  const { drawing, selection } = useDocument.getState();
  const frame = frameOf(drawing, selection);
  if (frame) return void dispatch(transformItems, { ids: selection, map: mirrorInFrame(frame, across) }, { origin: 'item.mirror' });
  if (selection.length === 0) return;
  const stop = useDerivedVersion.subscribe(() => {
    stop();
    requestAnimationFrame(() => useDocument.getState().selection === selection && mirror(across));
  });
}

/** @param about shown instead of what is selected on the drawing */
export function MeasureLine({ zoom, about }: { zoom?: ReactNode; about?: ReactNode }) {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const { preview, stepMm } = useView();
  useDerivedVersion();
  const { unit, surface } = pageOf(drawing);
  const frame = frameOf(drawing, selection, preview);
  return (
    <div role="toolbar" aria-label="Measure line" className="flex h-9 shrink-0 items-center gap-2.5 border-b bg-paper px-3">
      {about !== undefined ? (
        about
      ) : selection.length > 0 && frame ? (
        <>
          <SelectionFields drawing={drawing} selection={selection} frame={frame} />
          <SeenSize drawing={drawing} selection={selection} frame={frame} />
        </>
      ) : (
        <>
          <span className="rule-label">Surface</span>
          <span className="max-w-48 truncate">{surface.name}</span>
          <div className="w-[120px]">
            <LengthField
              label="Surface width"
              short="W"
              mm={surface.widthMm}
              unit={unit}
              minMm={1}
              onChange={(widthMm) => dispatch(setSurface, { fields: { widthMm } }, { origin: 'page.surface' })}
            />
          </div>
          <div className="w-[120px]">
            <LengthField
              label="Surface height"
              short="H"
              mm={surface.heightMm}
              unit={unit}
              minMm={1}
              onChange={(heightMm) => dispatch(setSurface, { fields: { heightMm } }, { origin: 'page.surface' })}
            />
          </div>
        </>
      )}
      <div className="flex-1" />
      {selection.length > 1 && about === undefined ? <span className="text-[13px] text-ink-soft">{selection.length} items</span> : null}
      {zoom}
      <div className="w-[104px]">
        <LengthField
          label="Arrow step"
          short="Step"
          mm={stepMm}
          unit={unit}
          minMm={0.001}
          hint={`Arrow keys move by ${describeLength(stepMm, unit)}; Shift ×10, Alt ÷10`}
          onChange={(mm) => useView.setState({ stepMm: mm })}
        />
      </div>
    </div>
  );
}
