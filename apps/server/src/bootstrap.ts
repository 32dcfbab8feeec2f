/** Makes the application ready to listen: the data folder taken, security headers, limits, OpenAPI. Used by the server and its tests. */
import 'reflect-metadata';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import compression from 'compression';
import type { NextFunction, Request, Response } from 'express';
import helmet from 'helmet';
import { Logger } from 'nestjs-pino';
import { cleanupOpenApiDoc } from 'nestjs-zod';
import { gate, isLoopback } from './access/gate.ts';
import { readPassphrase } from './access/passphrase.ts';
import { AppModule } from './app.module.ts';
import type { Config } from './config.ts';
import { StartError, markFolder, takeFolder } from './db/shop-folder.ts';
import { bodies } from './http/bodies.ts';
import { ProblemFilter } from './problems/problem.filter.ts';

const POLICY = {
  'default-src': ["'self'"],
  'script-src': ["'self'", "'wasm-unsafe-eval'"],
  'style-src': ["'self'", "'unsafe-inline'"],
  'img-src': ["'self'", 'data:', 'blob:'],
  'font-src': ["'self'"],
  'connect-src': ["'self'"],
  'worker-src': ["'self'", 'blob:'],
  'object-src': ["'none'"],
  'frame-ancestors': ["'none'"],
  'form-action': ["'self'"],
  'base-uri': ["'none'"],
  'upgrade-insecure-requests': null,
};

/** Events must not wait in a compressor for more of them. */
const isCompressed = (request: Request, response: Response): boolean =>
  !String(response.getHeader('content-type') ?? '').includes('event-stream') && compression.filter(request, response);

/** Beyond this machine only people who know the passphrase are let in. */
function refuseOpenDoors(config: Config): void {
  if (isLoopback(config.host) || config.passphrase !== undefined || readPassphrase(config.dataDir)) return;
  throw new StartError(
    'open',
    `The server would listen on ${config.host}, where others can reach it, and no passphrase is set. Set one with: npm run passphrase – or let it listen on this machine only (leave out LORVEK_HOST).`,
  );
}

/** @throws StartError with a plain sentence when the server must not start */
export async function createApp(config: Config): Promise<NestExpressApplication> {
  refuseOpenDoors(config);
  const release = takeFolder(config.dataDir);
  try {
    const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config, release), {
      bufferLogs: true,
      bodyParser: false,
      abortOnError: false,
    });
    app.useLogger(app.get(Logger));
    const problems = new ProblemFilter();
    app.use(helmet({ contentSecurityPolicy: { useDefaults: false, directives: POLICY }, strictTransportSecurity: false }));
    app.use(gate(config));
    app.use(compression({ filter: isCompressed }));
    app.use(bodies());
    app.use((error: unknown, _request: Request, response: Response, _next: NextFunction) => problems.send(error, response));
    app.enableShutdownHooks();
    const document = SwaggerModule.createDocument(
      app,
      new DocumentBuilder()
        .setTitle('Lorvek')
        .setDescription('Jobs, stock, machines and the queue of a sign shop. Lengths in mm.')
        .setVersion('1')
        .build(),
    );
    SwaggerModule.setup('api/docs', app, cleanupOpenApiDoc(document));
    markFolder(config.dataDir);
    return app;
  } catch (error) {
    release();
    throw error;
  }
}
