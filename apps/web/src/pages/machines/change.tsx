/** Changing a machine from its panel. */
import type { MachineChange } from '@lorvek/model';
import { api } from '../../api/client.ts';
import { loadMachines } from '../../api/shop.ts';
import { tellFailure } from '../../ui/tell.ts';

export const change = (id: string, fields: MachineChange): void => void api.changeMachine(id, fields).then(loadMachines).catch(tellFailure);

export function TextCell({ label, value, onChange }: { label: string; value: string; onChange(text: string): void }) {
  return (
    <input
      key={value}
      aria-label={label}
      defaultValue={value}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      onBlur={(event) => event.target.value !== value && onChange(event.target.value)}
      className="h-7 w-full min-w-0 border border-line-strong bg-sheet px-2"
    />
  );
}
