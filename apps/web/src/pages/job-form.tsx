/** What a job is called, for whom, and when it is due. */
import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { Dialog, DialogButtons } from '../ui/dialog.tsx';
import { TextField } from '../ui/fields.tsx';
import { tellFailure } from '../ui/tell.ts';

export interface JobFields {
  name: string;
  customer: string;
  dueOn: string;
}

export function JobForm({
  title,
  action,
  start,
  onDone,
  onClose,
}: {
  title: string;
  action: string;
  start: JobFields;
  onDone(fields: JobFields): Promise<void>;
  onClose(): void;
}) {
  const [fields, setFields] = useState(start);
  const [busy, setBusy] = useState(false);
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    if (fields.name.trim() === '') return void toast.warning('Give the job a name.');
    setBusy(true);
    onDone(fields)
      .catch(tellFailure)
      .finally(() => setBusy(false));
  };
  return (
    <Dialog open title={title} onClose={onClose}>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <TextField
          label="Name of the job"
          value={fields.name}
          autoFocus
          placeholder="Berth plates, east pier"
          onChange={(name) => setFields({ ...fields, name })}
        />
        <TextField label="Customer" value={fields.customer} onChange={(customer) => setFields({ ...fields, customer })} />
        <TextField label="Due" type="date" value={fields.dueOn} onChange={(dueOn) => setFields({ ...fields, dueOn })} />
        <DialogButtons action={action} disabled={busy} onClose={onClose} />
      </form>
    </Dialog>
  );
}
