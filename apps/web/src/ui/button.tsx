/** Buttons: one plain, one that matters, one without a frame; icon buttons carry their name as a tooltip. */
import type { ButtonHTMLAttributes, ReactNode } from 'react';
import { Tooltip } from 'radix-ui';

type Look = 'plain' | 'main' | 'quiet' | 'stop';

const LOOKS: Record<Look, string> = {
  plain: 'border border-line-strong bg-sheet hover:bg-teal-wash hover:border-teal',
  main: 'border border-teal bg-teal text-sheet font-semibold hover:bg-teal-deep',
  quiet: 'border border-transparent hover:bg-teal-wash',
  stop: 'border border-brick text-brick bg-sheet hover:bg-brick-wash',
};

export interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: Look;
  size?: 'normal' | 'small';
}

export function Button({ look = 'plain', size = 'normal', className = '', type = 'button', ...rest }: ButtonProps) {
  const room = size === 'small' ? 'h-7 px-2 text-xs' : 'h-8 px-3';
  return (
    <button
      type={type}
      className={`inline-flex shrink-0 items-center justify-center gap-1.5 whitespace-nowrap disabled:pointer-events-none disabled:opacity-45 ${room} ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}

/** A short explanation on hover and focus. */
export function Hint({
  text,
  children,
  side = 'bottom',
}: {
  text: ReactNode;
  children: ReactNode;
  side?: 'top' | 'right' | 'bottom' | 'left';
}) {
  return (
    <Tooltip.Root delayDuration={350}>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content side={side} sideOffset={5} className="z-50 max-w-64 bg-ink px-2 py-1 text-xs text-sheet">
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

export interface IconButtonProps extends Omit<ButtonHTMLAttributes<HTMLButtonElement>, 'children'> {
  label: string;
  keys?: string;
  pressed?: boolean;
  children: ReactNode;
  side?: 'top' | 'right' | 'bottom' | 'left';
}

export function IconButton({ label, keys, pressed, className = '', children, side = 'bottom', ...rest }: IconButtonProps) {
  const state = pressed === undefined ? {} : { 'aria-pressed': pressed };
  return (
    <Hint side={side} text={keys ? `${label}  (${keys})` : label}>
      <button
        type="button"
        aria-label={label}
        {...state}
        className={`inline-flex size-7 shrink-0 items-center justify-center border border-transparent hover:bg-teal-wash disabled:pointer-events-none disabled:opacity-35 aria-pressed:border-teal aria-pressed:bg-teal-wash ${className}`}
        {...rest}
      >
        {children}
      </button>
    </Hint>
  );
}
