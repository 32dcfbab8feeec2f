/** The ticket's card for lettering: words, font, size by the capitals, spaces; what the font lacks, with a way out. */
import { bounds, compose, translation } from '@lorvek/core/geometry';
import { bendOf, pageOf, setItemFields, sliverOf, tidyMatrix, writeText, type LetteringItem } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { AlignCenter, AlignJustify, AlignLeft, AlignRight } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useShop } from '../../api/shop.ts';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Notice } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { ask, askDerive } from '../../worker/compute.ts';
import { isWorkedOut, localBoxOf, outlineOf, resultOf, useDerivedVersion } from '../../worker/derived.ts';
import { FontPicker } from './font-picker.tsx';
import { LetteringTools, MissingFont, FontAxes } from './lettering-tools.tsx';
import { rememberFont } from './new-items.ts';
import { tellFailure } from '../../ui/tell.ts';

const set = (id: string, fields: Partial<LetteringItem>, origin = 'lettering.set', group = ''): boolean =>
  dispatch(setItemFields, { id, fields }, { origin, group });

/** Lines are set against one another; the lettering as a whole stays where it stands. */
async function alignInPlace(item: LetteringItem, align: LetteringItem['align']): Promise<void> {
  const before = outlineOf(item);
  try {
    const after = await askDerive('derive', { item: { ...item, align }, sliverMm: sliverOf(useDocument.getState().drawing) });
    if (!before || before.contours.length === 0 || bendOf(item)) return void set(item.id, { align });
    const by = bounds(before).minX - bounds(after.outline).minX;
    set(item.id, { align, matrix: tidyMatrix(compose(item.matrix, translation(by, 0))) });
  } catch (error) {
    tellFailure(error);
  }
}

/** Names the characters that the font lacks and offers fonts that have them. */
function Missing({ item, missing }: { item: LetteringItem; missing: readonly string[] }) {
  const fonts = useShop((state) => state.fonts);
  const [offers, setOffers] = useState<string[]>();
  const text = missing.join('');
  useEffect(() => {
    let current = true;
    setOffers(undefined);
    ask('covering', { text })
      .then((ids) => current && setOffers(ids))
      .catch(tellFailure);
    return () => {
      current = false;
    };
  }, [text]);
  const font = fonts?.find((f) => f.id === item.fontId)?.name ?? item.fontId;
  return (
    <Notice level="warning">
      {font} has no {missing.map((c) => `“${c}”`).join(', ')}; a gap is left.
      {offers === undefined ? <span className="block text-ink-soft">Looking for fonts that have it…</span> : null}
      {offers && offers.length === 0 ? <span className="block">No font in this shop has it.</span> : null}
      <span className="mt-1 flex flex-wrap gap-1">
        {(offers ?? []).slice(0, 4).map((id) => (
          <Button
            key={id}
            size="small"
            onClick={() =>
              set(item.id, { substitutes: [...item.substitutes.filter((s) => s !== id), id].slice(-8) }, 'lettering.substitute')
            }
          >
            Take it from {fonts?.find((f) => f.id === id)?.name ?? id}
          </Button>
        ))}
      </span>
    </Notice>
  );
}

/** The words, for those who would rather write here than on the drawing. One step of the history a visit. */
function Words({ item }: { item: LetteringItem }) {
  const [group, setGroup] = useState('');
  return (
    <textarea
      aria-label="Words"
      value={item.text}
      rows={Math.min(5, Math.max(2, item.text.split('\n').length))}
      spellCheck={false}
      dir="auto"
      onFocus={() => setGroup(newId('words'))}
      onKeyDown={(event) => event.stopPropagation()}
      onChange={(event) => {
        dispatch(writeText, { id: item.id, text: event.target.value }, { origin: 'lettering.write', group });
      }}
      className="resize-y border border-line-strong bg-sheet px-2 py-1.5"
    />
  );
}

/** Width of the letters as cut, mm; undefined while they are worked out. */
function inkWidth(item: LetteringItem): number | undefined {
  const outline = isWorkedOut(item) ? outlineOf(item) : undefined;
  if (!outline || outline.contours.length === 0) return undefined;
  const { minX, maxX } = localBoxOf(outline);
  return (maxX - minX) * Math.hypot(item.matrix[0], item.matrix[1]);
}

/** Less is no other width. */
const OTHER_WIDTH_MM = 0.05;

