import type { Rule } from 'eslint';

/** How many there are, places, sizes and colours counted once. @param parameters of a function's syntax tree */
export function countOf(parameters: readonly { readonly type: string }[]): number;
export const parameters: Rule.RuleModule;
