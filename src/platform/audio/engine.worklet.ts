import { Engine, type Command, type Status } from '@core/engine';

// The AudioWorklet's global scope, of which TypeScript's DOM library knows nothing.
declare const sampleRate: number;
/** When the block that is rendered now begins. Seconds. */
declare const currentTime: number;
declare function registerProcessor(name: string, processor: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

/** Blocks between two reports: about 60 a second. */
const REPORT_EVERY = 6;

/** What tells a report in silence from the one before; undefined while anything sounds. */
function stillness({ audition, keys, scene, peaks, captured, playId }: Status): string | undefined {
  const sounds = audition || keys.length > 0 || scene.playing || captured || peaks[0] + peaks[1] > 0;
  return sounds ? undefined : `${playId} ${scene.turn} ${scene.position} ${scene.missing}`;
}

/** Hosts the engine for listening. Commands come by the node's port, audio by a port of the loader's. */
class EngineHost extends AudioWorkletProcessor {
  private readonly engine = new Engine(sampleRate);
  private blocks = 0;
  private reported = 0;
  private still: string | undefined;

  constructor() {
    super();
    this.port.onmessage = ({ data }: MessageEvent<Command | { type: 'connect'; port: MessagePort }>) => {
      if (data.type !== 'connect') return this.engine.handle(data);
      data.port.onmessage = (event: MessageEvent<Command>) => this.engine.handle(event.data);
    };
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0];
    this.engine.render(left, right);
    const { beginnings } = this.engine;
    // The first block of a new sound is reported at once: it is what the hand waits for.
    if (beginnings !== this.reported) this.port.postMessage({ ...this.status(left.length), firstAt: Date.now() });
    else if (++this.blocks % REPORT_EVERY === 0) this.report(this.status(left.length));
    this.reported = beginnings;
    return true;
  }

  private status(count: number): Status {
    return { ...this.engine.status(), time: currentTime + count / sampleRate };
  }

  /** Silence is reported once: a page that nobody hears anything of costs nothing. */
  private report(status: Status): void {
    const still = stillness(status);
    if (still === undefined || still !== this.still) this.port.postMessage(status);
    this.still = still;
  }
}

registerProcessor('cormorant-engine', EngineHost);
