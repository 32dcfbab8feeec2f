/** Unit, property and API tests: native ES modules, TypeScript by SWC. */
const common = {
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '@swc/jest',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true, decorators: true },
          transform: { legacyDecorator: true, decoratorMetadata: true, useDefineForClassFields: false, react: { runtime: 'automatic' } },
        },
        module: { type: 'es6' },
      },
    ],
  },
  testEnvironmentOptions: { customExportConditions: ['source', 'node', 'node-addons'] },
  setupFiles: ['<rootDir>/scripts/property-tests.ts'],
  testPathIgnorePatterns: ['/node_modules/', '/dist/', '/tests/e2e/'],
  modulePathIgnorePatterns: ['/dist/'],
};

export default {
  testTimeout: 60_000,
  maxWorkers: 2,
  projects: ['packages/core', 'packages/model', 'packages/machines', 'apps/server', 'apps/web', 'tests'].map((folder) => ({
    ...common,
    displayName: folder,
    testMatch: [`<rootDir>/${folder}/**/*.test.ts`],
    testEnvironment: 'node',
  })),
};
