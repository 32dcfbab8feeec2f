/** What the Cut check found, on the way out. */
import { CheckCircle2, Loader2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { useSheets } from '../../document/sheets.ts';
import { FindingRow, useGoToFinding, workingText } from '../../frame/findings.tsx';
import { Notice } from '../../ui/card.tsx';

/** A numbered step beside the sheets. */
export function Part({ step, title, children }: { step: number; title: string; children: ReactNode }) {
  return (
    <section className="panel flex shrink-0 flex-col" aria-label={title}>
      <h2 className="flex h-9 shrink-0 items-center gap-2 border-b px-3 font-semibold">
        <span className="numerals flex size-5 items-center justify-center bg-ink text-xs text-sheet">{step}</span>
        {title}
      </h2>
      <div className="flex flex-col gap-2 p-3">{children}</div>
    </section>
  );
}

export function Checks() {
  const { sheets, found, busy, unknown, share, error } = useSheets();
  const goTo = useGoToFinding();
  return (
    <Part step={1} title="Cut check">
      {error ? <Notice level="stop">{error}</Notice> : null}
      {unknown && !error ? (
        <p className="flex items-center gap-2 text-ink-soft" role="status">
          <Loader2 size={15} className="animate-spin" /> {workingText(share)}
        </p>
      ) : null}
      {found.length === 0 && sheets.length > 0 ? (
        <p className="flex items-center gap-2">
          <CheckCircle2 size={17} className="text-teal" /> {busy ? 'Checking again…' : 'Nothing was found that would go wrong.'}
        </p>
      ) : null}
      {sheets.length === 0 && !busy && !unknown ? (
        <Notice level="note">Nothing goes out: no item of the choice has a film or a print. Choose on Lay up what is sent.</Notice>
      ) : null}
      <ul className="-mx-3 max-h-56 overflow-y-auto">
        {found.map((located, i) => (
          <FindingRow key={i} located={located} onGo={() => goTo(located)} />
        ))}
      </ul>
    </Part>
  );
}
