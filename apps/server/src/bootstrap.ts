/** Makes the application ready to listen: security headers, limits, OpenAPI. Used by the server and its tests. */
import 'reflect-metadata';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import helmet from 'helmet';
import { Logger } from 'nestjs-pino';
import { cleanupOpenApiDoc } from 'nestjs-zod';
import { AppModule } from './app.module.ts';
import type { Config } from './config.ts';

const BODY_LIMIT = '16mb';

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
  'upgrade-insecure-requests': null,
};

export async function createApp(config: Config): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config), { bufferLogs: true });
  app.useLogger(app.get(Logger));
  app.useBodyParser('json', { limit: BODY_LIMIT });
  app.use(helmet({ contentSecurityPolicy: { useDefaults: false, directives: POLICY }, strictTransportSecurity: false }));
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
  return app;
}
