/** Starts the server. */
import { createApp } from './bootstrap.ts';
import { readConfig } from './config.ts';

const config = readConfig();
const app = await createApp(config);
await app.listen(config.port, config.host);
