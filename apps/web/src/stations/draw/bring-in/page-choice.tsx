/** The pages of a file to choose from: each one's own picture and size, read one after another. */
import { RadioGroup } from 'radix-ui';
import { useEffect, useState } from 'react';
import { sentenceOf } from '../../../api/client.ts';
import { askAside } from '../../../worker/compute.ts';
import type { PageLook } from '@lorvek/computations';

/** Pages beyond these are chosen by their number. */
export const MOST_SHOWN = 24;

type Looked = PageLook | { why: string };

/** Looks at the pages one by one; a page that cannot be read says why. */
function useLooks(bytes: Uint8Array, pages: number): readonly (Looked | undefined)[] {
  const [looks, setLooks] = useState<readonly (Looked | undefined)[]>([]);
  useEffect(() => {
    let current = true;
    const look = async (): Promise<void> => {
      for (let page = 1; current && page <= Math.min(pages, MOST_SHOWN); page++) {
        const seen = await askAside('page-look', { bytes, page }).catch((error: unknown) => ({ why: sentenceOf(error) }));
        if (current) setLooks((known) => [...known.slice(0, page - 1), seen]);
      }
    };
    void look();
    return () => {
      current = false;
    };
  }, [bytes, pages]);
  return looks;
}

function Picture({ look }: { look: Looked | undefined }) {
  if (!look) return <span className="text-[13px] text-ink-soft">Reading…</span>;
  if ('why' in look) return <span className="text-[13px] text-ink-soft">{look.why}</span>;
  const { widthMm, heightMm, shapes } = look;
  return (
    <svg viewBox={`0 0 ${widthMm} ${heightMm}`} className="max-h-full max-w-full border border-line bg-white" aria-hidden>
      <g transform={`matrix(1 0 0 -1 0 ${heightMm})`}>
        {shapes.map(({ path, hex, lineMm }, i) =>
          lineMm === undefined ? (
            <path key={i} d={path} fill={hex} />
          ) : (
            <path key={i} d={path} fill="none" stroke={hex} strokeWidth={Math.max(lineMm, Math.max(widthMm, heightMm) / 200)} />
          ),
        )}
      </g>
    </svg>
  );
}

export function PageChoice({
  bytes,
  pages,
  page,
  onChange,
  say,
}: {
  bytes: Uint8Array;
  pages: number;
  page: number;
  onChange(page: number): void;
  say(mm: number): string;
}) {
  const looks = useLooks(bytes, pages);
  return (
    <RadioGroup.Root
      value={String(page)}
      onValueChange={(value) => onChange(Number(value))}
      aria-label={`Page of ${pages}`}
      className="grid max-h-96 grid-cols-3 gap-2 overflow-y-auto"
    >
      {Array.from({ length: Math.min(pages, MOST_SHOWN) }, (_, i) => {
        const look = looks[i];
        return (
          <RadioGroup.Item
            key={i}
            value={String(i + 1)}
            aria-label={`Page ${i + 1}`}
            className="flex flex-col items-center gap-1 border border-line-strong p-1.5 hover:bg-teal-wash data-[state=checked]:border-teal data-[state=checked]:bg-teal-wash"
          >
            <span className="flex h-28 w-full items-center justify-center">
              <Picture look={look} />
            </span>
            <span className="numerals text-[13px]">
              {i + 1}
              {look && !('why' in look) ? ` · ${say(look.widthMm)} × ${say(look.heightMm)}` : ''}
            </span>
          </RadioGroup.Item>
        );
      })}
    </RadioGroup.Root>
  );
}
