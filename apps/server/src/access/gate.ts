/**
 * Who may speak to the server at all, before any route: browsers that call it by a name it goes by (against names that
 * are pointed here from elsewhere), pages of its own origin (against posts from foreign pages), and, where a passphrase
 * is set, people who are signed in.
 */
import { AppError } from '@lorvek/core';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import { isIP } from 'node:net';
import type { Config } from '../config.ts';

const LOOPBACK = ['localhost', '127.0.0.1', '[::1]'];
const WILDCARDS = ['0.0.0.0', '::', '[::]'];

export const isLoopback = (host: string): boolean => host === 'localhost' || host === '::1' || /^127\.\d+\.\d+\.\d+$/.test(host);

/** A Host header without its port. */
const nameOf = (host: string): string => host.toLowerCase().replace(/:\d+$/, '');

/** Names by which this server may be called. A server on all addresses goes by any plain address, never by an unknown name. */
function mayBeCalled(config: Config): (name: string) => boolean {
  const own = isIP(config.host) === 6 ? `[${config.host}]` : config.host.toLowerCase();
  const names = new Set([...LOOPBACK, own, ...config.hosts]);
  const anyAddress = WILDCARDS.includes(config.host);
  return (name) => names.has(name) || (anyAddress && isIP(name.replace(/^\[|\]$/g, '')) !== 0);
}

const refuse = (code: string, text: string): AppError => new AppError(`access.${code}`, text);

function isOwnPage(request: Request): boolean {
  const site = request.headers['sec-fetch-site'];
  if (site !== undefined && site !== 'same-origin' && site !== 'none') return false;
  const { origin } = request.headers;
  if (origin === undefined) return true;
  try {
    return new URL(origin).host === (request.headers.host ?? '').toLowerCase();
  } catch {
    return false;
  }
}

/** Names and origins. */
export function gate(config: Config): RequestHandler {
  const isName = mayBeCalled(config);
  return (request: Request, _response: Response, next: NextFunction) => {
    const name = nameOf(request.headers.host ?? '');
    if (!isName(name))
      return next(refuse('name', `This server does not go by the name “${name.slice(0, 80)}”. Add it to LORVEK_HOSTS if it should.`));
    if (request.path.startsWith('/api') && !isOwnPage(request))
      return next(refuse('origin', 'Requests from pages of other places are not taken.'));
    next();
  };
}
