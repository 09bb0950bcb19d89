import type { NextFunction, Request, Response } from 'express';
import helmet from 'helmet';

const OWN = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

/** Refuses what does not come from our own page: a foreign Host means a rebound name, a foreign Origin or site another page. */
export function onlyOwnPage(req: Request, res: Response, next: NextFunction): void {
  const { host = '', origin } = req.headers;
  const site = req.headers['sec-fetch-site'];
  // Another port of this machine is the same site to a browser, and no page of ours: it may lead here, and ask for nothing.
  const data = /^\/(api|roots|services)(\/|$)/i.test(req.path);
  const foreign = site === 'cross-site' || (site === 'same-site' && data);
  if (!OWN.test(host) || (origin !== undefined && origin !== `http://${host}`) || foreign) {
    res.status(403).json({ error: 'This server answers its own page only.' });
    return;
  }
  // Edges are asked for with a list too long for an address, and a folder is shown on the desktop; nothing is taken by either. Files are
  // written where that was allowed at the start, backups go into a folder of ours, what is published is signed, a session host takes what is sent to it, and a team knows who asks. Only our page may send any of them.
  const asks =
    req.method === 'POST' &&
    origin !== undefined &&
    /^\/(services\/(exchange\/v1\/(lookup|near|publish)|host\/v1\/audio\/[0-9a-f]{64}|team\/v1\/(join|enter|leave|password|invitations|(libraries|lists)(\/\d+(\/(people|sounds|edits|remove|facts|measured|files(\/[0-9a-f]{64})?))?)?))|api\/(roots\/[a-z0-9]+\/(edges|open|write|rename|make|remove|rest)|backups\/[0-9a-f-]+\/\d+\/\d+\/(keep|remove)))$/.test(
      req.path,
    );
  if (req.method !== 'GET' && req.method !== 'HEAD' && !asks) {
    res.status(405).json({ error: 'This server only gives, it takes nothing.' });
    return;
  }
  next();
}

/** Whether a WebSocket is asked for by our own page. */
export function isOwnSocket({ headers }: Pick<Request, 'headers'>): boolean {
  const { host = '', origin } = headers;
  return OWN.test(host) && origin === `http://${host}`;
}

/**
 * What a page of ours may do: run the scripts that were built, and nothing that lies in a folder of sounds.
 * @param services addresses of services that it may ask beside our own server
 */
export const pagePolicy = (services: readonly string[]) =>
  helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        'default-src': ["'none'"],
        // By path: what roots serve has the same origin.
        'script-src': [(req) => `http://${req.headers.host}/assets/`, "'wasm-unsafe-eval'"],
        'worker-src': [(req) => `http://${req.headers.host}/assets/`],
        // The control library writes its style sheets at run time; scripts stay strict.
        'style-src': ["'self'", "'unsafe-inline'"],
        'img-src': ["'self'", 'data:', 'blob:'],
        'media-src': ["'self'", 'blob:'],
        'font-src': ["'self'"],
        'connect-src': ["'self'", 'blob:', ...services],
        'manifest-src': ["'self'"],
        'base-uri': ["'none'"],
        'form-action': ["'none'"],
        'frame-ancestors': ["'none'"],
      },
    },
    crossOriginOpenerPolicy: { policy: 'same-origin' },
    crossOriginEmbedderPolicy: { policy: 'require-corp' },
    crossOriginResourcePolicy: { policy: 'same-origin' },
    strictTransportSecurity: false,
  });

/** What comes out of a root is never a page, whatever it is called and whatever stands in it. */
export function neverPage(_req: Request, res: Response, next: NextFunction): void {
  res.setHeader('Content-Security-Policy', "sandbox; default-src 'none'");
  res.setHeader('X-Content-Type-Options', 'nosniff');
  next();
}
