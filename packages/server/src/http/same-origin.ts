import type { NextFunction, Request, Response } from 'express';

/**
 * Refuses requests for another host name (a rebound DNS name would carry one) and from pages of
 * another origin. `hosts` are names without a port.
 */
export function sameOrigin(hosts: ReadonlySet<string>) {
  return (request: Request, response: Response, next: NextFunction): void => {
    const host = request.headers.host ?? '';
    const name = host.replace(/:\d+$/, '');
    const { origin } = request.headers;
    if (hosts.has(name) && (origin === undefined || origin === `http://${host}` || origin === `https://${host}`)) {
      next();
      return;
    }
    response
      .status(403)
      .type('application/problem+json')
      .send(
        JSON.stringify({
          type: '/problems/forbidden',
          title: 'Refused',
          status: 403,
          detail: 'This address or page may not use Estela.',
        }),
      );
  };
}
