/** Choosing a font: every one in its own letters, grouped by kind, with search; the licence one click away. */
import { fontKinds, type FontEntry } from '@lorvek/model';
import { ChevronsUpDown } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../api/client.ts';
import { loadFonts, useShop } from '../../api/shop.ts';
import { FileButton } from '../../ui/file-button.tsx';

const KIND_NAMES: Record<(typeof fontKinds)[number], string> = {
  block: 'Block letters',
  round: 'Round',
  slab: 'Slab',
  serif: 'Serif',
  script: 'Script',
  display: 'Blackletter',
  stencil: 'Stencil',
  world: 'Other scripts',
  stroke: 'One stroke (pen, engraving)',
  own: 'Own fonts',
};

const loaded = new Map<string, Promise<unknown>>();

/** Makes a font usable on the page under `preview-<id>`. */
function loadPreview(font: FontEntry): Promise<unknown> {
  let promise = loaded.get(font.id);
  if (!promise) {
    const faces = font.files.map(
      (_, index) => new FontFace(`preview-${font.id}`, `url(/api/fonts/${encodeURIComponent(font.id)}/files/${index})`),
    );
    promise = Promise.all(faces.map(async (face) => document.fonts.add(await face.load())));
    loaded.set(font.id, promise);
  }
  return promise;
}

const SAMPLES: Record<string, string> = { arabic: 'مرفأ', hebrew: 'נמל', devanagari: 'बंदरगाह' };

function Preview({ font, sample }: { font: FontEntry; sample: string }) {
  const place = useRef<HTMLSpanElement>(null);
  const [ready, setReady] = useState(false);
  useEffect(() => {
    if (!place.current) return undefined;
    const observer = new IntersectionObserver(([entry]) => {
      if (entry?.isIntersecting)
        loadPreview(font).then(
          () => setReady(true),
          () => undefined,
        );
    });
    observer.observe(place.current);
    return () => observer.disconnect();
  }, [font]);
  const script = font.scripts.find((s) => s !== 'latin');
  return (
    <span
      ref={place}
      className="block truncate text-[22px] leading-8"
      style={{ fontFamily: `"preview-${font.id}"`, visibility: ready ? 'visible' : 'hidden' }}
    >
      {sample} {script ? SAMPLES[script] : ''}
    </span>
  );
}

const RECENT_KEY = 'lorvek.recentFonts';
const MOST_RECENT = 5;

function recentIds(): string[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(RECENT_KEY) ?? '[]');
    return Array.isArray(list) ? list.filter((id): id is string => typeof id === 'string') : [];
  } catch {
    return [];
  }
}

function FontRow({ font, words, on, onTake }: { font: FontEntry; words: string; on: boolean; onTake(id: string): void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => onTake(font.id)}
      className="block w-full px-2 py-1 text-left hover:bg-teal-wash aria-pressed:bg-teal-wash"
    >
      {font.kind === 'stroke' ? (
        <span className="block text-[17px] leading-8 font-light">{words}</span>
      ) : (
        <Preview font={font} sample={words} />
      )}
      <span className="block text-2xs text-ink-soft">
        {font.name}
        {font.axes ? ` · ${font.axes.map((axis) => axis.name).join(', ')}` : ''}
      </span>
    </button>
  );
}

/** Takes a font file of the shop's own into the list. */
async function bringFont(file: File, onDone: (id: string) => void): Promise<void> {
  try {
    const font = await api.addFont(file);
    await loadFonts();
    toast.success(`“${font.name}” is in the list for the whole shop.`);
    onDone(font.id);
  } catch (error) {
    toast.error(`“${file.name}”: ${sentenceOf(error)}`);
  }
}

interface FontListProps {
  readonly found: readonly FontEntry[];
  readonly recent: readonly FontEntry[];
  readonly value: string;
  /** What they are shown with. */
  readonly words: string;
  onTake(id: string): void;
}

