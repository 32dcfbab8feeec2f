/** The application: one module per thing of the shop. */
import { Global, Module, RequestMethod, type DynamicModule, type OnApplicationShutdown } from '@nestjs/common';
import { APP_FILTER, APP_GUARD, APP_PIPE } from '@nestjs/core';
import { ServeStaticModule } from '@nestjs/serve-static';
import { ThrottlerGuard, ThrottlerModule } from '@nestjs/throttler';
import { existsSync } from 'node:fs';
import { LoggerModule } from 'nestjs-pino';
import { ZodValidationPipe } from 'nestjs-zod';
import type { ServerResponse } from 'node:http';
import { AccessModule } from './access/access.module.ts';
import { AssetsModule } from './assets/assets.module.ts';
import { BackupsModule } from './backups/backups.module.ts';
import { CONFIG, type Config } from './config.ts';
import { DbModule } from './db/db.module.ts';
import { EventsModule } from './events/events.module.ts';
import { FontsModule } from './fonts/fonts.module.ts';
import { OwnFontsModule } from './fonts/own-fonts.module.ts';
import { HealthModule } from './health/health.module.ts';
import { InboxModule } from './inbox/inbox.module.ts';
import { JobsModule } from './jobs/jobs.module.ts';
import { MachinesModule } from './machines/machines.module.ts';
import { ProblemFilter } from './problems/problem.filter.ts';
import { ProfilesModule } from './profiles/profiles.module.ts';
import { QueueModule } from './queue/queue.module.ts';
import { SettingsModule } from './settings/settings.module.ts';
import { StylesModule } from './styles/styles.module.ts';
import { VersionsModule } from './jobs/versions.module.ts';
import { StockModule } from './stock/stock.module.ts';

/** Gives the data folder back when the server has stopped. */
class FolderKeeper implements OnApplicationShutdown {
  constructor(private readonly release: () => void) {}

  onApplicationShutdown(): void {
    this.release();
  }
}

@Global()
@Module({})
class ConfigModule {
  static with(config: Config, release: () => void): DynamicModule {
    return {
      module: ConfigModule,
      providers: [
        { provide: CONFIG, useValue: config },
        { provide: FolderKeeper, useFactory: () => new FolderKeeper(release) },
      ],
      exports: [CONFIG],
    };
  }
}

/** Built files carry a hash in their names and may be kept; the page itself may not. */
function setCaching(response: ServerResponse, path: string): void {
  response.setHeader('cache-control', /[\\/]assets[\\/]/.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache');
}

@Module({})
export class AppModule {
  /** @param release gives the data folder back */
  static with(config: Config, release: () => void): DynamicModule {
    const web = existsSync(config.webDir)
      ? [
          ServeStaticModule.forRoot({
            rootPath: config.webDir,
            renderPath: /^\/(?!api(\/|$)|assets\/).*/,
            serveStaticOptions: { setHeaders: setCaching },
          }),
        ]
      : [];
    return {
      module: AppModule,
      imports: [
        ConfigModule.with(config, release),
        LoggerModule.forRoot({
          pinoHttp: {
            level: config.logLevel,
            autoLogging: { ignore: (request) => !(request.url ?? '').startsWith('/api') || (request.url ?? '').startsWith('/api/health') },
            serializers: {
              req: (r: { method: string; url: string }) => ({ method: r.method, url: r.url }),
              res: (r: { statusCode: number }) => ({ status: r.statusCode }),
            },
          },
          forRoutes: [{ path: '{*splat}', method: RequestMethod.ALL }],
        }),
        ThrottlerModule.forRoot([{ ttl: 60_000, limit: config.rateLimit }]),
        DbModule,
        AccessModule,
        HealthModule,
        EventsModule,
        AssetsModule,
        FontsModule,
        OwnFontsModule,
        SettingsModule,
        StylesModule,
        JobsModule,
        VersionsModule,
        StockModule,
        MachinesModule,
        ProfilesModule,
        QueueModule,
        InboxModule,
        BackupsModule,
        ...web,
      ],
      providers: [
        { provide: APP_FILTER, useClass: ProblemFilter },
        { provide: APP_PIPE, useClass: ZodValidationPipe },
        { provide: APP_GUARD, useClass: ThrottlerGuard },
      ],
    };
  }
}
