/** Every failure as a problem document (RFC 9457): what happened, where, what to do. Codes map to HTTP here only. */
import { Catch, HttpException, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import { AppError } from '@lorvek/core';
import type { Problem } from '@lorvek/model';
import { StorageError, storageFaultOf } from '../db/storage-fault.ts';
import { ZodValidationException } from 'nestjs-zod';
import type { Response } from 'express';
import type { ZodError } from 'zod';

type Answer = Problem & Record<string, unknown>;

const STATUS: readonly (readonly [RegExp, number])[] = [
  [/^input\.missing$/, 404],
  [/^input\.state$/, 409],
  [/^stale$/, 409],
  [/^cancelled$/, 409],
  [/^input\.findings$/, 422],
  [/^limit\.attempts$/, 429],
  [/^limit\.time$/, 503],
  [/^limit\./, 413],
  [/^input\.type$/, 415],
  [/^access\.(sign-in|passphrase)$/, 401],
  [/^access\.name$/, 421],
  [/^access\./, 403],
  [/^storage\.full$/, 507],
  [/^storage\./, 503],
  [/^(input|geometry)\./, 400],
];

const REMEDIES: Record<string, string> = {
  stale: 'Take the changes that came with this answer, then send yours again on the new revision.',
  'input.missing': 'Go back to the list; it may have been deleted or archived elsewhere.',
};

function fromAppError(error: AppError): Answer {
  const status = STATUS.find(([pattern]) => pattern.test(error.code))?.[1] ?? 500;
  const { field, remedy: own, ...rest } = error.details;
  const remedy = typeof own === 'string' ? own : REMEDIES[error.code];
  return {
    ...rest,
    type: error.code,
    title: error.code,
    status,
    detail: error.message,
    ...(typeof field === 'string' ? { field } : {}),
    ...(remedy ? { remedy } : {}),
  };
}

function fromZod(error: ZodValidationException): Answer {
  const issue = (error.getZodError() as ZodError).issues[0];
  const field = issue?.path.join('.') ?? '';
  return {
    type: 'input.request',
    title: 'input.request',
    status: 400,
    detail: `${field || 'The request'}: ${issue?.message ?? 'is not valid'}.`,
    ...(field ? { field } : {}),
    remedy: 'Correct the field and send it again.',
  };
}

function fromHttp(error: HttpException): Answer {
  const status = error.getStatus();
  const texts: Record<number, string> = {
    404: 'There is nothing at this address.',
    429: 'Too many requests at once. Wait a moment and try again.',
  };
  return { type: `http.${status}`, title: error.message, status, detail: texts[status] ?? error.message };
}

/** What the body reader of the platform throws: a length that does not fit, an unknown encoding, a broken off request. */
function fromReader(error: unknown): Answer | undefined {
  const { status, type } = error as { status?: unknown; type?: unknown };
  if (typeof status !== 'number' || typeof type !== 'string') return undefined;
  return { type: `http.${status}`, title: type, status, detail: 'The request did not arrive whole or in a form that can be read.' };
}

@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly logger = new Logger('Problem');

  catch(error: unknown, host: ArgumentsHost): void {
    this.send(error, host.switchToHttp().getResponse<Response>());
  }

  /** Also for what fails before any route is reached. */
  send(error: unknown, response: Response): void {
    const answer = this.answer(error);
    if (answer.status >= 500) this.logger.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    if (!response.headersSent) response.status(answer.status).type('application/problem+json').send(JSON.stringify(answer));
    else response.end();
  }

  private answer(error: unknown): Answer {
    if (error instanceof AppError) return fromAppError(error);
    if (error instanceof ZodValidationException) return fromZod(error);
    if (error instanceof HttpException) return fromHttp(error);
    const fault = storageFaultOf(error);
    if (fault) return fromAppError(new StorageError(fault));
    return (
      fromReader(error) ?? {
        type: 'internal',
        title: 'internal',
        status: 500,
        detail: 'The server met an error of its own. What you made is kept; try again.',
      }
    );
  }
}
