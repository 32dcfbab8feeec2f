/**
 * How property tests draw their material: the same each time, so that a run that was green stays green until the code
 * changes; `PROPERTY_SEED=any` draws anew. A failure is told at once, without searching for the smallest case.
 */
import fc from 'fast-check';

const wanted = process.env.PROPERTY_SEED;
const seed = wanted === undefined ? 20_417 : Number(wanted);
fc.configureGlobal({ endOnFailure: true, ...(Number.isFinite(seed) ? { seed } : {}) });
