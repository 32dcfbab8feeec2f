/** What can be made to go wrong with a simulated machine: one table for all of them. */
export const FAULTS = {
  'line-lost': 'The line breaks after a share of the next job, 0 to 1',
  'power-lost': 'The machine goes off after a share of the next job, 0 to 1',
  'end-of-material': 'The material ends after a share of the next job, 0 to 1',
  'mark-missed': 'The camera does not see the mark of this number',
  slow: 'So many times slower',
  nonsense: 'Answers make no sense',
  'wrong-material': 'Another material is loaded than was asked for',
  'full-queue': 'Takes no further jobs',
  'keeps-on': 'Cancels no job',
  'too-late': 'Has printed a job when it is to cancel it',
} as const;
export type FaultName = keyof typeof FAULTS;

export const isFault = (name: string): name is FaultName => Object.hasOwn(FAULTS, name);

export class Faults {
  private readonly values = new Map<FaultName, number>();

  set(name: FaultName, value: number | null): void {
    if (value === null) this.values.delete(name);
    else this.values.set(name, value);
  }

  get(name: FaultName): number | undefined {
    return this.values.get(name);
  }

  has(name: FaultName): boolean {
    return this.values.has(name);
  }

  /** Happens once: when the share is reached it is over. */
  takeAt(name: FaultName, share: number): boolean {
    const at = this.values.get(name);
    if (at === undefined || share < at) return false;
    this.values.delete(name);
    return true;
  }

  list(): Partial<Record<FaultName, number>> {
    return Object.fromEntries(this.values);
  }
}
