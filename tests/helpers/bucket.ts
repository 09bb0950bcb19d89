import { BUCKET, storageRouter } from '@services/storage';
import { BucketPlace } from '@services/team/places';
import express from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';

export const KEYS = { id: 'NETLOFT', secret: 'tar/and+hemp rope' };

/** A server for tests. */
export async function serve(app: express.Express): Promise<{ base: string; close: () => Promise<void> }> {
  const server = await new Promise<Server>((done) => {
    const made = app.listen(0, '127.0.0.1', () => done(made));
  });
  const close = () =>
    new Promise<void>((done) => {
      server.close(() => done());
      server.closeAllConnections();
    });
  return { base: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, close };
}

/** A folder as a bucket, over HTTP. */
export async function bucketOf(folder: string, page?: number) {
  const state = { down: false, now: undefined as number | undefined, asked: [] as string[] };
  const app = express();
  app.use((req, res, next) => {
    state.asked.push(`${req.method} ${decodeURIComponent(req.path)} ${req.headers.range ?? ''}`.trim());
    if (state.down) res.destroy();
    else next();
  });
  app.use('/storage', storageRouter(folder, KEYS, { page, clock: () => state.now ?? Date.now() }));
  const { base, close } = await serve(app);
  const address = `${base}/storage/${BUCKET}`;
  return { state, address, close, place: new BucketPlace(address, KEYS) };
}
