/** Choosing a font: every one in its own letters, grouped by kind, with search; the licence one click away. */
import { fontKinds, type FontEntry } from '@lorvek/model';
import { ChevronsUpDown } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { useShop } from '../../api/shop.ts';

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

export function FontPicker({ value, sample, onChange }: { value: string; sample: string; onChange(id: string): void }) {
  const fonts = useShop((state) => state.fonts);
  const [open, setOpen] = useState(false);
  const [wanted, setWanted] = useState('');
  const current = fonts?.find((font) => font.id === value);
  const found = (fonts ?? []).filter((font) =>
    `${font.name} ${KIND_NAMES[font.kind]} ${font.scripts.join(' ')}`.toLowerCase().includes(wanted.trim().toLowerCase()),
  );
  const words = sample.split('\n')[0]?.trim().slice(0, 18) || 'Saltmarsh';
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={`Font: ${current?.name ?? value}`}
        className="flex h-10 w-full items-center gap-2 border border-line-strong bg-sheet px-2 text-left"
      >
        <span className="min-w-0 flex-1">
          {current ? <Preview font={current} sample={current.name} /> : <span className="text-brick">{value} (not in this shop)</span>}
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
            className="m-2 h-8 shrink-0 border border-line-strong px-2"
          />
          <div className="overflow-y-auto pb-2">
            {fontKinds.map((kind) => {
              const group = found.filter((font) => font.kind === kind);
              if (group.length === 0) return null;
              return (
                <section key={kind}>
                  <h4 className="rule-label sticky top-0 z-10 border-b bg-sheet px-2 pt-2 pb-0.5">{KIND_NAMES[kind]}</h4>
                  {group.map((font) => (
                    <button
                      key={font.id}
                      type="button"
                      aria-pressed={font.id === value}
                      onClick={() => {
                        onChange(font.id);
                        setOpen(false);
                      }}
                      className="block w-full px-2 py-1 text-left hover:bg-teal-wash aria-pressed:bg-teal-wash"
                    >
                      <Preview font={font} sample={words} />
                      <span className="block text-2xs text-ink-soft">{font.name}</span>
                    </button>
                  ))}
                </section>
              );
            })}
            {found.length === 0 ? <p className="px-3 py-4 text-ink-soft">No font like that.</p> : null}
          </div>
          {current ? (
            <a
              href={`/api/fonts/${current.id}/licence`}
              target="_blank"
              rel="noreferrer"
              className="border-t px-2 py-1.5 text-xs text-teal underline"
            >
              Licence of {current.name} ({current.licence})
            </a>
          ) : null}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
