/** Every failure as a problem document (RFC 9457): what happened, where, what to do. Codes map to HTTP here only. */
import { Catch, HttpException, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import { AppError } from '@lorvek/core';
import type { Problem } from '@lorvek/model';
import { ZodValidationException } from 'nestjs-zod';
import type { Response } from 'express';
import type { ZodError } from 'zod';

type Answer = Problem & Record<string, unknown>;

const STATUS: readonly (readonly [RegExp, number])[] = [
  [/^input\.missing$/, 404],
  [/^input\.state$/, 409],
  [/^stale$/, 409],
  [/^input\.findings$/, 422],
  [/^limit\./, 413],
  [/^(input|geometry)\./, 400],
];

const REMEDIES: Record<string, string> = {
  stale: 'Take the changes that came with this answer, then send yours again on the new revision.',
  'input.missing': 'Go back to the list; it may have been deleted or archived elsewhere.',
};

function fromAppError(error: AppError): Answer {
  const status = STATUS.find(([pattern]) => pattern.test(error.code))?.[1] ?? 500;
  const { field, ...rest } = error.details;
  const remedy = REMEDIES[error.code];
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
    413: 'The request is larger than the server takes (16 MB).',
    429: 'Too many requests at once. Wait a moment and try again.',
  };
  return { type: `http.${status}`, title: error.message, status, detail: texts[status] ?? error.message };
}

/** What a body parser throws. */
function fromParser(error: unknown): Answer | undefined {
  const status = (error as { status?: unknown }).status;
  const type = (error as { type?: unknown }).type;
  if (typeof status !== 'number' || typeof type !== 'string') return undefined;
  const detail = status === 413 ? 'The request is larger than the server takes (16 MB).' : 'The request is not valid JSON.';
  return { type: `http.${status}`, title: type, status, detail };
}

@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly logger = new Logger('Problem');

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const answer = this.answer(error);
    if (answer.status >= 500) this.logger.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    if (!response.headersSent) response.status(answer.status).type('application/problem+json').send(JSON.stringify(answer));
    else response.end();
  }

  private answer(error: unknown): Answer {
    if (error instanceof AppError) return fromAppError(error);
    if (error instanceof ZodValidationException) return fromZod(error);
    if (error instanceof HttpException) return fromHttp(error);
    return (
      fromParser(error) ?? {
        type: 'internal',
        title: 'internal',
        status: 500,
        detail: 'The server met an error of its own. What you made is kept; try again.',
      }
    );
  }
}
