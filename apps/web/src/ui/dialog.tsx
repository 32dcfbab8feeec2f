/** A dialog: only where something is confirmed, begun or sent. */
import { X } from 'lucide-react';
import { Dialog as RadixDialog } from 'radix-ui';
import type { ReactNode } from 'react';
import { Button } from './button.tsx';

interface DialogProps {
  open: boolean;
  title: string;
  text?: string;
  width?: number;
  children: ReactNode;
  onClose(): void;
}

export function Dialog({ open, title, text, width = 440, children, onClose }: DialogProps) {
  return (
    <RadixDialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <RadixDialog.Content
          {...(text ? {} : { 'aria-describedby': undefined })}
          style={{ width, maxWidth: 'calc(100vw - 32px)' }}
          className="panel fixed top-1/2 left-1/2 z-50 max-h-[calc(100vh-48px)] -translate-x-1/2 -translate-y-1/2 overflow-y-auto p-4"
        >
          <div className="mb-3 flex items-start justify-between gap-4 pr-2">
            <div>
              <RadixDialog.Title className="text-lg font-semibold">{title}</RadixDialog.Title>
              {text ? <RadixDialog.Description className="text-ink-soft">{text}</RadixDialog.Description> : null}
            </div>
            <RadixDialog.Close aria-label="Close" className="p-1 hover:bg-teal-wash">
              <X size={16} />
            </RadixDialog.Close>
          </div>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}

interface DialogButtonsProps {
  /** What the dialog is for, in words. */
  readonly action: string;
  readonly cancel?: string;
  /** `stop` where something is lost. */
  readonly look?: 'main' | 'stop';
  readonly disabled?: boolean;
  /** Without it the button sends the form that it stands in. */
  onAct?: (() => void) | undefined;
  onClose(): void;
}

/** What ends a dialog: leave it, or do it. */
export function DialogButtons({ action, cancel = 'Cancel', look = 'main', disabled = false, onAct, onClose }: DialogButtonsProps) {
  return (
    <div className="flex justify-end gap-2 pt-1">
      <Button onClick={onClose}>{cancel}</Button>
      <Button look={look} disabled={disabled} {...(onAct ? { onClick: onAct } : { type: 'submit' as const })}>
        {action}
      </Button>
    </div>
  );
}
