/** Module hooks of the tests: TypeScript by SWC, with the metadata that the server's decorators need. */
import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { transform } from '@swc/core';

const GLOBALS = new URL('globals.mjs', import.meta.url).href;

export const resolve = (name, context, next) => (name === '@jest/globals' ? { url: GLOBALS, shortCircuit: true } : next(name, context));

export async function load(url, context, next) {
  const [plain] = url.split('?');
  if (!/\.tsx?$/.test(plain) || plain.includes('/node_modules/')) return next(url, context);
  const filename = fileURLToPath(plain);
  const { code } = await transform(await readFile(filename, 'utf8'), {
    filename,
    swcrc: false,
    sourceMaps: 'inline',
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', tsx: plain.endsWith('x'), decorators: true },
      transform: { legacyDecorator: true, decoratorMetadata: true, useDefineForClassFields: false, react: { runtime: 'automatic' } },
    },
    module: { type: 'es6' },
  });
  return { format: 'module', source: code, shortCircuit: true };
}
