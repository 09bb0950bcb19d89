/** The lock of the tab that listens, and the channel by which it tells the others. */
const EVENTS = 'cormorant-team-events';

/** What the server tells of: which library or list changed. Nothing more is taken from it. */
export interface Heard {
  of?: unknown;
  id?: unknown;
}

/**
 * What a team's server tells as it happens. One tab hears it and tells the others: a browser has few connections to a server, and a
 * stream holds one for as long as it lasts.
 */
export class TeamStream {
  private readonly channel = new BroadcastChannel(EVENTS);
  private source: EventSource | undefined;
  private letGo: (() => void) | undefined;
  private isWaiting = false;

  /**
   * @param lost told while the server does not answer; @param refused told when the stream has ended and is not opened again by itself
   * @param isWanted whether anybody still listens once it is this tab's turn
   */
  constructor(
    private readonly hears: {
      heard: (told: Heard) => void;
      lost: () => void;
      refused: () => void;
      isWanted: () => boolean;
    },
  ) {
    this.channel.onmessage = ({ data }: MessageEvent<Heard>) => this.hears.heard(data);
  }

  /** Listens, once no other tab does. */
  listen(address: string): void {
    if (this.letGo && !this.source) return this.open(address);
    if (this.letGo || this.isWaiting) return;
    this.isWaiting = true;
    void navigator.locks.request(EVENTS, async () => {
      this.isWaiting = false;
      if (!this.hears.isWanted()) return;
      const over = new Promise<void>((done) => (this.letGo = done));
      this.open(address);
      await over;
    });
  }

  private open(address: string): void {
    const source = new EventSource(address, { withCredentials: true });
    this.source = source;
    source.onmessage = ({ data }) => {
      let told: Heard;
      try {
        told = JSON.parse(String(data)) as Heard;
      } catch {
        return;
      }
      this.channel.postMessage(told);
      this.hears.heard(told);
    };
    source.onerror = () => {
      if (source.readyState !== EventSource.CLOSED) return this.hears.lost();
      // Refused, as one is not signed in any more, or given up.
      this.source = undefined;
      this.hears.refused();
    };
  }

  /** Listens no more; another tab may. */
  end(): void {
    this.source?.close();
    this.source = undefined;
    this.letGo?.();
    this.letGo = undefined;
  }
}
