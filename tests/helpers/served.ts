import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Express } from 'express';

/** The application, served on a free port of the loopback. */
export async function served(app: Express): Promise<{ server: Server; port: number }> {
  const server = await new Promise<Server>((done) => {
    const s = app.listen(0, '127.0.0.1', () => done(s));
  });
  return { server, port: (server.address() as AddressInfo).port };
}
