/** Is everything saved? And what the server did not take, to be looked at. */
import { Check, CloudOff, Eye, KeyRound, Loader2, PackageX, TriangleAlert } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { letGo, tryAgain, useDocument, type SaveState, type SetAside } from '../document/store.ts';
import { Button, Hint } from '../ui/button.tsx';
import { Dialog } from '../ui/dialog.tsx';

const LOOKS: Record<SaveState, { icon: ReactNode; text: string; why: string }> = {
  saved: { icon: <Check size={15} className="text-teal" />, text: 'Saved', why: 'Everything is kept on the server.' },
  saving: { icon: <Loader2 size={15} className="animate-spin" />, text: 'Saving', why: 'Changes are on their way.' },
  offline: {
    icon: <CloudOff size={15} className="text-brick" />,
    text: 'Not saved',
    why: 'The server does not answer. Your changes wait in this browser and are sent as soon as it is back.',
  },
  trouble: {
    icon: <TriangleAlert size={15} className="text-brick" />,
    text: 'Not saved',
    why: 'The server cannot save. Your changes wait in this browser and are sent as soon as it can.',
  },
  'signed-out': {
    icon: <KeyRound size={15} className="text-brick" />,
    text: 'Not saved',
    why: 'You are signed out. Your changes wait in this browser and are sent once you have signed in.',
  },
  'read-only': {
    icon: <Eye size={15} className="text-amber" />,
    text: 'To look at',
    why: 'A newer version of Lorvek saved this job. This one shows it and changes nothing.',
  },
};

/** What a change was, from its dotted name: "item.move" is "item: move". */
const nameOf = (origin: string): string => origin.replace(/\./g, ': ').replace(/-/g, ' ');

function saveToFile(change: SetAside): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([JSON.stringify(change, null, 1)], { type: 'application/json' }));
  link.download = `change-${change.changeId}.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}

function AsideRow({ change }: { change: SetAside }) {
  const records = Object.keys(change.patch.records).length + (change.patch.moved ?? []).reduce((sum, [, , ids]) => sum + ids.length, 0);
  return (
    <li className="flex flex-col gap-1.5 border-b py-2 last:border-b-0">
      <p className="flex justify-between gap-3">
        <strong className="truncate">{nameOf(change.origin)}</strong>
        <span className="numerals shrink-0 text-[13px] text-ink-soft">
          {new Date(change.at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })} · {records}{' '}
          {records === 1 ? 'record' : 'records'}
        </span>
      </p>
      <p className="text-[13px]">{change.reason}</p>
      <div className="flex gap-1.5">
        <Button size="small" look="main" onClick={() => tryAgain(change.changeId)}>
          Make it again
        </Button>
        <Button size="small" onClick={() => saveToFile(change)}>
          Save it to a file
        </Button>
        <Button size="small" look="stop" onClick={() => letGo(change.changeId)}>
          Let it go
        </Button>
      </div>
    </li>
  );
}

export function SaveStateMark() {
  const save = useDocument((state) => state.save);
  const trouble = useDocument((state) => state.trouble);
  const aside = useDocument((state) => state.aside);
  const [looking, setLooking] = useState(false);
  const { icon, text, why } = LOOKS[save];
  return (
    <>
      <Hint text={trouble && save !== 'read-only' ? `${trouble} Your changes wait in this browser.` : why}>
        <span role="status" className="flex w-[88px] items-center gap-1.5 text-[13px] text-ink-soft" tabIndex={0}>
          {icon}
          {text}
        </span>
      </Hint>
      {aside.length > 0 ? (
        <button
          type="button"
          onClick={() => setLooking(true)}
          className="flex h-7 items-center gap-1.5 border border-brick bg-brick-wash px-2 text-[13px] text-brick"
        >
          <PackageX size={15} aria-hidden /> {aside.length} set aside
        </button>
      ) : null}
      {looking && aside.length > 0 ? (
        <Dialog
          open
          title="Set aside"
          text="The server did not take these changes. What you did after them is saved."
          width={520}
          onClose={() => setLooking(false)}
        >
          <ul>
            {aside.map((change) => (
              <AsideRow key={change.changeId} change={change} />
            ))}
          </ul>
        </Dialog>
      ) : null}
    </>
  );
}

/** Under the top bar: nothing is saved, or nothing can be changed, and why. */
export function TroubleBar() {
  const text = useDocument((state) => state.trouble);
  const isReadOnly = useDocument((state) => state.save === 'read-only');
  if (!text) return null;
  if (isReadOnly)
    return (
      <div role="status" className="flex shrink-0 items-center gap-2 border-b-2 border-amber bg-amber-wash px-4 py-2">
        <Eye size={16} className="shrink-0 text-amber" aria-hidden />
        <p>{text}</p>
      </div>
    );
  return (
    <div role="alert" className="flex shrink-0 items-center gap-2 border-b-2 border-brick bg-brick-wash px-4 py-2">
      <TriangleAlert size={16} className="shrink-0 text-brick" aria-hidden />
      <p>
        {text} <span className="text-ink-soft">Your changes wait in this browser; leave this page open.</span>
      </p>
    </div>
  );
}
