/** Why a run stopped, in words for whoever stands at the machine, with the way out. */
import { describePlace, printsOf, type Machine } from '@lorvek/model';
import type { DriverError } from '../machines/driver-error.ts';

/** What has to be so for a cut to go on. */
const GO_ON = 'if it lies as it did, and the machine was not switched off, go on from there';

/** Of a run that was under way when the server stopped. */
export const stoppedReason = ({ kind, progress }: { readonly kind: 'cut' | 'print'; readonly progress: number }): string => {
  const isBegun = kind === 'cut' && progress > 0;
  return `The server stopped while this run was under way${isBegun ? `, after ${percent(progress)} at least` : ''}. Look at the machine: ${isBegun ? `${GO_ON}; ` : ''}if the sheet is spoilt, load fresh film and retry; if it was ${kind === 'cut' ? 'cut' : 'printed'}, cancel the run.`;
};

const percent = (part: number): string => `${Math.round(part * 100)} %`;

function cutterReason({ fault, done, said }: DriverError, where: string): string {
  const look =
    done > 0
      ? `${percent(done)} was cut. Look at the sheet: ${GO_ON}. If not, load fresh film and retry to cut it from the beginning, or cancel the run.`
      : 'Most likely nothing has been cut; look at the sheet, then retry.';
  switch (fault) {
    case 'unreachable':
      return `${where} does not answer. Switch it on and check its cable, then retry; nothing was sent.`;
    case 'forbidden':
      return `${where} lies outside of this computer and private networks, where machines are not spoken to. Correct its address on Machines, or set LORVEK_MACHINE_HOSTS; nothing has been sent.`;
    case 'lost':
      return `The line to ${where} broke after ${percent(done)} of the cut. The sheet may be partly cut: ${done > 0 ? `${GO_ON}. If not, ` : ''}load fresh film, then retry cuts it from the beginning.`;
    case 'web':
      return `At ${where} a web server answers, not a cutter: most likely the port is wrong. Correct it on Machines, then retry; nothing has been cut.`;
    case 'nonsense':
      return `${where} answers, but not as a cutter does. Check its address and that it is set to HP-GL. ${look}`;
    case 'flood':
      return `${where} sends without end and without being asked. Check its address and its settings. ${look}`;
    case 'astray':
      return `${where} says that its tool is not where the file sent it: the film may be narrower than the work, or the machine turns its axes. ${look}`;
    case 'says':
      return `${where} says: ${said}. ${look}`;
    case 'blind':
      return `${where} has no camera that answers. ${look}`;
    case 'silent':
    case 'aborted':
    case 'goes-on':
      return `${where} takes data but gives no answer, so nobody knows how far it is. See that it is online and may answer. ${look}`;
  }
}

function printerReason({ fault, done, said }: DriverError, where: string): string {
  const look =
    done > 0 ? 'What came out is not whole: throw it away, then retry prints the sheet from the beginning.' : 'Nothing was printed.';
  switch (fault) {
    case 'unreachable':
      return `${where} does not answer. Switch it on and check its cable, then retry; nothing was printed.`;
    case 'forbidden':
      return `${where} lies outside of this computer and private networks, where machines are not spoken to. Correct its address on Machines, or set LORVEK_MACHINE_HOSTS; nothing was sent.`;
    case 'lost':
      return `The line to ${where} broke after ${percent(done)}. ${look}`;
    case 'says':
      return `${where} says: ${said}. ${look}`;
    case 'web':
    case 'nonsense':
    case 'flood':
      return `${where} answers, but not as this printer does: most likely the address or the port is wrong. Correct it on Machines, then retry. ${look}`;
    case 'goes-on':
      return done === 1
        ? `${where} had printed the job when it was cancelled: the sheet lies there.`
        : `${where} did not take the cancelling (${said}): it may go on printing. Look at it, and cancel the job there.`;
    case 'astray':
    case 'blind':
    case 'silent':
    case 'aborted':
      return `${where} gives no answer, so nobody knows how far it is. See that it is online. ${look}`;
  }
}

/** @param before of a cut that was to go on, how much of it was done before, 0 to 1 */
export function reasonOf(error: DriverError, machine: Machine, before: number | null = null): string {
  const where = `${machine.name} (${describePlace(machine)})`;
  if (printsOf(machine)) return printerReason(error, where);
  const text = cutterReason(error, where);
  return before !== null && error.done <= before ? `${text} Of this sheet ${percent(before)} had been cut before.` : text;
}
