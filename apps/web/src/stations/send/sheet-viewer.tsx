/** The sheet that goes out, large: print and cut together or apart, its plates one by one. */
import { describePrice, isPrint, layUpOf, pageOf, spotInksOf, type ShopSettings } from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { translation } from '@lorvek/core/geometry';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { Loader2 } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { api } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { useDocument } from '../../document/store.ts';
import { inItem, viewMatrix } from '../../drawing/paint.ts';
import { paintSheet } from '../../drawing/paint-sheet.ts';
import { fitBox, type View } from '../../drawing/view.ts';
import { Viewport } from '../../drawing/viewport.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';
import { Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import type { Cutting } from '@lorvek/model/cut-file';
import { CutPlayer, paintPlayed, useToolWays, type Played } from './cut-player.tsx';
import { composed, platesOf, usePlates, useSoft, type Fetched, type Looked, type Plates, type Side, type Soft } from './plates.ts';

type Look = 'both' | 'print' | 'cut' | 'order' | 'plates' | 'soft';

export const fitSend = (sheet: SheetPlan): void =>
  fitBox('send', { minX: 0, minY: 0, maxX: Math.max(60, sheet.usedLengthMm), maxY: sheet.material.widthMm }, 48);

/** The sheet without what is not looked at. */
function only(sheet: SheetPlan, look: Look): SheetPlan {
  const { print, code: _code, ...rest } = sheet;
  if (look === 'print')
    return {
      ...sheet,
      lines: [],
      parts: sheet.parts.map((part) => ({ ...part, sources: part.sources.filter(({ line }) => line === undefined) })),
    };
  return look === 'cut' && print ? { ...rest, marks: [] } : sheet;
}

/** Pictures of the whole page, one over the other. */
interface Picture {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly images: readonly CanvasImageSource[];
}

interface Painted {
  readonly sheet: SheetPlan;
  readonly marginMm: number;
  readonly picture: Picture | undefined;
  /** Cut so far, when that is played. */
  readonly cut: { readonly played: Played; readonly seconds: number } | undefined;
}

function paint(context: CanvasRenderingContext2D, view: View, { sheet, marginMm, picture, cut }: Painted): void {
  const [length, width] = [Math.max(60, sheet.usedLengthMm), sheet.material.widthMm];
  context.save();
  context.transform(...(viewMatrix(view) as [number, number, number, number, number, number]));
  const px = 1 / view.scale;
  context.fillStyle = sheet.layer.hex;
  context.fillRect(0, 0, length, width);
  if (picture) {
    const { widthMm, heightMm, images } = picture;
    context.save();
    context.transform(1, 0, 0, -1, 0, heightMm);
    for (const image of images) context.drawImage(image, 0, 0, widthMm, heightMm);
    context.restore();
  } else if (cut) {
    context.globalAlpha = 0.25;
    inItem(context, translation(0, 0), () => paintSheet(context, sheet, view.scale));
    context.globalAlpha = 1;
    paintPlayed(context, cut.played, cut.seconds, px);
  } else inItem(context, translation(0, 0), () => paintSheet(context, sheet, view.scale));
  context.lineWidth = 1.5 * px;
  context.strokeStyle = '#0d5c5f';
  context.strokeRect(0, 0, length, width);
  context.setLineDash([6 * px, 4 * px]);
  context.lineWidth = px;
  context.strokeStyle = '#9b9382';
  context.strokeRect(marginMm, marginMm, Math.max(0, length - 2 * marginMm), Math.max(0, width - 2 * marginMm));
  context.restore();
}

/** What the inks of the plates cost, per litre; loaded when plates are looked at. */
function useInkPrices(isOn: boolean): Readonly<Record<string, number>> {
  const [prices, setPrices] = useState<Record<string, number>>({});
  useEffect(() => {
    let current = true;
    if (!isOn) return undefined;
    void api
      .supplies()
      .then(
        (all) => current && setPrices(Object.fromEntries(all.flatMap(({ plate, price }) => (plate && price > 0 ? [[plate, price]] : [])))),
      )
      // no price is shown of what is not known
      .catch(() => undefined);
    return () => {
      current = false;
    };
  }, [isOn]);
  return prices;
}

interface SwitchesProps {
  /** Ink of a full cover, ml a square metre; null: not known of this printer. */
  readonly inkMlPerM2: number | null;
  readonly plates: Plates;
  readonly shown: ReadonlySet<string>;
  toggle(name: string, alone: boolean): void;
}

/** Ink of a plate in ml and money, as far as both are known. */
function inkText(fullM2: number, inkMlPerM2: number | null, price: number | undefined, settings: ShopSettings | undefined): string {
  if (inkMlPerM2 === null) return '';
  const ml = fullM2 * inkMlPerM2;
  return ` · ${ml.toFixed(1)} ml${price !== undefined && settings ? ` · ${describePrice((ml / 1000) * price, settings)}` : ''}`;
}

function PlateSwitches({ plates, shown, inkMlPerM2, toggle }: SwitchesProps) {
  const settings = useShop((state) => state.settings);
  const prices = useInkPrices(true);
  const areaM2 = (plates.widthMm * plates.heightMm) / 1e6;
  return (
    <ul className="flex flex-wrap gap-1" aria-label="Plates">
      {platesOf(plates).map(({ key, name, pass, cover }) => (
        <li key={key}>
          <button
            type="button"
            aria-pressed={shown.has(key)}
            title={`${pass ? `Pass ${pass}: ` : ''}${name}: shown with the others; a double click shows it alone`}
            onClick={() => toggle(key, false)}
            onDoubleClick={() => toggle(key, true)}
            className={`border px-2 py-0.5 text-left text-xs ${shown.has(key) ? 'border-teal bg-teal-wash font-semibold' : 'border-line-strong bg-sheet text-ink-soft'}`}
          >
            {pass ? `${pass.split(' ')[0] ?? ''} ` : ''}
            {name}{' '}
            <span className="numerals font-normal">
              {(100 * cover).toFixed(cover < 0.1 ? 1 : 0)} %{inkText(cover * areaM2, inkMlPerM2, prices[name], settings)}
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}

const LOOKS = [
  { value: 'both', label: 'Print and cut together', content: 'Together' },
  { value: 'print', label: 'The print alone', content: 'Print' },
  { value: 'cut', label: 'The cut alone', content: 'Cut' },
  { value: 'order', label: 'The cut played in its order', content: 'Order' },
  { value: 'plates', label: 'Plates', content: 'Plates' },
  { value: 'soft', label: 'How it will look when it is printed', content: 'As printed' },
] as const;

/** What there is to look at of a sheet. */
const looksOf = ({ print, lines }: SheetPlan): (typeof LOOKS)[number][] =>
  LOOKS.filter(({ value }) => (print ? value !== 'order' || lines.length > 0 : value === 'cut' || (value === 'order' && lines.length > 0)));

function usePicture(plates: Plates | undefined, looked: Looked) {
  const { shown, mediumHex, looks, side, whiteFirst } = looked;
  return useMemo(() => {
    if (!plates) return undefined;
    const pixels = composed(plates, { shown, mediumHex, looks, side, whiteFirst });
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [pixels?.width ?? 1, pixels?.height ?? 1];
    if (pixels) canvas.getContext('2d')?.putImageData(pixels, 0, 0);
    return { canvas, plates };
  }, [plates, shown, mediumHex, looks, side, whiteFirst]);
}

interface SheetViewerProps {
  readonly sheet: SheetPlan;
  readonly cutting: Cutting | undefined;
  /** Of the printer that is chosen; null: not known. */
  readonly inkMlPerM2: number | null;
  /** Whose colours are shown. */
  readonly printerId: string | undefined;
}

interface PlatesBarProps {
  readonly plates: Plates;
  readonly off: ReadonlySet<string>;
  readonly inkMlPerM2: number | null;
  /** Does white lie behind, between or in front? Then it is looked at from both sides. */
  readonly hasSides: boolean;
  readonly side: Side;
  onSide(side: Side): void;
  onOff(off: ReadonlySet<string>): void;
}

function PlatesBar({ plates, off, inkMlPerM2, hasSides, side, onSide, onOff }: PlatesBarProps) {
  const all = platesOf(plates).map(({ key }) => key);
  const toggle = (key: string, alone: boolean): void => {
    if (alone) onOff(new Set(all.filter((one) => one !== key)));
    else onOff(off.has(key) ? new Set([...off].filter((one) => one !== key)) : new Set([...off, key]));
  };
  return (
    <>
      <PlateSwitches plates={plates} shown={new Set(all.filter((key) => !off.has(key)))} inkMlPerM2={inkMlPerM2} toggle={toggle} />
      {hasSides ? (
        <PickRow<Side>
          label="Seen from"
          value={side}
          options={[
            { value: 'front', label: 'From the printed side', content: 'Front' },
            { value: 'back', label: 'Through what it is printed on, mirrored', content: 'Back' },
          ]}
          onChange={onSide}
        />
      ) : null}
      {off.size > 0 ? (
        <button type="button" className="text-xs text-teal underline" onClick={() => onOff(new Set())}>
          All plates
        </button>
      ) : null}
    </>
  );
}

/** What is being waited for, of what the server makes. */
function Waiting({ of, fetched }: { of: string; fetched: Fetched<unknown> }) {
  if (fetched.isBusy)
    return (
      <span role="status" className="flex items-center gap-1 text-[13px] text-ink-soft">
        <Loader2 size={14} className="animate-spin" /> Making the {of}…
      </span>
    );
  return fetched.found === undefined && fetched.problem === undefined ? (
    <span className="text-[13px] text-ink-soft">The {of} come when the last changes are saved.</span>
  ) : null;
}

interface SoftBarProps {
  readonly soft: Soft;
  readonly lit: boolean;
  onLit(lit: boolean): void;
}

function SoftBar({ soft, lit, onLit }: SoftBarProps) {
  const share = 100 * soft.beyondShare;
  return (
    <>
      <Switch label="Light up what is out of reach" checked={lit} onChange={onLit} />
      <span className="numerals text-[13px] text-ink-soft" data-testid="beyond">
        {share < 0.05 ? 'All colours are within reach' : `${share.toFixed(1)} % of the print is out of reach`} · {soft.profile}
      </span>
    </>
  );
}

/** What lies over the sheet of what the server made. */
function useLaidOver(
  isPlates: boolean,
  plates: Plates | undefined,
  looked: Looked,
  soft: Soft | undefined,
  lit: boolean,
): Picture | undefined {
  const picture = usePicture(isPlates ? plates : undefined, looked);
  return useMemo(() => {
    if (picture) return { ...picture.plates, images: [picture.canvas] };
    return soft && { ...soft, images: lit ? [soft.picture, soft.beyond] : [soft.picture] };
  }, [picture, soft, lit]);
}

/** How large the sheet is, and which of how many. */
function SheetSize({ sheet, unit }: { sheet: SheetPlan; unit: LengthUnit }) {
  return (
    <span className="numerals text-[13px] text-ink-soft">
      {describeLength(Math.round(sheet.usedLengthMm), unit)} × {describeLength(sheet.material.widthMm, unit)}
      {sheet.of > 1 ? ` · sheet ${sheet.number + 1} of ${sheet.of}` : ''}
    </span>
  );
}

/** What its inks of their own look like, by name. */
function useInkLooks({ layer }: SheetPlan): Readonly<Record<string, string>> {
  const drawing = useDocument((state) => state.drawing);
  return useMemo(() => Object.fromEntries(spotInksOf(drawing, layer.id).map(({ name, hex }) => [name, hex])), [drawing, layer.id]);
}

interface MadeProps {
  readonly sheet: SheetPlan;
  readonly printerId: string | undefined;
  readonly look: Look;
}

/** What the server makes of a print to look at, when that is looked at: plates, or the printer's colours; and how that is looked at. */
function useMade({ sheet, printerId, look }: MadeProps) {
  const isPlates = look === 'plates' && sheet.print !== undefined;
  const isSoft = look === 'soft' && sheet.print !== undefined;
  const plates = usePlates(sheet, printerId, isPlates);
  const soft = useSoft(sheet, printerId, isSoft);
  const [off, setOff] = useState<ReadonlySet<string>>(new Set());
  const [lit, setLit] = useState(true);
  const where = isPrint(sheet.layer) ? sheet.layer.white?.where : undefined;
  // what is read through the film is looked at from there
  const [side, setSide] = useState<Side>(where === 'in-front' ? 'back' : 'front');
  const shown = useMemo(
    () => new Set((plates.found ? platesOf(plates.found) : []).map(({ key }) => key).filter((key) => !off.has(key))),
    [plates.found, off],
  );
  const looks = useInkLooks(sheet);
  const looked = { shown, mediumHex: sheet.layer.hex, looks, side, whiteFirst: where !== 'in-front' };
  const picture = useLaidOver(isPlates, plates.found, looked, isSoft ? soft.found : undefined, lit);
  return {
    picture,
    plates: isPlates ? plates : undefined,
    soft: isSoft ? soft : undefined,
    hasSides: where !== undefined,
    ...{ off, setOff, lit, setLit, side, setSide },
  };
}

type Made = ReturnType<typeof useMade>;

/** What can be switched of what the server made. */
function MadeBar({ made, inkMlPerM2 }: { made: Made; inkMlPerM2: number | null }) {
  const { plates, soft, off, setOff, side, setSide, lit, setLit, hasSides } = made;
  return (
    <>
      {plates?.found ? (
        <PlatesBar
          plates={plates.found}
          off={off}
          inkMlPerM2={inkMlPerM2}
          hasSides={hasSides}
          side={side}
          onSide={setSide}
          onOff={setOff}
        />
      ) : null}
      {soft?.found ? <SoftBar soft={soft.found} lit={lit} onLit={setLit} /> : null}
      {plates ? <Waiting of="plates" fetched={plates} /> : null}
      {soft ? <Waiting of="colours" fetched={soft} /> : null}
    </>
  );
}

/** The part of a sheet that a look shows. */
function seenOf(sheet: SheetPlan, look: Look): SheetPlan {
  if (!sheet.print) return only(sheet, 'both');
  return only(sheet, look === 'order' || look === 'soft' ? 'print' : look);
}

/** The look that is wanted, where the sheet has it. */
function useLook(sheet: SheetPlan) {
  const looks = looksOf(sheet);
  const [wanted, setLook] = useState<Look>('both');
  const look = looks.some(({ value }) => value === wanted) ? wanted : sheet.print ? 'both' : 'cut';
  return { looks, look, setLook };
}

export function SheetViewer({ sheet, cutting, inkMlPerM2, printerId }: SheetViewerProps) {
  const drawing = useDocument((state) => state.drawing);
  const { unit } = pageOf(drawing);
  const { looks, look, setLook } = useLook(sheet);
  const [now, setNow] = useState(0);
  const played = useToolWays(sheet, cutting, look === 'order');
  const ways = look === 'order' && typeof played === 'object' ? played : undefined;
  const version = useDerivedVersion((state) => state.version);
  const made = useMade({ sheet, printerId, look });
  const { picture } = made;
  const asked = made.plates ?? made.soft;
  const seen = useMemo(() => seenOf(sheet, look), [sheet, look]);
  // another sheet is shown whole
  useEffect(() => fitSend(sheet), [sheet.id]); // eslint-disable-line react-hooks/exhaustive-deps -- its size, not each change of it
  const { marginMm } = layUpOf(drawing, sheet.layer.id);
  return (
    <div className="flex min-h-0 min-w-0 flex-1 flex-col">
      <div className="flex min-h-10 shrink-0 flex-wrap items-center gap-2 border-b bg-paper px-2 py-1">
        {looks.length > 1 ? <PickRow<Look> label="What is shown" value={look} options={looks} onChange={setLook} /> : null}
        {look === 'order' ? <CutPlayer key={sheet.id} played={played} now={now} onNow={setNow} /> : null}
        <MadeBar made={made} inkMlPerM2={inkMlPerM2} />
        {asked || look === 'order' ? null : <SheetSize sheet={sheet} unit={unit} />}
      </div>
      {asked?.problem ? <Notice level="warning">{asked.problem}</Notice> : null}
      <div className="relative min-h-0 flex-1">
        <Viewport
          name="send"
          unit={unit}
          label="The sheet that goes out"
          deps={[seen, picture, version, played, now]}
          paint={(context, view, size) => {
            context.fillStyle = '#e9e3d5';
            context.fillRect(0, 0, size.width, size.height);
            paint(context, view, { sheet: seen, marginMm, picture, cut: ways && { played: ways, seconds: now } });
          }}
          onFirstSize={() => fitSend(sheet)}
        />
      </div>
    </div>
  );
}