function FontList({ found, recent, value, words, onTake }: FontListProps) {
  return (
    <div className="overflow-y-auto pb-2">
      {recent.length > 0 ? (
        <section>
          <h4 className="rule-label sticky top-0 z-10 border-b bg-sheet px-2 pt-2 pb-0.5">Used lately</h4>
          {recent.map((font) => (
            <FontRow key={font.id} font={font} words={words} on={font.id === value} onTake={onTake} />
          ))}
        </section>
      ) : null}
      {fontKinds.map((kind) => {
        const group = found.filter((font) => font.kind === kind);
        if (group.length === 0) return null;
        return (
          <section key={kind}>
            <h4 className="rule-label sticky top-0 z-10 border-b bg-sheet px-2 pt-2 pb-0.5">{KIND_NAMES[kind]}</h4>
            {group.map((font) => (
              <FontRow key={font.id} font={font} words={words} on={font.id === value} onTake={onTake} />
            ))}
          </section>
        );
      })}
      {found.length === 0 ? <p className="px-3 py-4 text-ink-soft">No font like that.</p> : null}
    </div>
  );
}

/** A font's name in its own letters. */
function FontName({ font, id }: { font: FontEntry | undefined; id: string }) {
  if (!font) return <span className="text-brick">{id} (not in this shop)</span>;
  return font.kind === 'stroke' ? font.name : <Preview font={font} sample={font.name} />;
}

function remember(id: string): void {
  localStorage.setItem(RECENT_KEY, JSON.stringify([id, ...recentIds().filter((other) => other !== id)].slice(0, MOST_RECENT)));
}

/** The fonts that a word of the search is in: name, kind, script. */
function matching(fonts: readonly FontEntry[], wanted: string): FontEntry[] {
  const word = wanted.trim().toLowerCase();
  return fonts.filter(({ name, kind, scripts }) => `${name} ${KIND_NAMES[kind]} ${scripts.join(' ')}`.toLowerCase().includes(word));
}

function Licence({ font }: { font: FontEntry }) {
  return (
    <a href={`/api/fonts/${font.id}/licence`} target="_blank" rel="noreferrer" className="border-t px-2 py-1.5 text-xs text-teal underline">
      Licence of {font.name} ({font.licence})
    </a>
  );
}

export function FontPicker({ value, sample, onChange }: { value: string; sample: string; onChange(id: string): void }) {
  const fonts = useShop((state) => state.fonts);
  const [open, setOpen] = useState(false);
  const [wanted, setWanted] = useState('');
  const current = fonts?.find((font) => font.id === value);
  const found = matching(fonts ?? [], wanted);
  const recent = recentIds().flatMap((id) => fonts?.find((font) => font.id === id) ?? []);
  const take = (id: string): void => {
    remember(id);
    onChange(id);
    setOpen(false);
  };
  const words = sample.split('\n')[0]?.trim().slice(0, 18) || 'Saltmarsh';
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={`Font: ${current?.name ?? value}`}
        className="flex h-10 w-full items-center gap-2 border border-line-strong bg-sheet px-2 text-left"
      >
        <span className="min-w-0 flex-1">
          <FontName font={current} id={value} />
        </span>
        <ChevronsUpDown size={14} className="shrink-0 text-ink-soft" aria-hidden />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="left"
          align="start"
          sideOffset={8}
          collisionPadding={8}
          onKeyDown={(event) => event.stopPropagation()}
          className="z-50 flex max-h-[560px] w-80 flex-col border border-line-strong bg-sheet shadow-md"
        >
          <input
            aria-label="Find a font"
            placeholder="Find a font, a kind or a script"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
            onKeyDown={(event) => {
              const [only] = found;
              if (event.key === 'Enter' && found.length === 1 && only) take(only.id);
            }}
            className="m-2 h-8 shrink-0 border border-line-strong px-2"
          />
          <FontList found={found} recent={wanted === '' ? recent : []} value={value} words={words} onTake={take} />
          <div className="border-t px-2 py-1.5">
            <FileButton size="small" label="Font file" accept=".ttf,.otf,.woff,.woff2" onFiles={([chosen]) => void bringFont(chosen, take)}>
              Bring a font file…
            </FileButton>
          </div>
          {current ? <Licence font={current} /> : null}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
