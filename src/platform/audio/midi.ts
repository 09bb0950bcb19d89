import { readMidi, type KeyEvent } from '@core/engine';

/** An instrument that is connected. */
export interface Instrument {
  id: string;
  name: string;
}

/** What came of asking the browser for instruments. */
export type MidiState = 'unasked' | 'asking' | 'ready' | 'refused' | 'unknown to this browser';

/** Listens to MIDI instruments. Asks the browser only when somebody wants it. */
export class Midi {
  private access: MIDIAccess | undefined;
  private chosen = '';

  constructor(
    /** @param time when it came, as in `performance.now` */
    private readonly onEvent: (event: KeyEvent, time: number) => void,
    private readonly onChange: (state: MidiState, instruments: Instrument[]) => void,
  ) {}

  /** Asks for instruments, and listens to one, or to all when the id is empty. */
  async listen(id = ''): Promise<void> {
    this.chosen = id;
    if (this.access) return this.attach();
    if (!navigator.requestMIDIAccess) return this.onChange('unknown to this browser', []);
    this.onChange('asking', []);
    try {
      this.access = await navigator.requestMIDIAccess();
    } catch {
      return this.onChange('refused', []);
    }
    // An instrument that is plugged in later is heard as well.
    this.access.onstatechange = () => this.attach();
    this.attach();
  }

  private attach(): void {
    const inputs = [...this.access!.inputs.values()].filter((input) => input.state === 'connected');
    const named = inputs.map(({ id, name, manufacturer }) => ({ id, name: name ?? manufacturer ?? 'An instrument' }));
    for (const input of inputs) {
      const wanted = this.chosen === '' || this.chosen === input.id;
      input.onmidimessage = wanted ? (message) => this.read(message) : null;
    }
    this.onChange('ready', named);
  }

  private read({ data, timeStamp }: MIDIMessageEvent): void {
    const event = data && readMidi(data);
    if (event) this.onEvent(event, timeStamp);
  }
}
