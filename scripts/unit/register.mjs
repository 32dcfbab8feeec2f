/** Makes a process ready to run tests from their sources. */
import { register } from 'node:module';

register('./typescript.mjs', import.meta.url);
