/** So many of something, in words: “1 sheet”, “4 sheets”. */
export const several = (count: number, one: string): string => `${count} ${count === 1 ? one : `${one}s`}`;
