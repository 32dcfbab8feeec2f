/**
 * `npm run kernels`: compiles the innermost loops that are written in AssemblyScript (`packages/core/kernels`) into modules
 * beside what uses them, which are kept with the sources: nobody who only builds needs the compiler. `--check` only says
 * whether they are what comes of their sources.
 */
import asc from 'assemblyscript/asc';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, say } from './lib.mjs';

const KERNELS = [{ source: 'nest-collisions.ts', name: 'NEST_COLLISIONS', to: 'packages/core/src/sheet/nest-collisions.wasm.ts' }];
const OPTIONS = ['-O3', '--converge', '--noAssert', '--runtime', 'stub', '--enable', 'simd'];

async function compiled(source) {
  let bytes;
  const { error, stderr } = await asc.main([source, '--outFile', 'kernel.wasm', ...OPTIONS], {
    readFile: (name) => (name === source ? readFileSync(join(root, 'packages/core/kernels', source), 'utf8') : null),
    writeFile: (name, contents) => {
      if (name === 'kernel.wasm') bytes = contents;
    },
    listFiles: () => [],
  });
  if (error || !bytes) throw new Error(`${source} cannot be compiled.\n${stderr}`);
  return Buffer.from(bytes).toString('hex');
}

let isAsItShouldBe = true;
for (const { source, name, to } of KERNELS) {
  const text = `/** WebAssembly in hexadecimal digits, written by \`npm run kernels\` from \`kernels/${source}\`. */\nexport const ${name} =\n  '${await compiled(source)}';\n`;
  const path = join(root, to);
  if (!process.argv.includes('--check')) {
    writeFileSync(path, text);
    say(`Written: ${to}`);
  } else if (readFileSync(path, 'utf8') !== text) {
    isAsItShouldBe = false;
    process.stdout.write(`${to} is not what comes of ${source}: npm run kernels\n`);
  }
}
process.exit(isAsItShouldBe ? 0 : 1);
