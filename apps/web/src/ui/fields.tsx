/**
 * Fields: lengths with units and arithmetic, plain numbers, texts. They show what is so until the user has
 * finished (Enter or leaving the field), then say what was typed; Escape takes it back; arrow keys step.
 */
import { describeLength, formatLength, parseLength, parseNumber, unitLabel, unitMm, type LengthUnit } from '@lorvek/core/units';
import { useEffect, useId, useRef, useState, type KeyboardEvent, type ReactNode, type RefObject } from 'react';
import { toast } from 'sonner';
import { sentenceOf } from '../api/client.ts';

interface EntryProps {
  label: string;
  /** Shown before the box; the label is used when absent. */
  short?: ReactNode;
  text: string;
  suffix?: string | undefined;
  disabled?: boolean | undefined;
  hint?: string | undefined;
  /** @throws when the text makes no sense */
  onEnter(text: string): void;
  onStep?(direction: 1 | -1, event: KeyboardEvent): void;
  wide?: boolean | undefined;
  /** The label stands above the box, not before it. */
  above?: boolean | undefined;
  /** What is shown, in place of a zero, where nothing is said. */
  unsaid?: string | undefined;
}

/** The focus goes to the drawing where there is one; elsewhere the field keeps it, all of it marked. */
function leaveForDrawing(field: HTMLInputElement | null): void {
  const drawing = document.querySelector<HTMLElement>('[data-drawing]');
  if (drawing && !field?.closest('[role="dialog"]')) drawing.focus({ preventScroll: true });
  else field?.select();
}

interface Typing {
  /** What is being typed and not yet taken. */
  readonly draft: string | undefined;
  readonly problem: string | undefined;
  readonly box: RefObject<HTMLInputElement | null>;
  setDraft(draft: string): void;
  onBlur(): void;
  onKeyDown(event: KeyboardEvent<HTMLInputElement>): void;
}

/** What is typed counts when it is finished; Escape takes it back, arrow keys step. */
function useTyping({ text, onEnter, onStep }: Pick<EntryProps, 'text' | 'onEnter' | 'onStep'>): Typing {
  const [draft, setDraft] = useState<string>();
  const [problem, setProblem] = useState<string>();
  const box = useRef<HTMLInputElement>(null);
  /** What was written is taken or taken back: leaving the field then takes nothing. */
  const isDone = useRef(false);
  useEffect(() => {
    if (document.activeElement !== box.current) setDraft(undefined);
  }, [text]);
  const forget = (): void => {
    setDraft(undefined);
    setProblem(undefined);
  };
  const finish = (): boolean => {
    try {
      if (draft !== undefined && draft !== text) onEnter(draft);
      forget();
      return true;
    } catch (error) {
      setProblem(sentenceOf(error));
      toast.warning(sentenceOf(error));
      return false;
    }
  };
  const leave = (go: () => void): void => {
    isDone.current = true;
    go();
    isDone.current = false;
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>): void => {
    if (event.key === 'Enter') {
      // what was entered is done with: the next key is the drawing's again; what was refused stays to be put right
      if (finish()) leave(() => leaveForDrawing(box.current));
      else box.current?.select();
    } else if (event.key === 'Escape') {
      forget();
      leave(() => box.current?.blur());
    } else if (onStep && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      event.preventDefault();
      setDraft(undefined);
      onStep(event.key === 'ArrowUp' ? 1 : -1, event);
    }
    event.stopPropagation();
  };
  const onBlur = (): void => {
    if (!isDone.current) finish();
  };
  return { draft, problem, box, setDraft, onBlur, onKeyDown };
}

