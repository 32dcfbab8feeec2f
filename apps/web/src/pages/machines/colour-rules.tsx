/** How a printer's colours go into inks: a profile and what becomes of colours out of reach, for every medium or one. */
import { EVERY_MEDIUM, USUAL_COLOUR, type ColourRule, type Machine, type Profile, type StockFilm } from '@lorvek/model';
import { Plus, Trash2, Upload } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { FileButton } from '../../ui/file-button.tsx';
import { Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { tellFailure } from '../../ui/tell.ts';
import { change } from './change.ts';

const SHIPPED = 'shipped';
const INTENTS: Record<ColourRule['intent'], string> = {
  relative: 'As near as can be',
  perceptual: 'All shifted together',
  saturation: 'As vivid as can be',
  absolute: 'With the paper’s colour',
};

interface RuleRowProps {
  readonly medium: string;
  readonly rule: ColourRule;
  /** Media that have no rule of their own. */
  readonly others: readonly string[];
  readonly profiles: readonly Profile[] | undefined;
  nameOf(medium: string): string;
  onMedium(medium: string): void;
  onRule(rule: ColourRule): void;
  onRemove(): void;
}

/** How colours become inks on one medium. */
function RuleRow({ medium, rule, others, profiles, nameOf, onMedium, onRule, onRemove }: RuleRowProps) {
  return (
    <li className="flex items-end gap-3 border-t py-1.5 first:border-t-0">
      <div className="w-60">
        {medium === EVERY_MEDIUM ? (
          <span className="leading-8">Every medium</span>
        ) : (
          <Pick
            label="Medium"
            hideLabel
            value={medium}
            options={[medium, ...others].map((id) => ({ value: id, text: nameOf(id) }))}
            onChange={onMedium}
          />
        )}
      </div>
      <div className="min-w-0 flex-1">
        <Pick
          label={`Profile for ${nameOf(medium)}`}
          hideLabel
          value={rule.profileId ?? SHIPPED}
          options={[
            { value: SHIPPED, text: 'Coated, as it ships with Lorvek' },
            ...(profiles ?? []).map(({ id, name }) => ({ value: id, text: name })),
            ...(rule.profileId !== null && profiles && !profiles.some(({ id }) => id === rule.profileId)
              ? [{ value: rule.profileId, text: 'A profile that is gone' }]
              : []),
          ]}
          onChange={(id) => onRule({ ...rule, profileId: id === SHIPPED ? null : id })}
        />
      </div>
      <div className="w-48">
        <Pick
          label={`Colours out of reach, on ${nameOf(medium)}`}
          hideLabel
          value={rule.intent}
          options={(Object.keys(INTENTS) as ColourRule['intent'][]).map((intent) => ({ value: intent, text: INTENTS[intent] }))}
          onChange={(intent) => onRule({ ...rule, intent })}
        />
      </div>
      <Switch label="Black point" checked={rule.blackPoint} onChange={(blackPoint) => onRule({ ...rule, blackPoint })} />
      <IconButton label={`Take the rule for ${nameOf(medium)} away`} disabled={medium === EVERY_MEDIUM} onClick={onRemove}>
        <Trash2 size={14} />
      </IconButton>
    </li>
  );
}

function nameOfMedium(media: readonly StockFilm[], key: string): string {
  const medium = media.find(({ id }) => id === key);
  return key === EVERY_MEDIUM ? 'Every medium' : medium ? `${medium.series} ${medium.name}` : 'A medium that is gone';
}

/** The profiles that the shop has brought in. */
function Profiles({ profiles, onGone }: { profiles: readonly Profile[]; onGone(): void }) {
  if (profiles.length === 0) return null;
  return (
    <p className="flex flex-wrap items-center gap-x-3 pt-1 text-[13px] text-ink-soft">
      Profiles of the shop:
      {profiles.map(({ id, name }) => (
        <span key={id} className="inline-flex items-center gap-1">
          {name}
          <IconButton
            label={`Take the profile ${name} away`}
            className="size-6!"
            onClick={() => void api.removeProfile(id).then(onGone).catch(tellFailure)}
          >
            <Trash2 size={12} />
          </IconButton>
        </span>
      ))}
    </p>
  );
}

export function ColourRules({ machine }: { machine: Machine }) {
  const stock = useShop((state) => state.stock);
  const [profiles, setProfiles] = useState<readonly Profile[]>();
  const load = (): void => void api.profiles().then(setProfiles).catch(tellFailure);
  useEffect(load, []);
  const media = (stock ?? []).filter(({ medium }) => medium !== null);
  const rules: Record<string, ColourRule> = { [EVERY_MEDIUM]: USUAL_COLOUR, ...machine.colours };
  const put = (next: Record<string, ColourRule>): void => change(machine.id, { colours: next });
  const without = (key: string): Record<string, ColourRule> => Object.fromEntries(Object.entries(rules).filter(([other]) => other !== key));
  const free = media.filter(({ id }) => !Object.hasOwn(rules, id));
  const bring = (chosen: File): void => {
    void api
      .addProfile(chosen)
      .then(({ name }) => {
        toast.success(`“${name}” can be chosen now.`);
        load();
      })
      .catch(tellFailure);
  };
  return (
    <section className="border-b px-3 py-2" aria-label={`Colours of ${machine.name}`}>
      <div className="flex items-center gap-2">
        <h3 className="rule-label flex-1">Colours into inks</h3>
        <FileButton size="small" label="A colour profile" accept=".icc,.icm" onFiles={([file]) => bring(file)}>
          <Upload size={13} /> Profile
        </FileButton>
        {free[0] ? (
          <Button size="small" onClick={() => free[0] && put({ ...rules, [free[0].id]: rules[EVERY_MEDIUM] ?? USUAL_COLOUR })}>
            <Plus size={13} /> Medium
          </Button>
        ) : null}
      </div>
      <ul>
        {Object.entries(rules).map(([key, rule]) => (
          <RuleRow
            key={key}
            medium={key}
            rule={rule}
            others={free.map(({ id }) => id)}
            profiles={profiles}
            nameOf={(medium) => nameOfMedium(media, medium)}
            onMedium={(id) => put({ ...without(key), [id]: rule })}
            onRule={(next) => put({ ...rules, [key]: next })}
            onRemove={() => put(without(key))}
          />
        ))}
      </ul>
      <Profiles profiles={profiles ?? []} onGone={load} />
    </section>
  );
}