/** After another font was taken: the height was kept and the width is another; the width can be had instead. */
function WidthAfterFont({ item, wasMm, onDone }: { item: LetteringItem; wasMm: number; onDone(): void }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const nowMm = inkWidth(item);
  if (nowMm === undefined || Math.abs(nowMm - wasMm) < OTHER_WIDTH_MM) return null;
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  return (
    <Notice level="note">
      The height was kept: the width was {say(wasMm)} and is {say(nowMm)} now.
      <span className="mt-1 flex gap-2">
        <Button
          size="small"
          onClick={() => {
            const k = wasMm / nowMm;
            set(item.id, { capHeightMm: item.capHeightMm * k, letterSpaceMm: item.letterSpaceMm * k }, 'lettering.size');
            onDone();
          }}
        >
          Keep the width instead
        </Button>
        <Button size="small" onClick={onDone}>
          It is right
        </Button>
      </span>
    </Notice>
  );
}

/** Room between letters and lines, width and slant of the letters. */
function SpacingFields({ item }: { item: LetteringItem }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  return (
    <div className="grid grid-cols-2 gap-2">
      <LengthField
        label="Letter space"
        short="Letters"
        mm={item.letterSpaceMm}
        unit={unit}
        hint="Added between letters; may be below zero"
        onChange={(letterSpaceMm) => set(item.id, { letterSpaceMm })}
      />
      <NumberField
        label="Line space"
        short="Lines"
        value={item.lineSpace}
        suffix="× H"
        step={0.1}
        min={0}
        max={20}
        hint="From baseline to baseline, in heights of the capitals"
        onChange={(lineSpace) => set(item.id, { lineSpace })}
      />
      <NumberField
        label="Letter width"
        short="Width"
        value={item.widthPct}
        suffix="%"
        decimals={1}
        min={10}
        max={1000}
        onChange={(widthPct) => set(item.id, { widthPct })}
      />
      <NumberField
        label="Slant"
        value={item.slantDeg}
        suffix="°"
        decimals={1}
        min={-60}
        max={60}
        onChange={(slantDeg) => set(item.id, { slantDeg })}
      />
    </div>
  );
}

/** Letters that are not as their font has them. */
function StretchedNotice({ item }: { item: LetteringItem }) {
  if (Math.abs(item.widthPct - 100) <= 0.05 && item.slantDeg === 0) return null;
  return (
    <Notice level="note">
      The letters are {item.widthPct !== 100 ? `${Math.round(item.widthPct * 10) / 10} % wide` : ''}
      {item.widthPct !== 100 && item.slantDeg !== 0 ? ' and ' : ''}
      {item.slantDeg !== 0 ? `slanted by ${item.slantDeg}°` : ''} against their font.{' '}
      <button type="button" className="text-teal underline" onClick={() => set(item.id, { widthPct: 100, slantDeg: 0 })}>
        Back to the font’s own
      </button>
    </Notice>
  );
}

export function LetteringCard({ item }: { item: LetteringItem }) {
  useDerivedVersion();
  const [widthBefore, setWidthBefore] = useState<{ fontId: string; widthMm: number }>();
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const result = resultOf(item);
  return (
    <Card title="Lettering">
      <Words item={item} />
      <FontPicker
        value={item.fontId}
        sample={item.text}
        onChange={(fontId) => {
          const widthMm = inkWidth(item);
          if (!set(item.id, { fontId }, 'lettering.font')) return;
          rememberFont(fontId);
          setWidthBefore(widthMm === undefined ? undefined : { fontId, widthMm });
        }}
      />
      {widthBefore?.fontId === item.fontId ? (
        <WidthAfterFont item={item} wasMm={widthBefore.widthMm} onDone={() => setWidthBefore(undefined)} />
      ) : null}
      {result?.error !== undefined ? <Notice level="stop">{result.error}</Notice> : null}
      <MissingFont item={item} />
      <FontAxes item={item} />
      {result && result.error === undefined && result.missing.length > 0 ? <Missing item={item} missing={result.missing} /> : null}
      <LengthField
        wide
        label="Height of capitals"
        mm={item.capHeightMm}
        unit={unit}
        minMm={0.5}
        hint="A capital H measures this when it is cut"
        onChange={(capHeightMm) => set(item.id, { capHeightMm })}
      />
      <SpacingFields item={item} />
      <StretchedNotice item={item} />
      <PickRow
        label="Lines"
        value={item.align}
        options={[
          { value: 'left', label: 'Left', content: <AlignLeft size={15} /> },
          { value: 'centre', label: 'Centre', content: <AlignCenter size={15} /> },
          { value: 'right', label: 'Right', content: <AlignRight size={15} /> },
          { value: 'justify', label: 'Justified: all lines as wide as the widest', content: <AlignJustify size={15} /> },
        ]}
        onChange={(align) => void alignInPlace(item, align)}
      />
      <LetteringTools item={item} />
    </Card>
  );
}
