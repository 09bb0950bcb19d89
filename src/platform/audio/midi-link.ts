import { readMachine, type MachineMessage } from '@core/scene';

/** A port of MIDI. */
export interface MidiPort {
  id: string;
  name: string;
}

export type LinkState = 'unasked' | 'asking' | 'ready' | 'refused' | 'unknown to this browser';

/** Talks with another machine over ports of MIDI: timecode and commands, in and out. Asks the browser only when somebody wants it. */
export class MidiLink {
  private access: MIDIAccess | undefined;
  private chosen = { input: '', output: '' };

  constructor(
    /** @param time when it came, as in `performance.now` */
    private readonly onMessage: (message: MachineMessage, time: number) => void,
    private readonly onChange: (state: LinkState, ports: { inputs: MidiPort[]; outputs: MidiPort[] }) => void,
  ) {}

  /** Asks for ports, whole messages of machines included. */
  async open(): Promise<void> {
    const none = { inputs: [], outputs: [] };
    if (this.access) return this.attach();
    if (!navigator.requestMIDIAccess) return this.onChange('unknown to this browser', none);
    this.onChange('asking', none);
    try {
      this.access = await navigator.requestMIDIAccess({ sysex: true });
    } catch {
      return this.onChange('refused', none);
    }
    this.access.onstatechange = () => this.attach();
    this.attach();
  }

  /** Chooses the ports that are listened to and spoken on; none where empty. */
  choose(input: string, output: string): void {
    this.chosen = { input, output };
    if (this.access) this.attach();
  }

  private attach(): void {
    const { inputs, outputs } = this.access!;
    const named = (ports: Iterable<MIDIPort>): MidiPort[] =>
      [...ports]
        .filter((p) => p.state === 'connected')
        .map(({ id, name, manufacturer }) => ({ id, name: name ?? manufacturer ?? 'A port' }));
    for (const input of inputs.values())
      input.onmidimessage = input.id === this.chosen.input ? ({ data, timeStamp }) => this.read(data, timeStamp) : null;
    this.onChange('ready', { inputs: named(inputs.values()), outputs: named(outputs.values()) });
  }

  private read(data: Uint8Array | null, time: number): void {
    const message = data && readMachine(data);
    if (message) this.onMessage(message, time);
  }

  /** Sends a message. @param at when, as in `performance.now`; at once when absent. @returns whether there is a port for it */
  send(bytes: number[], at?: number): boolean {
    const port = this.access?.outputs.get(this.chosen.output);
    if (port?.state !== 'connected') return false;
    port.send(bytes, at);
    return true;
  }

  /** Drops what was sent for later. */
  drop(): void {
    const port = this.access?.outputs.get(this.chosen.output) as (MIDIOutput & { clear?: () => void }) | undefined;
    port?.clear?.();
  }
}
