/** What tests import as `@jest/globals`, where they run in bare Node: the runner has put it on the global object. */
export const { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, jest, test } = globalThis;
