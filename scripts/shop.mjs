/**
 * What is done to a shop's data from outside, with its server stopped but for `backup`:
 *   npm run backup -- FILE.tar            all of it into one file
 *   npm run restore -- FILE.tar | NAME    a backup brought back; what stood there before is kept
 *   npm run passphrase                    sets the passphrase that is asked of whoever comes from elsewhere
 * LORVEK_DATA says which shop.
 */
import { ensureBuilt, ensureInstalled, root, run } from './lib.mjs';

ensureInstalled();
ensureBuilt();
run(process.execPath, ['apps/server/dist/shop.js', ...process.argv.slice(2)], { cwd: root });
