import type { NextFunction, Request, RequestHandler, Response } from 'express';
import { isIP } from 'node:net';
import { setTimeout as rest } from 'node:timers/promises';
import { forbidden, sendProblem, tooManyGuesses, unauthorized } from '../http/problem.ts';
import { Guesses } from './guesses.ts';
import { cookieOf, hashOf, isSame } from './token.ts';

export interface AccessOptions {
  /** Host names, without a port, under which the server may be asked. */
  readonly hosts: ReadonlySet<string>;
  /** SHA-256 of the token that must be shown, in hex; nothing is asked where there is none. */
  readonly tokenHash?: string | undefined;
  /** It is reached by https, so that its cookie need not go by anything else. */
  readonly secure?: boolean;
}

const COOKIE = 'estela_access';
/** How long a browser is known, in seconds. */
const MONTH = 30 * 24 * 3600;
/** What tells whether the server works, and nothing else. */
const HEALTH = '/api/health';

const cookieIn = (header: string | undefined): string | undefined =>
  header
    ?.split(';')
    .map((part) => part.trim())
    .find((part) => part.startsWith(`${COOKIE}=`))
    ?.slice(COOKIE.length + 1);

const addressOf = (request: Request): string => request.socket.remoteAddress ?? '';

/**
 * Who may come in. Refuses requests for another host name (a rebound DNS name would carry one) and from pages of another
 * origin. With a token, asks for it: as `Authorization: Bearer`, or once as `/?token=`, which a cookie stands for from
 * then on. Wrong ones are answered later and later.
 */
export function access({ hosts, tokenHash, secure = false }: AccessOptions): RequestHandler {
  const guesses = new Guesses();
  const cookie = tokenHash === undefined ? '' : cookieOf(tokenHash);

  /** What was shown, and whether it is right. */
  const shown = (request: Request): 'nothing' | 'right' | 'wrong' => {
    const [, bearer] = /^Bearer (.+)$/i.exec(request.headers.authorization ?? '') ?? [];
    if (bearer !== undefined) return isSame(hashOf(bearer), tokenHash ?? '') ? 'right' : 'wrong';
    const kept = cookieIn(request.headers.cookie);
    // A cookie of an older token is no guess.
    return kept !== undefined && isSame(kept, cookie) ? 'right' : 'nothing';
  };

  const refuse = async (request: Request, response: Response, guessed: boolean): Promise<void> => {
    if (guessed) await rest(guesses.wrong(addressOf(request)));
    if (request.path.startsWith('/api') || request.method !== 'GET') {
      response.setHeader('WWW-Authenticate', 'Bearer');
      sendProblem(request, response, unauthorized());
    } else response.status(401).setHeader('Cache-Control', 'no-store').type('html').send(pageThatAsks(guessed));
  };

  const ask = async (request: Request, response: Response, next: NextFunction): Promise<void> => {
    const { token } = request.query;
    const inQuery = typeof token === 'string' && !request.path.startsWith('/api') ? token : undefined;
    const found = inQuery === undefined ? shown(request) : isSame(hashOf(inQuery), tokenHash ?? '') ? 'right' : 'wrong';
    if (found !== 'right' && guesses.isShut(addressOf(request))) {
      response.setHeader('Retry-After', '60');
      sendProblem(request, response, tooManyGuesses());
    } else if (found !== 'right') await refuse(request, response, found === 'wrong');
    else if (inQuery === undefined) next();
    else {
      const parts = [`${COOKIE}=${cookie}`, 'Path=/', 'HttpOnly', 'SameSite=Strict', `Max-Age=${String(MONTH)}`];
      response
        .setHeader('Set-Cookie', [...parts, ...(secure ? ['Secure'] : [])].join('; '))
        .setHeader('Cache-Control', 'no-store')
        // Without the token, which would else stand in the address.
        .redirect(303, request.path);
    }
  };

  return (request, response, next) => {
    const host = request.headers.host ?? '';
    const name = host.replace(/:\d+$/, '').toLowerCase();
    // An address cannot be rebound, as a name can.
    const known = hosts.has(name) || (tokenHash !== undefined && isIP(name.replace(/^\[|\]$/g, '')) !== 0);
    const { origin } = request.headers;
    if (!known || !(origin === undefined || origin === `http://${host}` || origin === `https://${host}`))
      sendProblem(request, response, forbidden());
    else if (tokenHash === undefined || request.path === HEALTH) next();
    else ask(request, response, next).catch(next);
  };
}

/** A page of a few words and a field, for who comes without the token. */
const pageThatAsks = (guessed: boolean): string => `<!doctype html>
<html lang="en">
  <meta charset="utf-8">
  <meta name="viewport" content="width=device-width">
  <meta name="color-scheme" content="dark">
  <title>Estela</title>
  <main style="max-width: 24em; margin: 20vh auto; font: 16px/1.5 sans-serif">
    <h1 style="font-size: 20px">Estela</h1>
    <form action="/">
      <p>${guessed ? 'Wrong token.' : 'This server needs an access token.'} It was printed at the first start of the server: ask whoever runs it.</p>
      <label>Token <input name="token" type="password" autocomplete="current-password" required autofocus></label>
      <button>Come in</button>
    </form>
  </main>
</html>
`;
