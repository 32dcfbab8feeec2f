/** Starts the server; when it must not start, says why in a sentence. */
import { ZodError } from 'zod';
import { createApp } from './bootstrap.ts';
import { readConfig } from './config.ts';
import { StartError } from './db/shop-folder.ts';

try {
  const config = readConfig();
  const app = await createApp(config);
  await app.listen(config.port, config.host);
} catch (error) {
  if (error instanceof StartError) process.stderr.write(`${error.message}\n`);
  else if (error instanceof ZodError)
    process.stderr.write(`${error.issues.map((issue) => `${issue.path.join('.')}: ${issue.message}`).join('\n')}\n`);
  else process.stderr.write(`${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
  process.exit(1);
}
