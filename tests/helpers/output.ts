// An audio output that is rendered by hand: the engine's worklet in it is the real one, the device and the browser are stand-ins.

interface Port {
  onmessage?: ((event: { data: unknown }) => void) | null;
  postMessage(data: unknown): void;
  close(): void;
}
/** Two ports of which each hands over to the other at once; what comes before anybody listens waits. */
function ports(): [Port, Port] {
  const made = [0, 1].map((): Port & { waiting: unknown[] } => ({
    waiting: [],
    postMessage: () => undefined,
    close: () => undefined,
  }));
  made.forEach((port, i) => {
    const other = made[1 - i];
    let heard: Port['onmessage'];
    Object.defineProperty(port, 'onmessage', {
      get: () => heard,
      set: (listener: Port['onmessage']) => {
        heard = listener;
        for (const data of port.waiting.splice(0)) listener?.({ data });
      },
    });
    port.postMessage = (data) => (other.onmessage ? other.onmessage({ data }) : void other.waiting.push(data));
  });
  return [made[0], made[1]];
}

type Host = { process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean };
let hostPort: Port;
let Hosted: new () => Host;

/** The output of a device, as browsers offer it; every one that was opened is listed. */
export class StandInOutput {
  static opened: StandInOutput[] = [];
  /** Why the next outputs cannot be opened. */
  static refusal: string | undefined;
  static get newest(): StandInOutput {
    return StandInOutput.opened[StandInOutput.opened.length - 1];
  }

  state = 'running';
  readonly sampleRate: number;
  readonly baseLatency = 0;
  readonly outputLatency = 0;
  currentTime = 0;
  onstatechange: (() => void) | null = null;
  resumed = 0;
  /** Why it does not go on. */
  stuck: string | undefined;
  host: Host | undefined;
  /** Reports of the engine so far. */
  reports = 0;
  private readonly listeners: [string, () => void][] = [];
  readonly destination = {};
  readonly audioWorklet = {
    addModule: () =>
      StandInOutput.refusal ? Promise.reject(new Error(StandInOutput.refusal)) : Promise.resolve(undefined),
  };

  constructor({ sampleRate }: { sampleRate: number }) {
    this.sampleRate = sampleRate;
    StandInOutput.opened.push(this);
  }
  addEventListener(type: string, listener: () => void): void {
    this.listeners.push([type, listener]);
  }
  /** Something happens to the device. */
  happens(type: string): void {
    for (const [on, listener] of this.listeners) if (on === type) listener();
  }
  turns(state: string): void {
    this.state = state;
    this.onstatechange?.();
  }
  resume(): Promise<void> {
    this.resumed++;
    if (this.stuck) return Promise.reject(new Error(this.stuck));
    this.state = 'running';
    return Promise.resolve();
  }
  close(): Promise<void> {
    this.turns('closed');
    return Promise.resolve();
  }
  /** What comes out next, left and right. */
  render(frames: number): Float32Array[] {
    const out = [new Float32Array(frames), new Float32Array(frames)];
    for (let at = 0; at < frames; at += 128) {
      Object.assign(globalThis, { currentTime: this.currentTime });
      this.host?.process([], [out.map((p) => p.subarray(at, at + 128))]);
      this.currentTime += 128 / this.sampleRate;
    }
    return out;
  }
  /** Seconds from the engine to the ear. */
  static way = 0;
  /** At 1000 ms of the clock on the wall, what left the engine so long ago is heard. */
  getOutputTimestamp(): { contextTime: number; performanceTime: number } {
    return { contextTime: this.currentTime - StandInOutput.way, performanceTime: 1000 };
  }
}

/** Puts the stand-ins where the browser has its own; the engine's worklet is loaded into them. */
export async function standInOutputs(): Promise<void> {
  class Processor {
    readonly port = hostPort;
  }
  class Node {
    readonly port: Port;
    constructor(context: StandInOutput) {
      const [own, theirs] = ports();
      this.port = own;
      hostPort = theirs;
      context.host = new Hosted();
      const { postMessage } = theirs;
      theirs.postMessage = (data) => {
        context.reports++;
        postMessage(data);
      };
    }
    connect(): void {
      // There is one way out.
    }
  }
  class Channel {
    readonly port1: Port;
    readonly port2: Port;
    constructor() {
      [this.port1, this.port2] = ports();
    }
  }
  Object.assign(globalThis, {
    sampleRate: 48000,
    currentTime: 0,
    AudioWorkletProcessor: Processor,
    registerProcessor: (_name: string, made: new () => Host) => (Hosted = made),
    AudioContext: StandInOutput,
    AudioWorkletNode: Node,
    MessageChannel: Channel,
    addEventListener: () => undefined,
  });
  await import('@platform/audio/engine.worklet');
}
