import type { HostItem, HostState } from '@core/schemas';

/** Plays a session with what the browser has: each item from its file, with its gain and fades. */
export class Sounding {
  private context: AudioContext | undefined;
  private readonly files = new Map<string, Promise<AudioBuffer>>();
  private playing: AudioBufferSourceNode[] = [];
  private turn = 0;

  /** @param base the address of the service */
  constructor(private readonly base: string) {}

  private buffer(sum: string): Promise<AudioBuffer> {
    const known = this.files.get(sum);
    if (known) return known;
    const read = fetch(`${this.base}v1/audio/${sum}`)
      .then((response) => response.arrayBuffer())
      .then((bytes) => this.context!.decodeAudioData(bytes));
    this.files.set(sum, read);
    read.catch(() => this.files.delete(sum));
    return read;
  }

  /** Plays all that lies behind a sample. @param at where it is now, asked once the files are here */
  async play({ items, rate }: HostState, at: () => number | undefined): Promise<void> {
    this.stop();
    const { turn } = this;
    this.context ??= new AudioContext();
    const context = this.context;
    await context.resume();
    const here = at() ?? 0;
    const coming = items.filter((i) => i.at + i.length > here);
    const buffers = await Promise.all(coming.map((i) => this.buffer(i.file).catch(() => undefined)));
    const from = at();
    if (turn !== this.turn || from === undefined) return;
    const now = context.currentTime;
    coming.forEach((item, i) => {
      const buffer = buffers[i];
      if (buffer) this.playing.push(this.start(context, item, buffer, (item.at - from) / rate + now, now, rate));
    });
  }

  private start(context: AudioContext, item: HostItem, buffer: AudioBuffer, when: number, now: number, rate: number) {
    const source = new AudioBufferSourceNode(context, { buffer });
    const level = 10 ** (item.gain / 20);
    const gain = new GainNode(context, { gain: level });
    const [late, seconds] = [Math.max(0, now - when), item.length / rate];
    const [rises, falls] = [item.fadeIn / rate, item.fadeOut / rate];
    /** How far it is faded at a moment of it. */
    const faded = (t: number) =>
      Math.min(1, rises > 0 ? t / rises : 1, falls > 0 ? Math.max(0, (seconds - t) / falls) : 1) * level;
    gain.gain.setValueAtTime(faded(late), when + late);
    if (rises > late) gain.gain.linearRampToValueAtTime(level, when + rises);
    if (falls > 0) {
      const begins = Math.max(late, seconds - falls);
      gain.gain.setValueAtTime(faded(begins), when + begins);
      gain.gain.linearRampToValueAtTime(0, when + seconds);
    }
    source.connect(gain).connect(context.destination);
    if (seconds > late) source.start(when + late, item.from / rate + late, seconds - late);
    return source;
  }

  stop(): void {
    this.turn++;
    for (const source of this.playing) source.disconnect();
    this.playing = [];
  }
}
