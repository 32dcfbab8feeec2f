/** Why a machine did not do what it was asked. `goes-on`: it was to stop, and did not take that. */
export type DriverFault =
  'unreachable' | 'forbidden' | 'lost' | 'silent' | 'nonsense' | 'web' | 'flood' | 'astray' | 'aborted' | 'goes-on' | 'blind' | 'says';

export class DriverError extends Error {
  constructor(
    readonly fault: DriverFault,
    /** How much of the file the machine has done, 0 to 1. */
    readonly done = 0,
    /** What the machine says itself, of `says`. */
    readonly said = '',
  ) {
    super(fault);
  }
}
