/** What was worked out of one picture, stage by stage, so that a change of later settings does not do the earlier stages again. */
export class TraceMemory {
  private readonly kept = new Map<string, { readonly key: string; readonly value: unknown }>();

  /**
   * A stage's result: the last one when it was made of the same, else it is made anew.
   * @param key what it is made of besides the picture, the earlier stages' settings among it
   */
  recall<T>(stage: string, key: readonly unknown[], make: () => T): T {
    const own = JSON.stringify(key);
    const known = this.kept.get(stage);
    if (known?.key === own) return known.value as T;
    const value = make();
    this.kept.set(stage, { key: own, value });
    return value;
  }
}
