/**
 * Unit, property and API tests. They run in bare Node, not in a context of their own, where everything global is looked up
 * the slow way and the geometry takes several times as long; what that needs is in `scripts/unit/`.
 */
export default {
  testTimeout: 60_000,
  maxWorkers: 2,
  projects: ['packages/core', 'packages/model', 'packages/computations', 'packages/machines', 'apps/server', 'apps/web', 'tests'].map(
    (folder) => ({
      displayName: folder,
      runner: 'jest-light-runner/child-process',
      transform: {},
      setupFiles: ['<rootDir>/scripts/property-tests.ts'],
      testMatch: [`<rootDir>/${folder}/**/*.test.ts`],
      testPathIgnorePatterns: ['/node_modules/', '/dist/', '/tests/e2e/'],
      modulePathIgnorePatterns: ['/dist/'],
    }),
  ),
};
