import { checked, validators, type FromHost, type ToHost } from '@core/schemas';
import { Router, type NextFunction, type Request, type Response } from 'express';
import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import { WebSocketServer, type WebSocket } from 'ws';
import { HostRefused, Session, type SessionForm } from './model';
import type { HostFolder } from './store';

/** The session that the stand-in opens with. */
const form: SessionForm = {
  ...{ name: 'Ferry at Night', rate: 48_000, bits: 24, fps: '24', startFrame: 24 * 3600, allowed: 4e9 },
};
/** Messages that may come at once, and so many more each second; bytes of one, connections, and bytes that one may be behind. */
const [BURST, EACH, LONGEST, MOST, BEHIND] = [400, 200, 4 << 20, 32, 32 << 20];
const SUM = /^[0-9a-f]{64}$/;

/** Somebody who is connected. */
interface Peer {
  socket: WebSocket;
  name: string;
  left: number;
  at: number;
}

/** What a session host may be told at the start. */
export interface HostOptions {
  form?: Partial<SessionForm>;
  /** Sends its page; absent where it has none. */
  page?: (res: Response) => void;
  /** Milliseconds. */
  clock?: () => number;
}

/** A stand-in for a running workstation, over HTTP and WebSocket; its protocol stands in docs/services.md. */
export class SessionHost {
  readonly router = Router();
  private readonly session: Session;
  private readonly sockets = new WebSocketServer({ noServer: true, maxPayload: LONGEST });
  private readonly peers = new Set<Peer>();
  private readonly clock: () => number;
  /** One after another: what is answered is kept. */
  private turn: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly folder: HostFolder,
    { form: own, page, clock = () => performance.now() }: HostOptions = {},
  ) {
    this.session = new Session({ ...form, ...own }, folder.kept);
    this.clock = clock;
    this.routes(page);
  }

  private routes(page: HostOptions['page']): void {
    const { router } = this;
    if (page) router.get('/', (_req, res) => page(res));
    router.get('/v1/about', (_req, res) => {
      const { name } = this.session.form;
      res.json({ service: 'session-host', version: 1, name });
    });
    router.get('/v1/audio/:sum', (req, res, next) => {
      if (!SUM.test(req.params.sum) || !this.session.has(req.params.sum)) return next();
      res.type('audio/wav');
      res.sendFile(this.folder.pathOf(req.params.sum), { dotfiles: 'allow', cacheControl: false });
    });
    router.post('/v1/audio/:sum', async (req, res) => {
      const { sum } = req.params;
      const size = Number(req.headers['content-length']);
      if (!SUM.test(sum) || !Number.isSafeInteger(size) || size <= 0)
        throw new HostRefused('bad', 'A file is sent under its SHA-256, and says how long it is.');
      if (!this.session.has(sum)) {
        await this.folder.drop(this.session.room(size));
        this.session.took(sum, await this.folder.take(sum, req as AsyncIterable<Uint8Array>, size));
        this.tellState();
      }
      res.json({ sum });
    });
    router.use((_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }));
    router.use((error: Error, _req: Request, res: Response, next: NextFunction) => {
      if (!(error instanceof HostRefused)) return next(error);
      res.status(error.why === 'full' ? 507 : 400).json({ error: error.message });
    });
  }

  /** Takes a connection that asks to become a WebSocket. Who may ask is looked at before. */
  upgrade(req: IncomingMessage, socket: Duplex, head: Buffer): void {
    if (this.peers.size >= MOST) {
      socket.end('HTTP/1.1 503 Service Unavailable\r\nConnection: close\r\n\r\n');
      return;
    }
    this.sockets.handleUpgrade(req, socket, head, (ws) => this.meet(ws));
  }

  private meet(socket: WebSocket): void {
    const peer: Peer = { socket, name: 'somebody', left: BURST, at: this.clock() };
    this.peers.add(peer);
    socket.on('error', () => socket.terminate());
    socket.on('close', () => this.peers.delete(peer));
    socket.on('message', (data, isBinary) => {
      const now = this.clock();
      peer.left = Math.min(BURST, peer.left + ((now - peer.at) * EACH) / 1000) - 1;
      peer.at = now;
      if (peer.left < 0 || isBinary) return socket.close(1008, 'Too much at once');
      try {
        const text = (data as Buffer).toString('utf8');
        this.take(peer, checked<ToHost>(JSON.parse(text), validators.toHost, 'What was sent'));
      } catch (error) {
        socket.close(1007, (error as Error).message.slice(0, 120));
      }
    });
    this.say(peer, { type: 'state', version: 1, state: this.session.state });
    this.say(peer, { type: 'transport', transport: this.session.transport });
  }

  private take(peer: Peer, message: ToHost): void {
    if (message.type === 'hello') peer.name = message.name || peer.name;
    else if (message.type === 'ping') this.say(peer, { type: 'pong', sent: message.sent, time: this.clock() });
    else if (message.type === 'want') this.tell(message, peer);
    else this.turn = this.turn.then(() => this.act(peer, message)).catch(() => peer.socket.terminate());
  }

  private async act(peer: Peer, { id, action }: Extract<ToHost, { type: 'do' }>): Promise<void> {
    try {
      const running = this.session.transport;
      const done = this.session.act(id, action, peer.name, this.clock());
      // Told at once: a transport waits for no disk.
      if (this.session.transport !== running) this.tell({ type: 'transport', transport: this.session.transport });
      // What is answered is on the disk.
      if (done.step !== undefined || action.do === 'track') await this.keep(id);
      this.tellState();
      // Whoever hears that it was done has heard how things stand since.
      await new Promise((go) => setImmediate(go));
      this.say(peer, { type: 'done', id, ...done });
    } catch (error) {
      if (!(error instanceof HostRefused)) throw error;
      this.say(peer, { type: 'refused', id, why: error.why, reason: error.message });
    }
  }

  private async keep(id: string): Promise<void> {
    try {
      await this.folder.keep(this.session.whole);
    } catch {
      this.session.revert(id);
      throw new HostRefused('full', 'It could not be kept: its disk is full or out of reach. Nothing was changed.');
    }
  }

  private say({ socket }: Peer, message: FromHost): void {
    // Whoever takes nothing in is let go of, and can come again.
    if (socket.bufferedAmount > BEHIND) return socket.terminate();
    socket.send(JSON.stringify(message));
  }

  private tell(message: FromHost, but?: Peer): void {
    for (const peer of this.peers) if (peer !== but) this.say(peer, message);
  }

  private isTelling = false;
  /** Tells all how things stand: once, however much was changed at a time. */
  private tellState(): void {
    if (this.isTelling) return;
    this.isTelling = true;
    setImmediate(() => {
      this.isTelling = false;
      this.tell({ type: 'state', version: 1, state: this.session.state });
    });
  }

  close(): void {
    for (const { socket } of this.peers) socket.terminate();
    this.sockets.close();
  }
}
