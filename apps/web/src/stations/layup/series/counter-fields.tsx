/** How a series counts: start, step, padding, prefix, suffix, letters, backwards, what is left out. */
import { counterText } from '@lorvek/core/series';
import { seriesOf, setSeries, USUAL_COUNTER, type Counter } from '@lorvek/model';
import { dispatch, useDocument } from '../../../document/store.ts';
import { Switch } from '../../../ui/choices.tsx';
import { NumberField, TextField } from '../../../ui/fields.tsx';
import { Figure } from '../../../ui/card.tsx';

/** The first few, or why there are none. */
function sampleOf(counter: Counter): string {
  try {
    return `${[0, 1, 2].map((n) => counterText(n, counter)).join(', ')} …`;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}

const letterOf = (n: number): string => {
  try {
    return counterText(0, { start: n, step: 1, letters: true });
  } catch {
    return '';
  }
};

/** What is left out, as it is written. */
const skipOf = (text: string): string[] =>
  text
    .split(/[,;]\s*/)
    .map((one) => one.slice(0, 40))
    .slice(0, 1000);

/** Where it starts, how far it steps, how many digits. */
function CountFields({ counter, set }: { counter: Counter; set(fields: Partial<Counter>): void }) {
  return (
    <>
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Counter starts at"
          short={counter.letters ? `From ${letterOf(counter.start)}` : 'From'}
          value={counter.start}
          decimals={0}
          min={counter.letters ? 1 : -1e9}
          max={1e9}
          onChange={(start) => set({ start: Math.round(start) })}
        />
        <NumberField
          label="Counter step"
          short="Step"
          value={counter.step}
          decimals={0}
          min={0}
          max={1e6}
          onChange={(step) => set({ step: Math.round(step) })}
        />
      </div>
      {counter.letters ? null : (
        <NumberField
          wide
          label="Least digits"
          hint="Filled up with zeros in front"
          value={counter.padding}
          decimals={0}
          min={0}
          max={20}
          onChange={(padding) => set({ padding: Math.round(padding) })}
        />
      )}
    </>
  );
}

export function CounterFields() {
  const series = useDocument((state) => seriesOf(state.drawing));
  const counter = series?.counter ?? USUAL_COUNTER;
  const set = (fields: Partial<Counter>, group = ''): void =>
    void dispatch(setSeries, { fields: { counter: { ...counter, ...fields } } }, { origin: 'series.counter', group });
  return (
    <>
      <Figure name="Counts">{sampleOf(counter)}</Figure>
      <Switch
        label="Letters: A, B … Z, AA"
        checked={counter.letters}
        onChange={(letters) => set({ letters, ...(letters ? { start: Math.max(1, counter.start) } : {}) })}
      />
      <CountFields counter={counter} set={set} />
      <Switch label="Counts down" checked={counter.reverse} onChange={(reverse) => set({ reverse })} />
      <div className="grid grid-cols-2 gap-2">
        <TextField label="Before it" value={counter.prefix} onChange={(prefix) => set({ prefix: prefix.slice(0, 40) }, 'prefix')} />
        <TextField label="After it" value={counter.suffix} onChange={(suffix) => set({ suffix: suffix.slice(0, 40) }, 'suffix')} />
      </div>
      <TextField
        label="Left out"
        placeholder="13, 17"
        value={counter.skip.join(', ')}
        onChange={(text) => set({ skip: skipOf(text) }, 'skip')}
      />
    </>
  );
}
