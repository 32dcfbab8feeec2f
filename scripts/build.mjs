/** `npm run build`: everything that can be built. */
import { buildPackages, ensureBuilt, ensureInstalled, say } from './lib.mjs';

ensureInstalled();
buildPackages();
ensureBuilt();
say('Built.');
