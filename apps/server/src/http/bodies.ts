/**
 * Bodies of requests: JSON only, no larger and no deeper than the route takes, looked at before it is parsed, so that
 * a nest of brackets costs a pass over its bytes and nothing else. Files come as multipart, on the routes made for them.
 */
import { InputError, LimitError } from '@lorvek/core';
import express, { type NextFunction, type Request, type RequestHandler, type Response } from 'express';

const MB = 1024 * 1024;
const USUAL = 8 * MB;
/** Changes of drawings may bring whole files' worth of shapes. */
const CHANGES = 64 * MB;
const DEEPEST = 64;

const CHANGES_PATH = /^\/api\/jobs\/[^/]+\/changes$/;
/** Routes that take files. */
const UPLOADS = /^\/api\/(assets|fonts|profiles|jobs\/file|backups\/file)$/;

const limitOf = (path: string): number => (CHANGES_PATH.test(path) ? CHANGES : USUAL);
export const sizeText = (bytes: number): string => `${Math.round(bytes / MB)} MB`;

/** Deepest nesting of brackets outside of strings; stops counting beyond `most`. */
export function depthOf(bytes: Uint8Array, most: number): number {
  let depth = 0;
  let deepest = 0;
  let inString = false;
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i];
    if (inString) {
      if (byte === 0x5c) i++;
      else if (byte === 0x22) inString = false;
    } else if (byte === 0x22) inString = true;
    else if (byte === 0x7b || byte === 0x5b) {
      depth++;
      if (depth > deepest) deepest = depth;
      if (deepest > most) return deepest;
    } else if (byte === 0x7d || byte === 0x5d) depth--;
  }
  return deepest;
}

function parse(request: Request): unknown {
  const bytes: unknown = request.body;
  if (!Buffer.isBuffer(bytes) || bytes.length === 0) return undefined;
  if (depthOf(bytes, DEEPEST) > DEEPEST) throw new LimitError('depth', `The request is nested deeper than ${DEEPEST} levels.`);
  try {
    return JSON.parse(bytes.toString('utf8'));
  } catch {
    throw new InputError('json', 'The request is not valid JSON.');
  }
}

const hasBody = (request: Request): boolean =>
  request.headers['transfer-encoding'] !== undefined || Number(request.headers['content-length'] ?? 0) > 0;

/** Reads JSON bodies; passes the others on to the routes made for them, and refuses the rest. */
export function bodies(): RequestHandler {
  const readers = new Map<number, RequestHandler>(
    [USUAL, CHANGES].map((limit) => [limit, express.raw({ type: 'application/json', limit, inflate: true })]),
  );
  return (request: Request, response: Response, next: NextFunction) => {
    if (!hasBody(request)) return next();
    const type = (request.headers['content-type'] ?? '').split(';')[0]?.trim().toLowerCase();
    if (type === 'multipart/form-data' && UPLOADS.test(request.path)) return next();
    if (type !== 'application/json')
      return next(
        new InputError('type', `This address takes ${UPLOADS.test(request.path) ? 'a file as multipart/form-data' : 'JSON'} only.`),
      );
    const limit = limitOf(request.path);
    (readers.get(limit) as RequestHandler)(request, response, (error?: unknown) => {
      if ((error as { type?: unknown } | undefined)?.type === 'entity.too.large')
        return next(new LimitError('body', `The request is larger than this address takes (${sizeText(limit)}).`));
      if (error) return next(error);
      try {
        request.body = parse(request);
        next();
      } catch (failure) {
        next(failure);
      }
    });
  };
}
