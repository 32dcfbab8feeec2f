/** What a file leaves open: which page, how large, whether hidden layers come along. */
import { describeLength } from '@lorvek/core/units';
import type { PageBoxName } from '@lorvek/core/format';
import { pageOf } from '@lorvek/model';
import { useEffect, useState } from 'react';
import { useDocument } from '../../../document/store.ts';
import { PickRow, Switch } from '../../../ui/choices.tsx';
import { Pick } from '../../../ui/pick.tsx';
import { Dialog, DialogButtons } from '../../../ui/dialog.tsx';
import { LengthField, NumberField } from '../../../ui/fields.tsx';
import { useQuestion, type Question } from './bring-in.ts';
import { MOST_SHOWN, PageChoice } from './page-choice.tsx';

/** Usual meanings of a number without a unit, as shares of what was taken. */
const GUESSES: Record<'svg' | 'other', readonly { value: string; label: string; content: string; scale: number }[]> = {
  svg: [
    { value: 'px96', label: '96 to the inch, as browsers have it', content: '96 / inch', scale: 1 },
    { value: 'pt', label: '72 to the inch, printer’s points', content: '72 / inch', scale: 96 / 72 },
    { value: 'mm', label: 'One unit is a millimetre', content: 'mm', scale: 96 / 25.4 },
  ],
  other: [
    { value: 'mm', label: 'One unit is a millimetre', content: 'mm', scale: 1 },
    { value: 'cm', label: 'One unit is a centimetre', content: 'cm', scale: 10 },
    { value: 'inch', label: 'One unit is an inch', content: 'inch', scale: 25.4 },
    { value: 'm', label: 'One unit is a metre', content: 'm', scale: 1000 },
  ],
};

const BOX_ORDER: readonly PageBoxName[] = ['shown', 'trim', 'bleed', 'paper'];
const BOX_NAMES: Record<PageBoxName, string> = {
  shown: 'What is shown of it',
  trim: 'The trimmed size',
  bleed: 'The trimmed size with its bleed',
  paper: 'The whole paper',
};

interface SizeProps {
  readonly question: Question;
  readonly widthMm: number;
  say(mm: number): string;
  onWidth(mm: number): void;
}

/** How large it is, of a file that does not say. */
function SizeFields({ question: { imported, file }, widthMm, say, onWidth }: SizeProps) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const guesses = GUESSES[/\.svg$/i.test(file) ? 'svg' : 'other'];
  const guess = guesses.find(({ scale }) => Math.abs(widthMm / (imported.widthMm * scale) - 1) < 1e-6);
  return (
    <>
      <p>The file does not say how large it is. The guess is shown; say what is right.</p>
      <PickRow
        label="A unit of the file is"
        value={guess?.value ?? ''}
        options={guesses.map(({ value, label, content }) => ({ value, label, content }))}
        onChange={(value) => onWidth(imported.widthMm * (guesses.find((one) => one.value === value)?.scale ?? 1))}
      />
      <LengthField wide label="Real width" mm={widthMm} unit={unit} minMm={0.01} onChange={onWidth} />
      <p className="text-ink-soft">
        {say(widthMm)} × {say((imported.heightMm * widthMm) / imported.widthMm)}
      </p>
    </>
  );
}

function Asked({ question }: { question: Question }) {
  const { imported } = question;
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const [page, setPage] = useState(question.asked.page);
  const [box, setBox] = useState(question.asked.box);
  const [withHidden, setHidden] = useState(question.asked.withHidden);
  const [widthMm, setWidth] = useState(imported.widthMm);
  useEffect(() => setWidth(imported.widthMm), [imported]);
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        question.answer({ page, box, withHidden, widthMm: imported.hasSize ? undefined : widthMm });
      }}
    >
      {imported.pages > 1 ? <PageChoice bytes={question.bytes} pages={imported.pages} page={page} onChange={setPage} say={say} /> : null}
      {imported.pages > MOST_SHOWN ? (
        <NumberField
          wide
          label={`Page of ${imported.pages}`}
          value={page}
          decimals={0}
          min={1}
          max={imported.pages}
          onChange={(next) => setPage(Math.round(next))}
        />
      ) : null}
      {imported.boxes.length > 1 ? (
        <Pick
          label="What is the page"
          value={box}
          options={BOX_ORDER.flatMap((name) => {
            const one = imported.boxes.find((other) => other.name === name);
            return one ? [{ value: name, text: `${BOX_NAMES[name]}, ${say(one.widthMm)} × ${say(one.heightMm)}` }] : [];
          })}
          onChange={(name) => setBox(name as PageBoxName)}
        />
      ) : null}
      {imported.hidden > 0 ? (
        <Switch label={`Bring the ${imported.hidden} parts on hidden layers too`} checked={withHidden} onChange={setHidden} />
      ) : null}
      {imported.hasSize ? null : <SizeFields question={question} widthMm={widthMm} say={say} onWidth={setWidth} />}
      <DialogButtons action="Bring it in" cancel="Leave it" onClose={() => question.answer(undefined)} />
    </form>
  );
}

export function QuestionDialog() {
  const question = useQuestion((state) => state.question);
  return (
    <Dialog open={question !== undefined} title={question ? `Bring in “${question.file}”` : ''} onClose={() => question?.answer(undefined)}>
      {question ? <Asked question={question} /> : null}
    </Dialog>
  );
}
