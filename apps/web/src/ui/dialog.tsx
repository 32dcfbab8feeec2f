/** A dialog: only where something is confirmed, begun or sent. */
import { X } from 'lucide-react';
import { Dialog as RadixDialog } from 'radix-ui';
import type { ReactNode } from 'react';

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