/** The common part of all typed fields. */
function Entry({ label, short, text, suffix, disabled, hint, onEnter, onStep, wide, above, unsaid }: EntryProps) {
  const { draft, problem, box, setDraft, onBlur, onKeyDown } = useTyping({ text, onEnter, ...(onStep ? { onStep } : {}) });
  const id = useId();
  return (
    <div className={`flex min-w-0 ${above ? 'flex-col gap-1' : 'items-center gap-1.5'} ${wide ? 'w-full' : ''}`} title={hint}>
      <label htmlFor={id} className="rule-label shrink-0 whitespace-nowrap">
        {short ?? label}
      </label>
      <div
        className={`flex min-w-0 items-center ${above ? 'h-8' : 'h-7 flex-1'} border bg-sheet px-1.5 focus-within:outline-2 focus-within:outline-teal ${problem ? 'border-brick' : 'border-line-strong'} ${disabled ? 'opacity-50' : ''}`}
      >
        <input
          ref={box}
          id={id}
          aria-label={label}
          aria-invalid={problem !== undefined}
          disabled={disabled}
          value={draft ?? text}
          placeholder={unsaid}
          onChange={(event) => setDraft(event.target.value)}
          onFocus={(event) => event.target.select()}
          onBlur={onBlur}
          onKeyDown={onKeyDown}
          spellCheck={false}
          autoComplete="off"
          className="numerals w-full min-w-0 bg-transparent text-right text-[13px] outline-none"
        />
        {suffix && (text !== '' || draft) ? <span className="ml-1 shrink-0 text-2xs text-ink-soft">{suffix}</span> : null}
      </div>
    </div>
  );
}

interface LengthFieldProps {
  label: string;
  short?: ReactNode;
  mm: number;
  unit: LengthUnit;
  disabled?: boolean;
  hint?: string;
  wide?: boolean;
  above?: boolean;
  /** Zero says nothing, and is left blank; this is shown instead. */
  unsaid?: string;
  minMm?: number;
  onChange(mm: number): void;
}

export function LengthField({ mm, unit, onChange, minMm, ...rest }: LengthFieldProps) {
  const step = unit === 'mm' ? 1 : unitMm(unit) / 10;
  return (
    <Entry
      {...rest}
      text={rest.unsaid !== undefined && mm === 0 ? '' : formatLength(mm, unit)}
      suffix={unitLabel(unit)}
      onEnter={(text) => {
        const value = rest.unsaid !== undefined && text.trim() === '' ? 0 : parseLength(text, unit);
        if (minMm !== undefined && value < minMm) throw new Error(`${rest.label} must be ${describeLength(minMm, unit)} or more.`);
        onChange(value);
      }}
      onStep={(direction, event) =>
        onChange(Math.max(minMm ?? -Infinity, mm + direction * step * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1)))
      }
    />
  );
}

interface NumberFieldProps {
  label: string;
  short?: ReactNode;
  value: number;
  suffix?: string;
  decimals?: number;
  step?: number;
  min?: number;
  max?: number;
  disabled?: boolean;
  hint?: string;
  wide?: boolean;
  above?: boolean;
  /** Zero says nothing, and is left blank; this is shown instead. */
  unsaid?: string;
  onChange(value: number): void;
}

export function NumberField({ value, decimals = 2, step = 1, min = -Infinity, max = Infinity, onChange, ...rest }: NumberFieldProps) {
  const tidy = (n: number): number => Math.round(n * 10 ** decimals) / 10 ** decimals + 0;
  const clamp = (n: number): number => Math.min(max, Math.max(min, n));
  return (
    <Entry
      {...rest}
      text={rest.unsaid !== undefined && value === 0 ? '' : String(tidy(value))}
      onEnter={(text) => {
        const entered = rest.unsaid !== undefined && text.trim() === '' ? 0 : parseNumber(text);
        if (entered < min || entered > max) throw new Error(`${rest.label} must lie between ${min} and ${max}.`);
        onChange(entered);
      }}
      onStep={(direction, event) => onChange(clamp(tidy(value + direction * step * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1))))}
    />
  );
}

interface TextFieldProps {
  label: string;
  value: string;
  placeholder?: string;
  type?: 'text' | 'date' | 'color';
  autoFocus?: boolean;
  onChange(text: string): void;
  /** The field is left. */
  onDone?(): void;
}

/** A text that is taken letter by letter (dialogs). */
export function TextField({ label, value, onChange, onDone, type = 'text', ...rest }: TextFieldProps) {
  const id = useId();
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="rule-label">
        {label}
      </label>
      <input
        id={id}
        type={type}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        onBlur={onDone}
        className="h-8 border border-line-strong bg-sheet px-2"
        {...rest}
      />
    </div>
  );
}
