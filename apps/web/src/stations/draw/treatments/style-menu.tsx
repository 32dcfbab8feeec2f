/** Named styles: treatments kept for all jobs of the shop. */
import type { TreatmentRecord } from '@lorvek/model';
import { Trash2 } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../../api/client.ts';
import { loadStyles, useShop } from '../../../api/shop.ts';
import { Button, IconButton } from '../../../ui/button.tsx';

async function keep(name: string, treatments: readonly TreatmentRecord[]): Promise<void> {
  try {
    await api.keepStyle({ name, treatments: [...treatments] });
    await loadStyles();
    toast.success(`The style “${name}” is kept for all jobs.`);
  } catch (error) {
    toast.warning(sentenceOf(error));
  }
}

async function remove(id: string): Promise<void> {
  try {
    await api.removeStyle(id);
    await loadStyles();
  } catch (error) {
    toast.warning(sentenceOf(error));
  }
}

/** Keeps treatments as a style. */
function KeepStyle({ treatments, onKept }: { treatments: readonly TreatmentRecord[]; onKept(): void }) {
  const [name, setName] = useState('');
  return (
    <form
      className="flex gap-1 border-t pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() === '') return;
        void keep(name.trim(), treatments);
        onKept();
      }}
    >
      <input
        aria-label="Name of the style"
        placeholder="Keep these as…"
        value={name}
        maxLength={80}
        onChange={(event) => setName(event.target.value)}
        className="h-7 min-w-0 flex-1 border border-line-strong px-2"
      />
      <Button type="submit" size="small">
        Keep
      </Button>
    </form>
  );
}

export function StyleMenu({
  treatments,
  onTake,
}: {
  treatments: readonly TreatmentRecord[];
  onTake(treatments: readonly TreatmentRecord[]): void;
}) {
  const styles = useShop((state) => state.styles) ?? [];
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button size="small">Styles</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          onKeyDown={(event) => event.stopPropagation()}
          className="z-50 flex w-64 flex-col gap-1 border border-line-strong bg-sheet p-2 shadow-md"
        >
          {styles.length === 0 ? <p className="text-[13px] text-ink-soft">No style is kept yet.</p> : null}
          <ul className="max-h-64 overflow-y-auto">
            {styles.map((style) => (
              <li key={style.id} className="flex items-center gap-1">
                <button
                  type="button"
                  className="min-w-0 flex-1 truncate px-1 py-1.5 text-left hover:bg-teal-wash"
                  onClick={() => {
                    onTake(style.treatments);
                    setOpen(false);
                  }}
                >
                  {style.name}
                </button>
                <IconButton label={`Remove the style ${style.name}`} className="size-6!" onClick={() => void remove(style.id)}>
                  <Trash2 size={13} />
                </IconButton>
              </li>
            ))}
          </ul>
          {treatments.length > 0 ? <KeepStyle treatments={treatments} onKept={() => setOpen(false)} /> : null}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
