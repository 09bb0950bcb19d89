import type { Request, Response } from 'express';
import type { Root } from './roots';
import { RootWatcher } from './watch';

/** So many pages may listen; more than anybody has open. */
const MOST = 64;

/** Tells pages of changes below roots: one watcher per root, however many pages listen. */
export class Changes {
  private readonly listening = new Set<Response>();
  private watchers: RootWatcher[] = [];
  private started: Promise<unknown> = Promise.resolve();

  constructor(private readonly roots: readonly Root[]) {}

  /** Answers with an event for each change, for as long as the page stays. */
  listen(req: Request, res: Response): void {
    if (this.listening.size >= MOST) {
      res.status(503).json({ error: 'Too many pages listen already; close some.' });
      return;
    }
    res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache', Connection: 'keep-alive' });
    res.write(': watching\n\n');
    if (this.listening.size === 0) this.start();
    this.listening.add(res);
    void this.started.then(() => res.write(': begun\n\n'));
    req.on('close', () => {
      this.listening.delete(res);
      if (this.listening.size === 0) this.stop();
    });
  }

  private start(): void {
    this.watchers = this.roots.map(
      (root) =>
        new RootWatcher(root, () => {
          for (const res of this.listening) res.write(`data: ${JSON.stringify({ id: root.id })}\n\n`);
        }),
    );
    this.started = Promise.all(this.watchers.map((w) => w.start()));
  }

  private stop(): void {
    for (const watcher of this.watchers.splice(0)) watcher.stop();
  }
}
